import type { LeftOut, Notice } from '../../../core/reminders'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import type { Progress } from '../documents/imports'
import { basisOf, chosenFor, CUSTOMERS_AT_ONCE, proposeFor } from './proposal'
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
  await database.run('DELETE FROM run_notice WHERE run_id = :id', { id })
  await database.run('DELETE FROM run_left_out WHERE run_id = :id', { id })
  let notices = 0
  for (let at = 0; at < chosen.length; at += CUSTOMERS_AT_ONCE) {
    await progress?.('proposing', at, chosen.length)
    const part = await proposeFor(database, settings, basis, chosen.slice(at, at + CUSTOMERS_AT_ONCE))
    const ids = new Map(part.customers.map(c => [c.number, c.id]))
    await database.transaction(async tx => {
      await tx.insert('run_notice', noticeRows(id, ids, part.notices))
      await tx.insert('run_left_out', leftOutRows(id, ids, part.leftOut))
    })
    notices += part.notices.length
  }
  await database.transaction(async tx => {
    await takeLocks(tx, { runs: [id] })
    await tx.run(
      `UPDATE reminder_run SET state = 'proposed', job_id = NULL WHERE id = :id AND state = 'preparing'`,
      { id },
    )
  })
  return { isLarge: false, notices }
}
