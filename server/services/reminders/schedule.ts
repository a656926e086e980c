import { z } from 'zod'
import { cell } from '../../db/rows'
import { Op, plus } from '../../db/where'
import { isScheduled, type Edits } from '../../../core/reminders'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { findActor } from '../people/people'
import type { Actor } from '../people/scope'
import { confirmRun } from './confirm'
import { readRun } from './runs'
import { workOut } from './workOut'

const claimRow = z.object({
  id: cell.whole,
  stuck: cell.whole,
})

/** A run of a day is made once, by whichever process comes first: the settings are held while it looks. */
async function claim(database: Handle, actor: Actor, policy: string, day: string): Promise<number | null> {
  return database.transaction(async tx => {
    await takeLocks(tx, { settings: 'change' })
    const [there] = await tx.rows(
      claimRow,
      `SELECT id, state = 'preparing' AND at < UTC_TIMESTAMP(3) - INTERVAL 10 MINUTE AS stuck
        FROM reminder_run WHERE prepared = 'schedule' AND as_of = :day ORDER BY id LIMIT 1`,
      { day },
    )
    // One that was begun long ago and never finished is worked out again.
    if (there) return there.stuck ? there.id : null
    const [id] = await tx.insert('reminder_run', [
      { as_of: day, kind: 'reminder', policy, state: 'preparing', prepared: 'schedule', person_id: actor.id },
    ])
    return id!
  })
}

const REASON = 'waits for a person'

/** Of a prepared run the first level goes out; the rest waits in a run of its own. */
async function sendFirstLevel(database: Handle, actor: Actor, id: number): Promise<void> {
  const rows = await database.find(
    'run_notice',
    { run_id: id },
    { columns: { key: 'key_text', level: 'level' } },
  )
  if (!rows.some(r => r.level === 1)) return
  const higher = rows.filter(r => r.level > 1)
  const edits: Edits = Object.fromEntries(higher.map(r => [r.key, { leaveOut: REASON }]))
  await database.transaction(async tx => {
    await takeLocks(tx, { runs: [id] })
    await tx.update('run_notice', { included: 0 }, { run_id: id, level: { [Op.gt]: 1 } })
    await tx.update('reminder_run', { edits: JSON.stringify(edits), version: plus('version', 1) }, { id })
  })
  const { version, asOf, policy } = await readRun(database, id)
  await confirmRun(database, actor, id, { version })
  if (!higher.length) return
  const [rest] = await database.insert('reminder_run', [
    { as_of: asOf, kind: 'reminder', policy, state: 'preparing', prepared: 'rest', person_id: actor.id },
  ])
  await workOut(database, rest!)
}

/** Prepares the weekly run on its day; a person confirms it, but for the first level if the house says so. */
export async function prepareScheduled(database: Handle): Promise<number | null> {
  const { today, reminderSchedule: schedule } = await readSettings(database)
  if (!schedule || !isScheduled(schedule, today)) return null
  const actor = await findActor(database, schedule.personId)
  if (!actor) return null
  const id = await claim(database, actor, schedule.policy, today)
  if (id === null) return null
  await workOut(database, id)
  const { totals } = await readRun(database, id)
  if (!totals.notices)
    await database.update('reminder_run', { state: 'discarded' }, { id, state: 'proposed' })
  else if (schedule.levelOneBySelf) await sendFirstLevel(database, actor, id)
  return id
}

const EVERY_MS = 10_000

/** Looks now and then whether the day of the schedule has come. */
export function scheduleKeeper(database: Handle): () => Promise<void> {
  let looked = 0
  return async () => {
    if (Date.now() - looked < EVERY_MS) return
    looked = Date.now()
    await prepareScheduled(database)
  }
}
