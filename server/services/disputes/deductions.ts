import type { Handle } from '../../db/handle'

/** A deduction lives as long as the payment it came with is linked to the item, and the item is open. */
const LIVE = `d.withdrawn_at IS NULL AND EXISTS (SELECT 1 FROM open_item o WHERE o.item_id = d.item_id)
  AND (SELECT SUM(a.amount) FROM allocation a WHERE a.debit_item_id = d.item_id
    AND a.credit_item_id = d.receipt_item_id) > 0`
export const disputedSql = (item: string) =>
  `EXISTS (SELECT 1 FROM deduction d WHERE d.item_id = ${item} AND ${LIVE})`

export interface NewDeduction {
  itemId: number
  receiptItemId: number
  currency: string
  amount: number
  reason: string
  note: string
}

export async function openDeductions(
  database: Handle,
  personId: number,
  list: readonly NewDeduction[],
): Promise<void> {
  if (!list.length) return
  await database.insert(
    'deduction',
    list.map(d => ({
      item_id: d.itemId,
      receipt_item_id: d.receiptItemId,
      currency: d.currency,
      amount: d.amount,
      reason: d.reason,
      note: d.note,
      person_id: personId,
    })),
  )
}

/** Live deductions of items, for the account and the reminder run: the newest of each item. */
export async function deductionsOf(
  database: Handle,
  itemIds: readonly number[],
): Promise<Map<number, { reason: string; note: string; amount: number }>> {
  if (!itemIds.length) return new Map()
  const rows = await database.select<{ itemId: number; reason: string; note: string; amount: number }>(
    `SELECT d.item_id AS itemId, d.reason, d.note, d.amount FROM deduction d WHERE d.item_id IN (:itemIds)
      AND ${LIVE} ORDER BY d.id`,
    { itemIds },
  )
  return new Map(rows.map(({ itemId, ...r }) => [itemId, r]))
}

export async function deductionsOfReceipt(
  database: Handle,
  receiptId: number,
): Promise<
  {
    item: string
    amount: number
    reason: string
    note: string
    live: boolean
  }[]
> {
  const rows = await database.select<{
    item: string
    amount: number
    reason: string
    note: string
    live: number
  }>(
    `SELECT i.number AS item, d.amount, d.reason, d.note, (${LIVE}) AS live FROM deduction d
      JOIN item i ON i.id = d.item_id WHERE d.receipt_item_id = :receiptId ORDER BY d.id`,
    { receiptId },
  )
  return rows.map(r => ({ ...r, live: Boolean(r.live) }))
}
