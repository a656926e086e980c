import { z } from 'zod'
import { cell } from '../../db/rows'
import { createHash } from 'node:crypto'
import { pauseAfter, SIGN_IN_LIMITS } from '../../../core/people/signIn'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'
import { ProblemError } from '../common/problems'
import { isRight, NOBODY } from './passwords'
import { findByEmail } from './people'
import type { Actor } from './scope'

type Counted = keyof typeof SIGN_IN_LIMITS

/** A count begins anew after an hour without a try. */
const FORGOTTEN = '1 HOUR'
/** Who signed in from a network lately is not slowed by what others do there, or elsewhere by their name. */
const KNOWN = '30 DAY'

const NOW = 'CAST(COALESCE(:now, UTC_TIMESTAMP(3)) AS DATETIME(3))'

const keyOf = (counted: Counted, ...parts: string[]) =>
  createHash('sha256')
    .update(JSON.stringify([counted, ...parts]))
    .digest('hex')

/**
 * Checks e-mail and password. Each try is counted before it is looked at, so that many at once are as many;
 * after too many wrong ones the next is let through only after a pause. Throws 401, or 429 with the pause.
 * The database's clock counts, the same for all servers; `at` (UTC, "2026-11-27 08:00:00.000") stands for it.
 */
export async function signIn(
  database: Handle,
  email: string,
  password: string,
  network: string,
  at?: string,
): Promise<{ actor: Actor; mustChange: boolean }> {
  const name = email.trim().toLowerCase()
  const keys: Record<Counted, string> = {
    pair: keyOf('pair', name, network),
    name: keyOf('name', name),
    network: keyOf('network', network),
  }
  const seconds = await countTry(database, keys, at)
  if (seconds > 0) {
    const pause = seconds < 90 ? `${seconds} seconds` : `${Math.ceil(seconds / 60)} minutes`
    throw new ProblemError(
      429,
      'Too many attempts',
      `too many sign-ins failed: wait ${pause} and try again`,
      [],
      seconds,
    )
  }
  const person = await findByEmail(database, email)
  const right = await isRight(password, person?.passwordHash ?? NOBODY)
  if (!person || !right || !person.active)
    throw new ProblemError(
      401,
      'Not signed in',
      'this e-mail and password do not belong together: check both',
      [{ path: 'password', message: 'e-mail or password is wrong' }],
    )
  await countRight(database, keys, at)
  await audit(database, person.id, 'session', person.email, null, `signed in from ${network}`)
  const { id, role, mustChange } = person
  return { actor: { id, name: person.name, email: person.email, role }, mustChange: Boolean(mustChange) }
}

const countRow = z.object({
  about: cell.text,
  tries: cell.whole,
  known: cell.whole,
  wait: cell.sum,
})
/** Counts a try in all three counts; answers the seconds to wait, 0 when it may pass. */
function countTry(database: Handle, keys: Record<Counted, string>, at?: string): Promise<number> {
  const now = at ?? null
  // One order of rows for everybody: tries at once wait for each other, in line.
  const list = (Object.keys(keys) as Counted[]).sort((a, b) => (keys[a] < keys[b] ? -1 : 1))
  return database.transaction(async tx => {
    for (const counted of list)
      await tx.run(
        `INSERT INTO sign_in_count (about, tries, last_at) VALUES (:about, 1, ${NOW})
          ON DUPLICATE KEY UPDATE
            tries = IF(last_at < ${NOW} - INTERVAL ${FORGOTTEN}, 1, LEAST(tries + 1, 1000000)),
            last_at = ${NOW}`,
        { about: keys[counted], now },
      )
    const rows = await tx.rows(
      countRow,
      `SELECT about, tries, COALESCE(right_at > ${NOW} - INTERVAL ${KNOWN}, 0) AS known,
        CEIL(TIMESTAMPDIFF(MICROSECOND, ${NOW}, barred_until) / 1000000) AS wait
        FROM sign_in_count WHERE about IN (:abouts) FOR UPDATE`,
      { abouts: list.map(c => keys[c]), now },
    )
    const row = (counted: Counted) => rows.find(r => r.about === keys[counted])!
    const counts: Counted[] = row('pair').known ? ['pair'] : list
    const wait = Math.max(0, ...counts.map(c => Number(row(c).wait ?? 0)))
    if (wait > 0) return wait
    for (const counted of list)
      await tx.run(
        `UPDATE sign_in_count SET barred_until = IF(:pause > 0, ${NOW} + INTERVAL :pause SECOND,
          NULL) WHERE about = :about`,
        { about: keys[counted], pause: pauseAfter(row(counted).tries, SIGN_IN_LIMITS[counted]), now },
      )
    return 0
  })
}

/** A right password clears the counts of its name; of the network it only takes itself back. */
async function countRight(database: Handle, keys: Record<Counted, string>, at?: string): Promise<void> {
  await database.run(
    `UPDATE sign_in_count SET tries = 0, barred_until = NULL, right_at = ${NOW}
      WHERE about IN (:abouts)`,
    { abouts: [keys.pair, keys.name], now: at ?? null },
  )
  await database.run(
    `UPDATE sign_in_count SET tries = GREATEST(0, tries - 1),
      barred_until = IF(tries < :free, NULL, barred_until) WHERE about = :about`,
    { about: keys.network, free: SIGN_IN_LIMITS.network.free },
  )
}
