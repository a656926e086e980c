import { z } from 'zod'
import { cell } from '../../db/rows'
import { now } from '../../db/where'
import { createHash, randomBytes } from 'node:crypto'
import type { Role } from '../../../core/people'
import type { OpenSession } from '../../../contract/people'
import type { Handle } from '../../db/handle'
import { audit, type Access } from '../../db/settings'
import { notFound } from '../common/problems'
import type { Actor } from './scope'

/*
 * Sessions are rows, so any process knows them and any can end them. The cookie holds a random token, the row
 * only its hash: who reads the database cannot sign in with what is there.
 */

export interface SignedIn {
  sessionId: number
  actor: Actor
  /** The password was given by somebody else: nothing else may be done before it is changed. */
  mustChange: boolean
}

const hashOf = (token: string) => createHash('sha256').update(token).digest('hex')

/** Where a session is opened from. */
export interface From {
  network: string
  agent: string
}

/** Opens a session; answers what its cookie holds. */
export async function openSession(database: Handle, personId: number, from: From): Promise<string> {
  const token = randomBytes(32).toString('base64url')
  await database.insert('session', [
    {
      token_hash: hashOf(token),
      person_id: personId,
      network: from.network.slice(0, 64),
      agent: from.agent.slice(0, 200),
    },
  ])
  return token
}

/** A session lives until nothing was asked for so long, or until so long after sign-in. */
const LIVES = `s.used_at > UTC_TIMESTAMP(3) - INTERVAL :idle MINUTE
  AND s.at > UTC_TIMESTAMP(3) - INTERVAL :absolute HOUR`
const livingFor = ({ idleMinutes, absoluteHours }: Access) => ({
  idle: idleMinutes,
  absolute: absoluteHours,
})

const sessionRow = z.object({
  sessionId: cell.whole,
  isStale: cell.whole,
  id: cell.whole,
  name: cell.text,
  email: cell.text,
  role: cell.word<Role>(),
  mustChange: cell.whole,
})
export async function findSession(
  database: Handle,
  token: string,
  access: Access,
): Promise<SignedIn | undefined> {
  const [row] = await database.rows(
    sessionRow,
    `SELECT s.id AS sessionId, s.used_at < UTC_TIMESTAMP(3) - INTERVAL 1 MINUTE AS isStale, p.id, p.name,
      p.email, p.role, p.must_change AS mustChange
      FROM session s JOIN person p ON p.id = s.person_id
      WHERE s.token_hash = :hash AND p.active = 1 AND ${LIVES}`,
    { hash: hashOf(token), ...livingFor(access) },
  )
  if (!row) return undefined
  const { sessionId, isStale, mustChange, ...actor } = row
  if (isStale) await database.update('session', { used_at: now() }, { id: sessionId })
  return { sessionId, actor, mustChange: Boolean(mustChange) }
}

export async function endSession(database: Handle, token: string): Promise<void> {
  await database.remove('session', { token_hash: hashOf(token) })
}

/** Ends every session of a person: their role, access or password changed. */
export async function endSessionsOf(database: Handle, personId: number): Promise<void> {
  await database.remove('session', { person_id: personId })
}

const listSessionsRow = z.object({
  id: cell.whole,
  at: cell.text,
  network: cell.text,
  agent: cell.text,
  usedAt: cell.text,
})

/** Where a person is signed in, the last used first. */
export async function listSessions(
  database: Handle,
  actor: Actor,
  currentId: number,
  access: Access,
): Promise<{ items: OpenSession[] }> {
  const rows = await database.rows(
    listSessionsRow,
    `SELECT s.id, s.network, s.agent, s.at, s.used_at AS usedAt FROM session s
      WHERE s.person_id = :personId AND ${LIVES} ORDER BY s.used_at DESC, s.id DESC LIMIT 200`,
    { personId: actor.id, ...livingFor(access) },
  )
  return { items: rows.map(r => ({ ...r, current: r.id === currentId })) }
}

/** Ends one of a person's own sessions, on a machine they left. */
export async function endOwnSession(database: Handle, actor: Actor, id: number): Promise<void> {
  const affectedRows = await database.remove('session', { id, person_id: actor.id })
  if (!affectedRows) throw notFound(`session ${id}`, 'it may have ended already')
  await audit(database, actor.id, 'session', actor.email, 'open', 'ended from elsewhere')
}

/** Rows that let nobody in any more. */
export async function tidySessions(database: Handle, access: Access): Promise<void> {
  await database.run(`DELETE s FROM session s WHERE NOT (${LIVES})`, livingFor(access))
  await database.run('DELETE FROM sign_in_count WHERE last_at < UTC_TIMESTAMP(3) - INTERVAL 31 DAY')
}
