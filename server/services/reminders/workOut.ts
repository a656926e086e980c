import type { LeftOut, Notice } from '../../../core/reminders'
import { chunksOf, type Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import type { Progress } from '../documents/imports'
import { basisOf, chosenFor, CUSTOMERS_AT_ONCE, proposeFor, type Part } from './proposal'
import { runRow } from './runs'

/** The rows of proposed notices. */
export const noticeRows = (
  runId: number,
  customerIds: ReadonlyMap<string, number>,
  notices: readonly Notice[],
  included = 1,
) =>
  notices.map(n => ({
    run_id: runId,
    key_text: n.key,
    customer_id: customerIds.get(n.customer.number)!,
    currency: n.currency,
    level: n.level,
    total: n.total,
    fee: n.fee,
    interest: n.interest,
    channel: n.channel,
    included,
    warnings: n.warnings.length,
    notice: JSON.stringify(n),
  }))

export const leftOutRows = (
  runId: number,
  customerIds: ReadonlyMap<string, number>,
  lines: readonly LeftOut[],
) =>
  lines.map(l => ({
    run_id: runId,
    customer_id: customerIds.get(l.customer.number)!,
    item: l.item,
    currency: l.currency,
    open: l.open,
    rule: l.rule,
    reason: l.reason.slice(0, 300),
  }))

/** So many notices go to the database at once. */
const NOTICES_AT_ONCE = 250

async function keepPart(database: Handle, id: number, part: Part): Promise<void> {
  const ids = new Map(part.customers.map(c => [c.number, c.id]))
  await database.transaction(async tx => {
    for (const some of chunksOf(part.notices, NOTICES_AT_ONCE))
      await tx.insert('run_notice', noticeRows(id, ids, some))
    await tx.insert('run_left_out', leftOutRows(id, ids, part.leftOut))
  })
}

/**
 * Works out the proposal of a run and keeps it, some customers at a time, so that neither memory nor a
 * transaction grows with the ledger. Begun again after a crash it starts from nothing. With `most`, a run of
 * more customers is left for a job: `isLarge`.
 */
export async function workOut(
  database: Handle,
  id: number,
  { most = null, progress }: { most?: number | null; progress?: Progress } = {},
): Promise<{ isLarge: boolean; notices: number }> {
  const settings = await readSettings(database)
  const run = await runRow(database, id)
  if (run.state !== 'preparing') return { isLarge: false, notices: 0 }
  const chosen = await chosenFor(database, run)
  if (most !== null && chosen.length > most) return { isLarge: true, notices: 0 }
  const basis = await basisOf(database, run, run.edits)
  await database.remove('run_notice', { run_id: id })
  await database.remove('run_left_out', { run_id: id })
  let notices = 0
  // What is worked out is kept while the next customers are: the database and we work side by side.
  let keeping: Promise<void> = Promise.resolve()
  for (let at = 0; at < chosen.length; at += CUSTOMERS_AT_ONCE) {
    await progress?.('proposing', at, chosen.length)
    const [part] = await Promise.all([
      proposeFor(database, settings, basis, chosen.slice(at, at + CUSTOMERS_AT_ONCE)),
      keeping,
    ])
    keeping = keepPart(database, id, part)
    notices += part.notices.length
  }
  await keeping
  await database.transaction(async tx => {
    await takeLocks(tx, { runs: [id] })
    await tx.update('reminder_run', { state: 'proposed', job_id: null }, { id, state: 'preparing' })
  })
  return { isLarge: false, notices }
}
