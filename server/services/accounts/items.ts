import { z } from 'zod'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { addDays, daysLate, discountOn } from '../../../core/calendar'
import type { AccountItem, AccountItems, itemsQuery, Link } from '../../../contract/accounts'
import { int } from '../../db/connection'
import type { Values } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { disputesOfItems } from '../disputes/live'
import { collectionsOnTheirWay } from '../collections/onTheirWay'
import { promisesOfItems } from '../promises/promises'
import { cut, decodeCursor, like, sortOf } from '../common/paging'
import { knownTo } from '../books/known'
import { findCustomer } from './customers'
import { type Scope } from '../people/scope'

const itemRow = z.object({
  id: cell.whole,
  number: cell.text,
  part: cell.whole,
  parts: cell.whole,
  kind: cell.text,
  side: z.enum(['debit', 'credit']),
  currency: cell.text,
  documentDate: cell.day,
  dueDate: cell.day,
  amount: cell.whole,
  open: cell.sum,
  baseOpen: cell.sum,
  order: cell.text,
  text: cell.text,
  discountDate: cell.day.nullable(),
  discountAmount: cell.whole.nullable(),
  discount2Date: cell.day.nullable(),
  discount2Amount: cell.whole.nullable(),
  level: cell.whole.nullable(),
  noticeDate: cell.day.nullable(),
  paused: cell.flag,
  reversed: cell.flag,
  reference: cell.text.nullable(),
  restUse: cell.text,
  restItem: cell.text.nullable(),
  sortValue: z.union([z.string(), z.number()]),
})

/** Open amounts of one account as of a date, straight from items and allocations; signed. */
/** No entry comes after it. */
const ALL_ENTRIES = Number.MAX_SAFE_INTEGER

const ACCOUNT_ITEMS = `
  SELECT i.*, IF(i.side = 'debit', 1, -1) * (i.amount - COALESCE(m.amount, 0)) AS open, IF(i.side = 'debit',
    1, -1) * (i.base_amount - COALESCE(m.base, 0)) AS base_open
  FROM item i LEFT JOIN (
    SELECT item_id, SUM(amount) AS amount, SUM(base) AS base FROM (
      SELECT debit_item_id AS item_id, amount, debit_base AS base FROM allocation WHERE customer_id = :id
    AND effective <= :asOf AND entry_id <= :known
      UNION ALL SELECT credit_item_id, amount, credit_base FROM allocation WHERE customer_id = :id
    AND effective <= :asOf AND entry_id <= :known) x GROUP BY item_id
  ) m ON m.item_id = i.id WHERE i.customer_id = :id AND i.posting_date <= :asOf
    AND i.entry_id <= :known`

const itemsRow = z.object({
  currency: cell.text,
  debit: cell.sum,
  credit: cell.sum,
  open: cell.sum,
  count: cell.sum,
})

