import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Handle } from '../../db/handle'

export interface OpenDebit {
  itemId: number
  number: string
  currency: string
  open: number
}

const openDebitsRow = z.object({
  itemId: cell.whole,
  number: cell.text,
  currency: cell.text,
  open: cell.whole,
})

/** What a customer has open: what it can promise for, or dispute. Read behind the lock of the customer. */
export const openDebits = (db: Handle, customerId: number): Promise<OpenDebit[]> =>
  db.rows(
    openDebitsRow,
    `SELECT o.item_id AS itemId, i.number, o.currency, o.open FROM open_item o JOIN item i ON i.id = o.item_id
      WHERE o.customer_id = :customerId AND o.open > 0 ORDER BY o.due_date, o.item_id`,
    { customerId },
  )
