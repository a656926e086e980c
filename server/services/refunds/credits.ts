import { z } from 'zod'
import { addDays, daysBetween, type IsoDate } from '../../../core/calendar'
import { kindList, type ItemKind } from '../../../core/ledger'
import { lapseTermsOf, type LapseTerms, type RefundMethod } from '../../../core/refunds'
import { CREDIT_ORIGINS, type CreditOrigin, type Refundable, type refunds } from '../../../contract/refunds'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { findCustomer } from '../accounts/customers'
import { INHERITED, WITH_CLASS } from '../accounts/inherited'
import { cut, decodeCursor, like } from '../common/paging'

/** Credits that money can go back for: not what was born of a payment, nor a reversal. */
const REFUNDABLE = kindList(
  k => (k.side === 'credit' && !k.born && k.movement !== 'reversed' && k.movement !== 'allowed') || k.money,
)

const cells = z.object({
  id: cell.whole,
  number: cell.text,
  kind: cell.text,
  customerId: cell.whole,
  customerNumber: cell.text,
  customerName: cell.text,
  country: cell.text,
  currency: cell.text,
  date: cell.day,
  text: cell.text,
  amount: cell.whole,
  open: cell.sum,
  baseOpen: cell.sum,
  restUse: cell.text,
  restItem: cell.text.nullable(),
  means: cell.text.nullable(),
  refunds: cell.text,
  iban: cell.text,
  bankChangedBy: cell.text.nullable(),
  owes: cell.sum,
  overdue: cell.sum,
  wrote: cell.day.nullable(),
})
type Cells = z.output<typeof cells>

const owed = (
  only: string,
) => `COALESCE((SELECT SUM(d.open) FROM open_item d WHERE d.customer_id = o.customer_id
  AND d.currency = o.currency AND d.open > 0 ${only}), 0)`

const CREDITS = `SELECT i.id, i.number, i.kind, c.id AS customerId, c.number AS customerNumber, c.name AS customerName,
    c.country, i.currency, i.posting_date AS date, i.text, i.amount, -o.open AS open, -o.base_open AS baseOpen,
    i.rest_use AS restUse, (SELECT x.number FROM item x WHERE x.id = i.rest_item_id) AS restItem,
    (SELECT MIN(m.means) FROM receipt_means m WHERE m.item_id = i.id) AS means,
    ${INHERITED.refunds} AS refunds, c.iban, p.name AS bankChangedBy,
    ${owed('')} AS owes, ${owed('AND d.due_date < :today')} AS overdue,
    (SELECT MAX(s.on_date) FROM sent_letter s WHERE s.customer_id = c.id AND s.kind = 'unclaimed') AS wrote
  FROM open_item o JOIN item i ON i.id = o.item_id JOIN customer c ON c.id = o.customer_id ${WITH_CLASS}
    LEFT JOIN person p ON p.id = c.bank_changed_by
  WHERE o.open < 0 AND i.kind IN (${REFUNDABLE})`

/** Why a credit is there. `twice`: what it was for had been paid before, as the entry or a note says. */
export function originOf(
  row: Pick<Cells, 'kind' | 'restUse' | 'text' | 'amount'> & { open: number },
): CreditOrigin {
  if (row.restUse === 'refund') return 'to-refund'
  if (row.kind === 'advance') return 'advance'
  if (row.kind === 'credit-note') return 'credit-note'
  if (/twice|second time|zweimal|deux fois|doppelt/i.test(row.text)) return 'twice'
  return row.restUse === 'item' || row.open < row.amount ? 'overpaid' : 'on-account'
}

function aroseOf(row: Cells, origin: CreditOrigin): string {
  if (origin === 'overpaid' && row.restItem) return `more was paid than ${row.restItem} asked`
  if (origin === 'overpaid') return 'more was paid than was open'
  if (origin === 'credit-note') return row.text || 'credited'
  if (origin === 'on-account') return 'nobody said what it is for'
  return CREDIT_ORIGINS[origin].toLowerCase()
}

function methodOf(row: Cells): RefundMethod {
  if (row.means === 'card') return 'card'
  return row.iban ? 'transfer' : 'cheque'
}

function stopOf(row: Cells): string {
  if (row.refunds === 'no') return 'refunds are not allowed: the customer or its class says so'
  if (row.bankChangedBy && row.iban)
    return `the bank details were changed by ${row.bankChangedBy}: confirm them in Sign-off, or pay by cheque`
  return ''
}

