import { z } from 'zod'
import { cell } from '../../db/rows'
import { can } from '../../../core/people'
import { decidePutRight, type OldMeans } from '../../../core/receipts'
import { id } from '../../../contract/common'
import { putRightBody, type Posted } from '../../../contract/receipts'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command } from '../../ledger/command'
import { loadLines, loadState } from '../../ledger/load'
import { findCustomer, idOfCustomer } from '../accounts/customers'
import { markMet } from '../banking/met'
import type { Actor } from '../people/scope'
import { accountOfReceipt } from './commands'

const meansOfRow = z.object({
  id: cell.whole,
  means: z.enum(['cash', 'cheque', 'card', 'transfer', 'debit']),
  amount: cell.whole,
  slip: cell.text.nullable(),
  account: cell.text,
  reference: cell.text,
  settled: cell.whole,
})

/** The payment means of a receipt, and what of them the bank has. */
async function meansOf(db: Handle, itemId: number): Promise<OldMeans[]> {
  const rows = await db.rows(
    meansOfRow,
    `SELECT m.id, m.means, m.amount, m.reference, m.account,
      (SELECT s.number FROM slip_means sm JOIN slip s ON s.id = sm.slip_id
        WHERE sm.means_id = m.id AND s.void_entry_id IS NULL) AS slip,
      EXISTS (SELECT 1 FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id
        WHERE ((t.kind = 'means' AND t.ref_id = m.id) OR (t.kind = 'receipt' AND t.ref_id = m.item_id))
        AND b.undone_entry_id IS NULL) AS settled
      FROM receipt_means m WHERE m.item_id = :itemId ORDER BY m.id`,
    { itemId },
  )
  return rows.map(r => ({ ...r, settled: Boolean(Number(r.settled)) }))
}

const followersRow = z.object({
  id: cell.whole,
})

/** Slips and bank lines that hold money of a receipt: they follow it to the receipt it then belongs to. */
async function followers(db: Handle, itemId: number): Promise<{ slips: number[]; bankLines: number[] }> {
  const slips = await db.rows(
    followersRow,
    `SELECT DISTINCT sm.slip_id AS id FROM slip_means sm JOIN receipt_means m ON m.id = sm.means_id
      WHERE m.item_id = :itemId`,
    { itemId },
  )
  const lines = await db.rows(
    followersRow,
    `SELECT DISTINCT b.line_id AS id FROM bank_match b JOIN bank_match_target t ON t.match_id = b.id
      WHERE (t.kind = 'receipt' AND t.ref_id = :itemId)
      OR (t.kind = 'means' AND t.ref_id IN (SELECT m.id FROM receipt_means m WHERE m.item_id = :itemId))`,
    { itemId },
  )
  return { slips: slips.map(s => s.id), bankLines: lines.map(l => l.id) }
}

/** A wrong customer, date, reference or amount of a receipt, put right. */
export const putRightCommand = command({
  name: 'receipts.putRight',
  ability: 'receipts.correct',
  input: putRightBody.extend({ itemId: id }),
  locks: async (db, input) => {
    const from = await accountOfReceipt(db, input.itemId)
    const means = await db.find('receipt_means', { item_id: input.itemId }, { columns: ['id'] })
    return {
      ...(await followers(db, input.itemId)),
      means: means.map(m => m.id),
      customers: [from.id, ...(input.customer ? [await idOfCustomer(db, input.customer)] : [])],
    }
  },
  load: async (db, input, { settings, actor }: { settings: Settings; actor: Actor }) => {
    const from = await accountOfReceipt(db, input.itemId)
    const customer = await findCustomer(db, from.number, {})
    const target = input.customer ? await findCustomer(db, input.customer, {}) : customer
    const [old] = await db.find(
      'item',
      { id: input.itemId },
      { columns: { date: 'document_date', text: 'text' } },
    )
    const ledger = await loadState(
      db,
      {
        customerIds: [from.id, target.id],
        linksOf: [input.itemId],
        rates: [{ currency: from.currency, date: input.date ?? old!.date }],
      },
      settings,
    )
    return {
      ledger,
      customer,
      itemId: input.itemId,
      customerId: target.id,
      text: old!.text,
      means: await meansOf(db, input.itemId),
      lines: await loadLines(db, input.itemId),
      lateDiscount: can(actor.role, 'discount.authorise'),
    }
  },
  decide: decidePutRight,
  after: async ({ db, input, state, postings, written, actor }): Promise<Posted> => {
    const rows = postings.flatMap((p, i) =>
      p.items.map((item, n) => ({ kind: item.kind, row: written[i]!.items[n]! })),
    )
    const receipt = rows.find(x => x.kind === 'receipt')!.row
    await follow(db, input.itemId, state.means, receipt.id)
    await db.insert('put_right', [
      { old_item_id: input.itemId, new_item_id: receipt.id, person_id: actor.id },
    ])
    return { entry: written[0]!.entryNumber, receipt, allocations: written.flatMap(w => w.allocations) }
  },
  about: input => String(input.itemId),
})

/** Slip and bank line follow the money to the receipt it now belongs to. */
async function follow(db: Handle, oldItem: number, old: readonly OldMeans[], newItem: number): Promise<void> {
  const fresh = await db.find('receipt_means', { item_id: newItem }, { columns: ['id'], order: ['id'] })
  for (const [i, m] of old.entries()) {
    const ids = { old: m.id, fresh: fresh[i]!.id }
    await db.update('slip_means', { means_id: ids.fresh }, { means_id: ids.old })
    await db.update('bank_match_target', { ref_id: ids.fresh }, { kind: 'means', ref_id: ids.old })
  }
  await markMet(db, [...old.map(m => m.id), ...fresh.map(m => m.id)])
  await db.update('bank_match_target', { ref_id: newItem }, { kind: 'receipt', ref_id: oldItem })
}
