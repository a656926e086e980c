import { z } from 'zod'
import { cell } from '../../db/rows'
import { disputedNow, DISPUTE_REASONS, type DisputeReason } from '../../../core/disputes'
import type { Handle, Values } from '../../db/handle'
import { DEDUCTION_LIVES } from './deductions'

/** Whether a dispute `d` is open; one that a receipt claimed, with its deduction `e`, while that stands. */
export const DISPUTE_LIVES = `d.resolution = '' AND (d.deduction_id IS NULL OR (${DEDUCTION_LIVES}))`
const FROM = 'FROM dispute d LEFT JOIN deduction e ON e.id = d.deduction_id'

/** Whether anything of an item is disputed; `item`: SQL of its id. */
export const disputedSql = (item: string) =>
  `EXISTS (SELECT 1 ${FROM} JOIN dispute_item t ON t.dispute_id = d.id WHERE t.item_id = ${item}
    AND ${DISPUTE_LIVES})`

export interface ItemDispute {
  id: number
  reason: DisputeReason
  label: string
  note: string
  /** Disputed now, at most what is open: of all disputes of the item. */
  amount: number
}

/** Open disputes of items: the newest of each says why, the amount is that of all. */
export async function disputesOfItems(
  database: Handle,
  itemIds: readonly number[],
): Promise<Map<number, ItemDispute>> {
  if (!itemIds.length) return new Map()
  return disputesWhere(database, 't.item_id IN (:itemIds)', { itemIds })
}

/** The same for all items of some customers. */
export async function disputesOfCustomers(
  database: Handle,
  customerIds: readonly number[],
): Promise<Map<number, ItemDispute>> {
  if (!customerIds.length) return new Map()
  return disputesWhere(database, 'd.customer_id IN (:customerIds)', { customerIds })
}

const disputesWhereRow = z.object({
  id: cell.whole,
  amount: cell.whole,
  reason: z.enum([
    'paid',
    'price',
    'quantity',
    'quality',
    'late-delivery',
    'not-ordered',
    'not-delivered',
    'credit-missing',
    'duplicate',
    'freight',
    'other',
  ]),
  note: cell.text,
  itemId: cell.whole,
  open: cell.whole.nullable(),
})

async function disputesWhere(
  database: Handle,
  where: string,
  values: Values,
): Promise<Map<number, ItemDispute>> {
  const rows = await database.rows(
    disputesWhereRow,
    `SELECT t.item_id AS itemId, d.id, d.reason, d.text AS note, t.amount, ABS(o.open) AS open ${FROM}
      JOIN dispute_item t ON t.dispute_id = d.id LEFT JOIN open_item o ON o.item_id = t.item_id
      WHERE ${where} AND ${DISPUTE_LIVES} ORDER BY d.id`,
    values,
  )
  const byItem = new Map<number, ItemDispute>()
  for (const { itemId, open, ...row } of rows) {
    const amount = disputedNow(row.amount + (byItem.get(itemId)?.amount ?? 0), open ?? 0)
    if (amount > 0) byItem.set(itemId, { ...row, amount, label: DISPUTE_REASONS[row.reason] })
  }
  return byItem
}

const disputedOfRow = z.object({
  count: cell.whole,
  amount: cell.sum,
})

/** Open disputes of a customer: how many, and what of them is open, base currency. */
export async function disputedOf(
  database: Handle,
  customerId: number,
): Promise<{ count: number; amount: number }> {
  const [row] = await database.rows(
    disputedOfRow,
    `SELECT COUNT(DISTINCT d.id) AS count,
      SUM(ROUND(ABS(o.base_open) * LEAST(t.amount, ABS(o.open)) / ABS(o.open))) AS amount ${FROM}
      JOIN dispute_item t ON t.dispute_id = d.id LEFT JOIN open_item o ON o.item_id = t.item_id
      WHERE d.customer_id = :customerId AND ${DISPUTE_LIVES}`,
    { customerId },
  )
  return { count: row!.count, amount: Number(row!.amount ?? 0) }
}