export async function readItems(
  database: Handle,
  number: string,
  q: z.infer<typeof itemsQuery>,
  scope: Scope,
): Promise<AccountItems> {
  const settings = await readSettings(database)
  const customer = await findCustomer(database, number, scope)
  const asOf = q.asOf ?? settings.today
  const { entryId } = await knownTo(database, q.known)
  const values: Values = {
    id: customer.id,
    asOf,
    today: settings.today,
    known: q.known ? entryId : ALL_ENTRIES,
  }
  const where = [q.state === 'open' ? 'i.open <> 0' : q.state === 'cleared' ? 'i.open = 0' : '1 = 1']
  if (q.search) {
    where.push(
      `(i.number LIKE :search OR i.text LIKE :search OR i.order_ref LIKE :search OR EXISTS (SELECT 1
        FROM receipt_means rm WHERE rm.item_id = i.id AND rm.reference LIKE :search))`,
    )
    values.search = like(q.search)
  }
  const { column, descending } = sortOf(q.sort, {
    due: 'i.due_date',
    date: 'i.document_date',
    number: 'i.number',
    open: 'i.open',
    amount: 'i.amount',
  })
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastValue, values.lastId] = cursor
  const after = cursor
    ? `AND (${column} ${descending ? '<' : '>'} :lastValue OR (${column} = :lastValue AND i.id > :lastId))`
    : ''
  const [rows, totals] = await Promise.all([
    database.rows(
      itemRow,
      `
      SELECT i.id, i.number, i.part, (SELECT COUNT(*) FROM item s WHERE s.register = i.register
        AND s.number = i.number) AS parts, i.kind, i.side, i.currency, i.document_date AS documentDate,
        i.due_date AS dueDate, i.amount, i.open, i.base_open AS baseOpen, i.order_ref AS \`order\`, i.text,
        i.discount_date AS discountDate, i.discount_amount AS discountAmount,
        i.discount2_date AS discount2Date, i.discount2_amount AS discount2Amount, ${column} AS sortValue,
        (SELECT MAX(ni.level) FROM notice_item ni JOIN live_notice n ON n.id = ni.notice_id WHERE ni.item_id = i.id
        AND n.on_date <= :asOf) AS level,
        (SELECT MAX(n.on_date) FROM notice_item ni JOIN live_notice n ON n.id = ni.notice_id
        WHERE ni.item_id = i.id AND n.on_date <= :asOf) AS noticeDate,
        EXISTS (SELECT 1 FROM pause p WHERE p.customer_id = i.customer_id AND p.ended = 0
        AND p.until_date >= :today AND (p.item_id IS NULL OR p.item_id = i.id)) AS paused,
        EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id AND r.posting_date <= :asOf
          AND r.entry_id <= :known) AS reversed,
        (SELECT GROUP_CONCAT(NULLIF(rm.reference, '') SEPARATOR ', ') FROM receipt_means rm
        WHERE rm.item_id = i.id) AS reference, i.rest_use AS restUse, (SELECT x.number FROM item x
        WHERE x.id = i.rest_item_id) AS restItem
      FROM (${ACCOUNT_ITEMS}) i WHERE ${where.join(' AND ')} ${after}
        ORDER BY ${column} ${descending ? 'DESC' : 'ASC'}, i.id LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      itemsRow,
      `
      SELECT i.currency, SUM(IF(i.side = 'debit', i.amount, 0)) AS debit, SUM(IF(i.side = 'credit', i.amount,
        0)) AS credit, SUM(i.open) AS open, COUNT(*) AS count
      FROM (${ACCOUNT_ITEMS}) i WHERE ${where.join(' AND ')} GROUP BY i.currency ORDER BY i.currency`,
      values,
    ),
  ])
  const page = cut(rows, q.limit, r => [
    typeof r.sortValue === 'string' && /^-?\d+$/.test(r.sortValue) && q.sort.endsWith('open')
      ? int(r.sortValue)
      : r.sortValue,
    r.id,
  ])
  const [links, disputes, promised, collected] = await Promise.all([
    readLinks(
      database,
      page.items.map(i => i.id),
      asOf,
    ),
    disputesOfItems(
      database,
      page.items.map(i => i.id),
    ),
    promisesOfItems(
      database,
      settings,
      customer.id,
      page.items.map(i => ({ ...i, itemId: i.id, open: int(i.open) })),
    ),
    collectionsOnTheirWay(database, [customer.id]),
  ])
  return {
    asOf,
    count: totals.reduce((a, t) => a + int(t.count), 0),
    next: page.next,
    totals: totals.map(t => ({
      currency: t.currency,
      debit: int(t.debit),
      credit: int(t.credit),
      open: int(t.open),
    })),
    items: page.items.map((r): AccountItem => {
      const steps = [
        { date: r.discountDate, amount: r.discountAmount },
        { date: r.discount2Date, amount: r.discount2Amount },
      ].filter((s): s is { date: string; amount: number } => s.date !== null && s.amount !== null)
      const untouched = int(r.open) === r.amount
      const granted = addDays(q.paidOn ?? asOf, -settings.receiptPolicy.discountGraceDays)
      const discount = untouched ? discountOn(steps, granted) : 0
      const sign = r.side === 'debit' ? 1 : -1
      return {
        id: r.id,
        number: r.number,
        part: r.part,
        parts: int(r.parts),
        kind: r.kind,
        side: r.side,
        currency: r.currency,
        documentDate: r.documentDate,
        dueDate: r.dueDate,
        daysLate: daysLate(r.dueDate, asOf),
        amount: sign * r.amount,
        open: int(r.open),
        baseOpen: int(r.baseOpen),
        order: r.order,
        text: r.text,
        discount: discount ? { amount: discount, until: steps.find(s => granted <= s.date)!.date } : null,
        offered: untouched ? Math.max(0, ...steps.map(s => s.amount)) : 0,
        level: int(r.level),
        noticeDate: r.noticeDate,
        paused: Boolean(r.paused),
        reversed: Boolean(r.reversed),
        reference: r.reference ?? '',
        dispute: disputes.get(r.id) ?? null,
        promise: promised.get(r.id) ?? null,
        collection: collected.get(r.id) ?? null,
        rest: r.restUse === 'refund' || r.restUse === 'item' ? { use: r.restUse, item: r.restItem } : null,
        links: links.get(r.id) ?? [],
      }
    }),
  }
}

const readLinksRow = z.object({
  number: cell.text,
  amount: cell.whole,
  kind: cell.text,
  effective: cell.text,
  itemId: cell.whole,
  allocationId: cell.whole,
  ownId: cell.whole,
  undoesId: cell.whole.nullable(),
  undone: cell.whole,
})

/** What each item was allocated to, as of a date, undone links included: no hole in the history. */
async function readLinks(database: Handle, ids: number[], asOf: string): Promise<Map<number, Link[]>> {
  const links = new Map<number, Link[]>()
  if (!ids.length) return links
  const rows = await database.rows(
    readLinksRow,
    `
    SELECT x.ownId, x.id AS allocationId, x.otherId AS itemId, i.number, i.kind, x.effective, x.amount,
      x.undoesId,
      EXISTS (SELECT 1 FROM allocation u WHERE u.undoes_id = x.id AND u.effective <= :asOf) AS undone
    FROM (SELECT id, debit_item_id AS ownId, credit_item_id AS otherId, effective, amount,
      undoes_id AS undoesId FROM allocation WHERE debit_item_id IN (:ids) AND effective <= :asOf
      UNION ALL SELECT id, credit_item_id, debit_item_id, effective, amount, undoes_id FROM allocation
      WHERE credit_item_id IN (:ids) AND effective <= :asOf) x
    JOIN item i ON i.id = x.otherId ORDER BY x.id`,
    { ids, asOf },
  )
  for (const { ownId, undoesId, undone, ...link } of rows) {
    links.set(ownId, [
      ...(links.get(ownId) ?? []),
      { ...link, undone: Boolean(undone), undoes: undoesId !== null },
    ])
  }
  return links
}
