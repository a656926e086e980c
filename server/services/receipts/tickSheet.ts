import { z } from 'zod'
import { referenceKey } from '../../../core/banking/matching'
import { addDays, daysLate, discountOn } from '../../../core/calendar'
import { kindList } from '../../../core/ledger'
import type { OpenItem, receipts } from '../../../contract/receipts'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { cut, decodeCursor } from '../common/paging'
import { parseFile } from '../../parse'
import { ProblemError } from '../common/problems'
import { disputedSql } from '../disputes/live'

const MATCHABLE = kindList(k => k.matchable)

const openItemsRow = z.object({
  id: cell.whole,
  number: cell.text,
  kind: cell.text,
  customer: cell.text,
  name: cell.text,
  group: cell.text,
  text: cell.text,
  order: cell.text,
  documentDate: cell.day,
  dueDate: cell.day,
  amount: cell.whole,
  open: cell.sum,
  baseOpen: cell.sum,
  d1: cell.day.nullable(),
  a1: cell.whole.nullable(),
  d2: cell.day.nullable(),
  a2: cell.whole.nullable(),
  disputed: cell.flag,
  side: cell.text,
})

/** Open items of all customers in one currency, by customer and due date. */
export async function readOpenItems(
  database: Handle,
  q: z.output<NonNullable<(typeof receipts.openItems)['query']>>,
) {
  const settings = await readSettings(database)
  const cursor = decodeCursor(q.cursor, 2)
  const rows = await database.rows(
    openItemsRow,
    `
    SELECT i.id, i.number, i.kind, c.number AS customer, c.name, COALESCE(g.number, c.number) AS \`group\`,
      i.text, i.order_ref AS \`order\`, i.document_date AS documentDate, i.due_date AS dueDate, i.amount,
      i.side, s.open, s.base_open AS baseOpen, i.discount_date AS d1, i.discount_amount AS a1,
      i.discount2_date AS d2, i.discount2_amount AS a2,
      ${disputedSql('i.id')} AS disputed
    FROM open_item s JOIN item i ON i.id = s.item_id JOIN customer c ON c.id = s.customer_id LEFT
      JOIN customer g ON g.id = c.parent_id
    WHERE s.currency = :currency
      ${cursor ? 'AND (c.number > :lastCustomer OR (c.number = :lastCustomer AND i.id > :lastId))' : ''}
      ORDER BY c.number, i.id LIMIT ${q.limit + 1}`,
    { currency: q.currency, lastCustomer: cursor?.[0], lastId: cursor?.[1] },
  )
  const page = cut(rows, q.limit, r => [r.customer, r.id])
  const granted = addDays(q.date ?? settings.today, -settings.receiptPolicy.discountGraceDays)
  return {
    next: page.next,
    items: page.items.map(({ d1, a1, d2, a2, side, ...r }): OpenItem => {
      const steps = [
        { date: d1, amount: a1 },
        { date: d2, amount: a2 },
      ].filter((s): s is { date: string; amount: number } => s.date !== null && s.amount !== null)
      const open = int(r.open)
      const untouched = open === r.amount
      const discount = untouched ? discountOn(steps, granted) : 0
      return {
        ...r,
        open,
        baseOpen: int(r.baseOpen),
        amount: side === 'debit' ? r.amount : -r.amount,
        daysLate: daysLate(r.dueDate, settings.today),
        disputed: Boolean(r.disputed),
        discount: discount ? { amount: discount, until: steps.find(s => granted <= s.date)!.date } : null,
        offered: untouched ? Math.max(0, ...steps.map(s => s.amount)) : 0,
      }
    }),
  }
}

/** More than any payer ever listed; each is looked up. */
const MOST_LINES = 10_000

const readRemittanceRow = z.object({
  key: cell.text,
  id: cell.whole,
  customer: cell.text,
  open: cell.sum,
  side: cell.text,
  currency: cell.text,
})

/** A remittance advice with the open item of each of its lines; what cannot be ticked says why. */
export async function readRemittance(database: Handle, bytes: Uint8Array, currency: string) {
  const advice = await parseFile('advice', bytes, { currency }, 'Not an advice')
  if (advice.lines.length > MOST_LINES)
    throw new ProblemError(413, 'Too many lines', `an advice of at most ${MOST_LINES} lines: split it`)
  const keys = [...new Set(advice.lines.map(l => referenceKey(l.number)))]
  const found = await database.rows(
    readRemittanceRow,
    `
    SELECT i.number_key AS \`key\`, i.id, c.number AS customer, ABS(COALESCE(o.open, 0)) AS open, i.side,
      i.currency FROM item i JOIN customer c ON c.id = i.customer_id LEFT JOIN open_item o ON o.item_id = i.id
    WHERE i.number_key IN (:keys) AND i.kind IN (${MATCHABLE}) ORDER BY i.part`,
    { keys },
  )
  const lines = advice.lines.map(l => {
    const hits = found.filter(f => f.key === referenceKey(l.number))
    const hit = hits.find(h => h.currency === currency && int(h.open) > 0) ?? hits[0]
    const problem = !hit
      ? 'we have no document of this number'
      : hit.currency !== currency
        ? `it is in ${hit.currency}`
        : int(hit.open) === 0
          ? 'it is settled already'
          : (l.amount ?? 0) > int(hit.open)
            ? 'more is paid than is open'
            : ''
    return {
      number: l.number,
      amount: l.amount,
      discount: l.discount,
      itemId: hit && problem !== 'it is settled already' && hit.currency === currency ? hit.id : null,
      customer: hit?.customer ?? '',
      problem,
    }
  })
  return {
    payer: advice.payer,
    reference: advice.reference,
    date: advice.date,
    total:
      advice.total ??
      (advice.lines.every(l => l.amount !== null)
        ? advice.lines.reduce((a, l) => a + (l.credit ? -l.amount! : l.amount!), 0)
        : null),
    lines,
  }
}
