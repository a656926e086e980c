import { z } from 'zod'
import { cell } from '../../../db/rows'
import { Op } from '../../../db/where'
import { circle } from '../../../../core/accounts'
import { int } from '../../../db/connection'
import type { Handle } from '../../../db/handle'
import { takeLocks } from '../../../ledger/locks'
import { ProblemError } from '../../common/problems'
import type { Actor } from '../../people/scope'
import { writeFields } from './limit'
import { masterRow, type MasterRow } from './read'
import { parentsOf, settleHeads } from './references'

const refused = (why: string, satisfy: string) =>
  new ProblemError(409, 'Not one', why, [{ path: 'into', message: why, satisfy }])

function check(from: MasterRow, into: MasterRow): void {
  if (from.id === into.id) throw refused(`${from.number} is ${into.number} already`, 'choose another')
  for (const { number, mergedInto } of [from, into])
    if (mergedInto !== null) throw refused(`${number} is ${mergedInto} now`, `use ${mergedInto}`)
  if (into.closedOn !== null) throw refused(`${into.number} is closed`, 'open it again first')
  if (from.currency !== into.currency)
    throw refused(
      `${from.number} is kept in ${from.currency} and ${into.number} in ${into.currency}`,
      'two accounts of one company in two currencies stay two: put one under the other',
    )
}

/** What hangs on a customer beside the ledger, and goes over as it is. */
export const ALONG = [
  'note',
  'pause',
  'notice',
  'outbox',
  'contact',
  'batch_receipt',
  'waiting_command',
  'sales_order',
  'promise',
  'dispute',
  'call_log',
  'message',
  'attachment',
  'sent_letter',
  'inbox',
  'handover',
  'run_notice',
  'run_left_out',
  'refund',
  'mandate',
  'collection',
  'collection_left_out',
  'write_off',
  'allowance_case',
  'factor_item',
  'insolvency_claim',
] as const

const mergeCustomersRow = z.object({
  n: cell.sum,
})

/**
 * Makes two records of one customer one. Items, allocations, journal, notes, notices and orders go over; the
 * old number still finds the account. No amount, date or number changes: the same debts, of the same debtor.
 * What is posted may only be added to, so this one change of whose it is goes through a procedure of the
 * owner.
 */
export async function mergeCustomers(
  database: Handle,
  actor: Actor,
  number: string,
  body: { into: string; reason: string },
): Promise<{ number: string; items: number }> {
  const ids = [await masterRow(database, number, {}), await masterRow(database, body.into, {})].map(r => r.id)
  return database.transaction(async tx => {
    // Nothing is posted meanwhile, by anybody.
    await takeLocks(tx, { settings: 'change', customers: ids })
    const from = await masterRow(tx, number, {})
    const into = await masterRow(tx, body.into, {})
    check(from, into)
    const values = { from: from.id, into: into.id }
    const [count] = await tx.rows(
      mergeCustomersRow,
      'SELECT COUNT(*) AS n FROM item WHERE customer_id = :from',
      values,
    )
    await tx.run('CALL merge_customer(:from, :into)', values)
    await tx.update('open_item', { customer_id: values.into }, { customer_id: values.from })
    await tx.run(
      `INSERT INTO account_total (customer_id, currency, debit, credit, base_debit, base_credit)
        SELECT :into, currency, debit, credit, base_debit, base_credit FROM account_total t
        WHERE customer_id = :from ON DUPLICATE KEY UPDATE debit = account_total.debit + VALUES(debit),
          credit = account_total.credit + VALUES(credit), base_debit = account_total.base_debit + VALUES(base_debit),
          base_credit = account_total.base_credit + VALUES(base_credit)`,
      values,
    )
    await tx.remove('account_total', { customer_id: values.from })
    await tx.run(
      `INSERT INTO payer_habit (customer_id, kind, amount, times)
        SELECT :into, kind, amount, times FROM payer_habit h WHERE customer_id = :from
        ON DUPLICATE KEY UPDATE times = payer_habit.times + VALUES(times)`,
      values,
    )
    await tx.remove('payer_habit', { customer_id: values.from })
    await tx.run('UPDATE IGNORE payer_learnt SET customer_id = :into WHERE customer_id = :from', values)
    await tx.remove('payer_learnt', { customer_id: values.from })
    // One hold of a cause at a time: where both are held for the same, that of the record that stays is kept.
    await tx.run(
      `UPDATE hold f JOIN hold i ON i.customer_id = :into AND i.open_cause = f.open_cause
        SET f.ended_at = UTC_TIMESTAMP(3), f.ended_on = f.on_date, f.end_reason = 'one with another account' WHERE f.customer_id = :from`,
      values,
    )
    await tx.update('hold', { customer_id: values.into }, { customer_id: values.from })
    for (const table of ALONG)
      await tx.run(`UPDATE ${table} SET customer_id = :into WHERE customer_id = :from`, values)
    // Whoever stands under both, however deep, must not end in a circle.
    const isAbove = circle(await parentsOf(tx), from.id, into.id) !== null
    if (isAbove) await tx.update('customer', { parent_id: from.parentId }, { id: values.into })
    await tx.update(
      'customer',
      { parent_id: values.into },
      { parent_id: values.from, id: { [Op.ne]: values.into } },
    )
    await tx.update('customer', { merged_into: values.into, parent_id: null }, { id: values.from })
    await tx.update('customer', { merged_into: values.into }, { merged_into: values.from })
    await settleHeads(tx)
    await tx.insert('customer_merge', [
      { from_id: from.id, into_id: into.id, person_id: actor.id, reason: body.reason },
    ])
    const told = (field: string, after: string) => ({
      reason: body.reason,
      fields: [{ field, before: '', after }],
    })
    await writeFields(tx, actor, from, {}, told('Is one with', into.number))
    await writeFields(tx, actor, into, {}, told('Took over', from.number))
    return { number: into.number, items: int(count!.n) }
  })
}
