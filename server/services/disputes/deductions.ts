import { z } from 'zod'
import { cell } from '../../db/rows'
import type { DisputeReason } from '../../../core/disputes'
import { DEADLINE_DAYS } from '../../../core/disputes'
import type { Handle } from '../../db/handle'

/** A deduction lives as long as the payment it came with is linked to the item, and the item is open. */
export const DEDUCTION_LIVES = `e.withdrawn_at IS NULL AND EXISTS (SELECT 1 FROM open_item o WHERE o.item_id = e.item_id)
  AND (SELECT SUM(a.amount) FROM allocation a WHERE a.debit_item_id = e.item_id
    AND a.credit_item_id = e.receipt_item_id) > 0`

export interface NewDeduction {
  itemId: number
  receiptItemId: number
  currency: string
  amount: number
  reason: string
  note: string
}

const openDeductionsRow = z.object({
  customerId: cell.whole,
  ownerId: cell.whole.nullable(),
  on: cell.text,
  until: cell.text,
})

/**
 * What receipts claim: each opens a dispute by itself, seen to by the controller of the customer, else by who
 * keyed it.
 */
export async function openDeductions(
  database: Handle,
  personId: number,
  list: readonly NewDeduction[],
): Promise<void> {
  for (const d of list) {
    const [deductionId] = await database.insert('deduction', [
      {
        item_id: d.itemId,
        receipt_item_id: d.receiptItemId,
        currency: d.currency,
        amount: d.amount,
        reason: d.reason,
        note: d.note,
        person_id: personId,
      },
    ])
    const [about] = await database.rows(
      openDeductionsRow,
      `SELECT i.customer_id AS customerId, p.id AS ownerId, r.posting_date AS \`on\`,
        DATE_ADD(r.posting_date, INTERVAL ${DEADLINE_DAYS} DAY) AS until
        FROM item i JOIN item r ON r.id = :receiptItemId JOIN customer c ON c.id = i.customer_id
        LEFT JOIN person p ON p.id = c.controller_id AND p.active = 1 WHERE i.id = :itemId`,
      { itemId: d.itemId, receiptItemId: d.receiptItemId },
    )
    const [disputeId] = await database.insert('dispute', [
      {
        customer_id: about!.customerId,
        currency: d.currency,
        reason: d.reason as DisputeReason,
        text: d.note,
        owner_id: about!.ownerId ?? personId,
        deadline: about!.until,
        opened_on: about!.on,
        deduction_id: deductionId!,
        person_id: personId,
      },
    ])
    await database.insert('dispute_item', [{ dispute_id: disputeId!, item_id: d.itemId, amount: d.amount }])
  }
}

const deductionsOfReceiptRow = z.object({
  item: cell.text,
  amount: cell.whole,
  reason: cell.text,
  note: cell.text,
  live: cell.whole,
})

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
  const rows = await database.rows(
    deductionsOfReceiptRow,
    `SELECT i.number AS item, e.amount, e.reason, e.note, (${DEDUCTION_LIVES}) AS live FROM deduction e
      JOIN item i ON i.id = e.item_id WHERE e.receipt_item_id = :receiptId ORDER BY e.id`,
    { receiptId },
  )
  return rows.map(r => ({ ...r, live: Boolean(r.live) }))
}
