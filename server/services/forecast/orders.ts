import { z } from 'zod'
import { dayNumber, dueParts, parseTerms, type IsoDate } from '../../../core/calendar'
import { ordersCurve, type OpenOrder, type SurvivalCurve } from '../../../core/forecast'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'

/*
 * Orders that are not invoiced: what of them is delivered, and what is not; and how long orders took until
 * their invoice, told by the invoices that name them.
 */

/** An order as it is told: for the forecast, and for who opens it. */
export interface ToldOrder extends OpenOrder {
  number: string
  date: IsoDate
}

const orderCells = z.object({
  number: cell.text,
  customerId: cell.whole,
  date: cell.day,
  currency: cell.text,
  amount: cell.sum,
  delivered: cell.sum,
  invoiced: cell.sum,
  state: cell.text,
  terms: cell.text,
  invoicedOn: cell.day.nullable(),
})

/** Orders of the last so many days tell how long it takes, the newest of them: a thousand tell a curve. */
const BACK_DAYS = 400
const MOST_SEEN = 1000

const ORDERS = `SELECT o.number, o.customer_id AS customerId, o.date, o.currency, o.amount, o.delivered, o.invoiced,
  o.state, COALESCE(NULLIF(c.terms, ''), k.terms, '') AS terms,
  (SELECT MIN(i.document_date) FROM item i
    WHERE i.order_key = REGEXP_REPLACE(UPPER(o.number), '[^A-Z0-9]', '')
    AND i.customer_id = o.customer_id AND i.side = 'debit') AS invoicedOn
  FROM sales_order o JOIN customer c ON c.id = o.customer_id
  LEFT JOIN customer_class k ON k.code = c.class`

/** Days from an invoice until the last part of it is due; 30 where terms cannot be read. */
function daysOfTerms(text: string, on: IsoDate): number {
  try {
    return Math.max(0, dayNumber(dueParts(parseTerms(text), on, 100).at(-1)!.dueDate) - dayNumber(on))
  } catch {
    return 30
  }
}

/**
 * Orders that were open on a day. Of a past day only whole orders are known: those whose invoice came later,
 * or not yet.
 */
export async function openOrders(db: Handle, asOf: IsoDate, isToday: boolean): Promise<ToldOrder[]> {
  const rows = await db.rows(
    orderCells,
    `${ORDERS} WHERE o.date <= :asOf AND o.state <> 'cancelled'
      AND (o.amount > o.invoiced OR o.delivered > o.invoiced ${isToday ? '' : 'OR o.date > DATE_SUB(:asOf, INTERVAL 120 DAY)'})
      ORDER BY o.number`,
    { asOf },
  )
  return rows.flatMap(({ terms, invoicedOn, ...row }): ToldOrder[] => {
    const order = {
      ...{ number: row.number, customerId: row.customerId, currency: row.currency, date: row.date },
      ...{ orderedOn: dayNumber(row.date), terms: daysOfTerms(terms, asOf) },
    }
    const [amount, delivered, invoiced] = [int(row.amount), int(row.delivered), int(row.invoiced)]
    if (!isToday) {
      const wasOpen = invoicedOn === null ? row.state === 'open' && invoiced === 0 : invoicedOn > asOf
      return wasOpen && amount > 0 ? [{ ...order, amount, isDelivered: false }] : []
    }
    const parts = [
      { amount: delivered - invoiced, isDelivered: true },
      { amount: row.state === 'open' ? amount - Math.max(delivered, invoiced) : 0, isDelivered: false },
    ]
    return parts.filter(p => p.amount > 0).map(p => ({ ...order, ...p }))
  })
}

const seenCells = z.object({ waited: cell.whole, isInvoiced: cell.whole })

/** How long orders wait for their invoice, as known on a day. */
export async function invoicingCurve(db: Handle, asOf: IsoDate): Promise<SurvivalCurve> {
  const rows = await db.rows(
    seenCells,
    `SELECT DATEDIFF(LEAST(COALESCE(s.invoicedOn, :asOf), :asOf), s.date) AS waited,
      s.invoicedOn IS NOT NULL AND s.invoicedOn <= :asOf AS isInvoiced
      FROM (${ORDERS} WHERE o.date BETWEEN DATE_SUB(:asOf, INTERVAL ${BACK_DAYS} DAY) AND :asOf
        AND o.state <> 'cancelled' ORDER BY o.date DESC, o.number LIMIT ${MOST_SEEN}) s
      WHERE s.invoicedOn IS NULL OR s.invoicedOn >= s.date`,
    { asOf },
  )
  return ordersCurve(rows.map(r => ({ time: r.waited, ended: r.isInvoiced === 1 })))
}