/** Requests that wait for a second person, by the credit they are about. */
async function waitingFor(database: Handle): Promise<Map<number, number>> {
  const rows = await database.find(
    'waiting_command',
    { name: ['refunds.post', 'refunds.lapse'], state: ['waiting', 'returned'] },
    { columns: ['id', 'ask'] },
  )
  const byItem = new Map<number, number>()
  for (const { id, ask } of rows) {
    const { refunds = [], itemIds = [] } = JSON.parse(ask) as {
      refunds?: { credits: { itemId: number }[] }[]
      itemIds?: number[]
    }
    const all = [...itemIds, ...refunds.flatMap(r => r.credits.map(c => c.itemId))]
    for (const itemId of all) byItem.set(itemId, id)
  }
  return byItem
}

function shown(
  row: Cells,
  { today, terms, waits }: { today: IsoDate; terms: LapseTerms; waits: ReadonlyMap<number, number> },
): Refundable {
  const open = int(row.open)
  const origin = originOf({ ...row, open })
  const rule = lapseTermsOf(terms, row.country)
  const on = addDays(row.date, rule.days)
  return {
    id: row.id,
    number: row.number,
    kind: row.kind as ItemKind,
    customer: { number: row.customerNumber, name: row.customerName },
    country: row.country,
    currency: row.currency,
    date: row.date,
    age: daysBetween(row.date, today),
    amount: row.amount,
    open,
    baseOpen: int(row.baseOpen),
    origin,
    arose: aroseOf(row, origin),
    owes: int(row.owes),
    overdue: int(row.overdue),
    method: methodOf(row),
    waiting: waits.get(row.id) ?? null,
    stop: stopOf(row),
    lapse: { on, to: rule.to, may: on <= today && int(row.baseOpen) <= terms.most },
    wrote: row.wrote,
  }
}

type Query = z.output<NonNullable<(typeof refunds.credits)['query']>>

/** Credits that can be refunded, the oldest first. */
export async function listCredits(database: Handle, q: Query) {
  const { today, base, paymentPolicy } = await readSettings(database)
  const { lapse } = paymentPolicy
  const waits = await waitingFor(database)
  const values: Values = { today, most: lapse.most, asked: [0, ...waits.keys()] }
  const where: string[] = []
  if (q.customer) {
    values.customerId = (await findCustomer(database, q.customer, {})).id
    where.push('x.customerId = :customerId')
  }
  if (q.currency) {
    values.currency = q.currency
    where.push('x.currency = :currency')
  }
  if (q.search) {
    values.search = like(q.search)
    where.push('(x.number LIKE :search OR x.customerName LIKE :search OR x.customerNumber LIKE :search)')
  }
  if (q.only === 'asked') where.push(`x.restUse = 'refund'`)
  if (q.only === 'refundable') where.push(`x.refunds <> 'no' AND x.owes = 0 AND x.id NOT IN (:asked)`)
  if (q.only === 'unclaimed') {
    const shortest = Math.min(lapse.days, ...Object.values(lapse.byCountry).map(c => c.days))
    values.before = addDays(today, -shortest)
    where.push('x.date <= :before AND x.baseOpen <= :most')
  }
  const all = where.length ? `WHERE ${where.join(' AND ')}` : ''
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastDate, values.lastId] = cursor
  const and = where.length ? 'AND' : 'WHERE'
  const after = cursor ? `${and} (x.date > :lastDate OR (x.date = :lastDate AND x.id > :lastId))` : ''
  const [rows, [total]] = await Promise.all([
    database.rows(
      cells,
      `SELECT x.* FROM (${CREDITS}) x ${all} ${after} ORDER BY x.date, x.id LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      z.object({ open: cell.sum, count: cell.sum }),
      `SELECT SUM(x.baseOpen) AS open, COUNT(*) AS count FROM (${CREDITS}) x ${all}`,
      values,
    ),
  ])
  const page = cut(rows, q.limit, r => [r.date, r.id])
  return {
    items: page.items.map(r => shown(r, { today, terms: lapse, waits })),
    totals: { base, open: int(total!.open ?? 0), count: int(total!.count) },
    next: page.next,
  }
}
