import { z } from 'zod'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { netted, type Bucket } from '../../../core/aging'
import { addDays, daysLate, type IsoDate } from '../../../core/calendar'
import type { AgingAnswer, AgingItems, AgingQuery, AgingRow } from '../../../contract/aging'
import type { agingItemsQuery, agingQuery } from '../../../contract/aging'
import { int } from '../../db/connection'
import type { Values } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { movesAsOfSql, openAsOfSql, type Past } from '../../ledger/asOf'
import { knownTo } from '../books/known'
import { controlAccount, ledgerBalance } from '../books/books'
import { cut, decodeCursor, like, sortOf } from '../common/paging'
import type { Scope } from '../people/scope'

const GROUP: Record<AgingQuery['by'], { key: string; name: string; join: string }> = {
  customer: { key: 'c.number', name: 'c.name', join: '' },
  group: {
    key: 'COALESCE(g.number, c.number)',
    name: 'COALESCE(g.name, c.name)',
    join: 'LEFT JOIN customer g ON g.id = c.parent_id',
  },
  class: { key: 'c.class', name: 'c.class', join: '' },
  controller: {
    key: `COALESCE(p.email, '')`,
    name: `COALESCE(p.name, 'nobody')`,
    join: 'LEFT JOIN person p ON p.id = c.controller_id',
  },
  sales: {
    key: `COALESCE(p.email, '')`,
    name: `COALESCE(p.name, 'nobody')`,
    join: 'LEFT JOIN person p ON p.id = c.sales_id',
  },
  currency: { key: 'a.currency', name: 'a.currency', join: '' },
  country: { key: 'c.country', name: 'c.country', join: '' },
}

/** A group whose head is somebody else's customer is not named: its members stand by themselves. */
const groupOf = (by: AgingQuery['by'], scope: Scope) =>
  by === 'group' && scope.salesId
    ? { ...GROUP.group, join: `${GROUP.group.join} AND g.sales_id = :salesId` }
    : GROUP[by]

type Filters = Pick<AgingQuery, 'currency' | 'search' | 'class' | 'controller' | 'country'>

/** Conditions on the customer; empty when all are wanted. */
function customerWhere(filters: Filters, scope: Scope, values: Values): string[] {
  const where: string[] = []
  if (scope.salesId) {
    where.push('c.sales_id = :salesId')
    values.salesId = scope.salesId
  }
  if (filters.search) {
    where.push('(c.name LIKE :search OR c.number LIKE :search)')
    values.search = like(filters.search)
  }
  if (filters.class) {
    where.push('c.class = :class')
    values.class = filters.class
  }
  if (filters.country) {
    where.push('c.country = :country')
    values.country = filters.country
  }
  if (filters.controller) {
    where.push('c.controller_id = (SELECT id FROM person WHERE email = :controller)')
    values.controller = filters.controller
  }
  return where
}

function itemWhere(filters: Filters, values: Values): string[] {
  if (!filters.currency) return []
  values.currency = filters.currency
  return ['s.currency = :currency']
}

const whereAll = (conditions: string[]) => (conditions.length ? `WHERE ${conditions.join(' AND ')}` : '')

/** Condition for an item's age to fall in a bucket, as bounds on its date. */
function bucketSql(bucket: Bucket, date: string, asOf: IsoDate): string {
  const parts = []
  if (bucket.to !== null) parts.push(`${date} >= '${addDays(asOf, -bucket.to)}'`)
  if (bucket.from !== null) parts.push(`${date} <= '${addDays(asOf, -bucket.from)}'`)
  return parts.join(' AND ')
}

function sums(settings: Settings, q: Pick<AgingQuery, 'currency' | 'basis'>, asOf: IsoDate): string {
  const open = q.currency ? 's.open' : 's.base_open'
  const date = q.basis === 'due' ? 's.due_date' : 's.document_date'
  const columns = settings.buckets.map(
    (b, i) => `SUM(IF(s.debit AND ${bucketSql(b, date, asOf)}, ${open}, 0)) AS b${i}`,
  )
  return `${columns.join(', ')}, SUM(IF(s.debit, 0, ${open})) AS onAccount, SUM(${open}) AS total,
    MIN(IF(s.debit, ${date}, NULL)) AS oldest`
}

const sumsAgain = (n: number) =>
  `${Array.from({ length: n }, (_, i) => `SUM(a.b${i}) AS b${i}`).join(', ')}, SUM(a.onAccount) AS onAccount,
    SUM(a.total) AS total, MIN(a.oldest) AS oldest`

/** Sums by bucket: as many as the house has. */
const some = cell.sum.optional()
const sumsRow = z.object({
  b0: cell.sum,
  b1: some,
  b2: some,
  b3: some,
  b4: some,
  b5: some,
  onAccount: cell.sum,
  total: cell.sum,
})
type Sums = z.output<typeof sumsRow>

function figures(row: Sums, n: number): { amounts: number[]; onAccount: number; total: number } {
  const amounts = Array.from({ length: n }, (_, i) => int(row[`b${i}` as keyof Sums]))
  return { amounts, onAccount: int(row.onAccount), total: int(row.total) }
}

/**
 * SQL for the same netting as `core/aging`: what is left of bucket i once credit has eaten the older ones.
 */
function nettedSql(n: number): string {
  return (
    Array.from({ length: n }, (_, i) => {
      const older = Array.from({ length: n - i - 1 }, (_, k) => `g.b${n - 1 - k}`).join(' + ') || '0'
      return `SUM(GREATEST(0, g.b${i} - GREATEST(0, -g.onAccount - (${older})))) AS b${i}`
    }).join(', ') +
    `, SUM(LEAST(0, g.onAccount + ${Array.from({ length: n }, (_, i) => `g.b${i}`).join(' + ')})) AS
      onAccount, SUM(g.total) AS total`
  )
}

export type AgingRequest = z.infer<typeof agingQuery>
export type AgingItemsRequest = z.infer<typeof agingItemsQuery>

const agingRow = sumsRow.extend({
  number: cell.text,
  name: cell.text,
  sortValue: z.union([z.string(), z.number()]),
})
const agingTotalRow = sumsRow.extend({ count: cell.sum })

export async function readAging(database: Handle, q: AgingRequest, scope: Scope): Promise<AgingAnswer> {
  const settings = await readSettings(database)
  const asOf = q.asOf ?? settings.today
  const state = await knownTo(database, q.known)
  const past: Past = { asOf, today: settings.today, known: q.known === undefined ? null : state.entryId }
  const n = settings.buckets.length
  const values: Values = { asOf, known: past.known }
  const group = groupOf(q.by, scope)
  const onCustomer = customerWhere(q, scope, values)
  // Summed by customer first, along the index; names and groups are joined to the few sums.
  const byCurrency = q.by === 'currency' ? ', s.currency' : ''
  // Who is the longest overdue is a question to the items; all else is a sum.
  const source = q.sort.endsWith('oldest')
    ? `(SELECT o.*, o.open > 0 AS debit FROM ${openAsOfSql(past)} o)`
    : movesAsOfSql(past)
  const balances = `SELECT s.customer_id${byCurrency}, ${sums(settings, q, asOf)}
    FROM ${source} s ${whereAll(itemWhere(q, values))} GROUP BY s.customer_id${byCurrency}
    HAVING onAccount <> 0 OR ${settings.buckets.map((_, i) => `b${i} <> 0`).join(' OR ')}`
  const joined = `FROM (${balances}) a JOIN customer c ON c.id = a.customer_id ${group.join}
    ${whereAll(onCustomer)}`
  const grouped =
    q.by === 'customer'
      ? `SELECT c.number, c.name, ${Array.from({ length: n }, (_, i) => `a.b${i}`).join(', ')}, a.onAccount,
        a.total, a.oldest ${joined}`
      : `SELECT ${group.key} AS number, ${group.name} AS name, ${sumsAgain(n)} ${joined}
        GROUP BY ${group.key}, ${group.name}`
  const late = Array.from({ length: n - 1 }, (_, i) => `g.b${i + 1}`).join(' + ')
  const { column, descending } = sortOf(q.sort, {
    name: 'g.name',
    total: 'g.total',
    onAccount: 'g.onAccount',
    overdue: `(${late})`,
    oldest: `COALESCE(DATEDIFF(:asOf, g.oldest), -99999)`,
    ...Object.fromEntries(Array.from({ length: 6 }, (_, i) => [`b${i}`, i < n ? `g.b${i}` : 'g.total'])),
  })
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastValue, values.lastKey] = cursor
  const order = descending ? 'DESC' : 'ASC'
  const after = cursor
    ? `WHERE (${column} ${descending ? '<' : '>'} :lastValue OR (${column} = :lastValue
      AND g.number > :lastKey))`
    : ''
  const [rows, [total], control] = await Promise.all([
    database.rows(
      agingRow,
      `SELECT g.*, ${column} AS sortValue FROM (${grouped}) g ${after}
        ORDER BY ${column} ${order}, g.number ASC LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      agingTotalRow,
      q.net
        ? `SELECT COUNT(*) AS count, ${nettedSql(n)} FROM (${grouped}) g`
        : q.by === 'customer' && !onCustomer.length
          ? `SELECT COUNT(*) AS count, ${sumsAgain(n)} FROM (${balances}) a`
          : `SELECT COUNT(DISTINCT ${group.key}) AS count, ${sumsAgain(n)} ${joined}`,
      values,
    ),
    scope.salesId ? null : controlAccount(database, past),
  ])
  const currency = q.currency ?? settings.base
  const page = cut(rows, q.limit, r => [
    typeof r.sortValue === 'number'
      ? r.sortValue
      : /^-?\d+$/.test(r.sortValue) && column !== 'g.name'
        ? int(r.sortValue)
        : r.sortValue,
    r.number,
  ])
  return {
    asOf,
    known: { entry: state.entry, at: state.at, asked: q.known !== undefined },
    buckets: settings.buckets,
    items: page.items.map((r): AgingRow => {
      const own = figures(r, n)
      return { customer: { number: r.number, name: r.name }, currency, ...(q.net ? netted(own) : own) }
    }),
    totals: { currency, ...figures(total!, n), count: int(total!.count) },
    // Unfiltered in base currency the total is the whole ledger: no need to add it up again.
    control: control && {
      ...control,
      ...(await tie(control.balance, async () =>
        q.currency || onCustomer.length ? ledgerBalance(database, past) : int(total!.total),
      )),
      currency: settings.base,
    },
    next: page.next,
  }
}

/** The whole ledger beside its control account. */
async function tie(balance: number, sum: () => Promise<number>): Promise<{ ledger: number; ties: boolean }> {
  const ledger = await sum()
  return { ledger, ties: ledger === balance }
}

const agingItemsTotalRow = z.object({
  total: cell.sum,
  count: cell.sum,
})

const agingItemsRow = z.object({
  id: cell.whole,
  date: cell.day,
  customerNumber: cell.text,
  customerName: cell.text,
  documentOpen: cell.sum,
  open: cell.sum,
  kind: cell.text,
  number: cell.text,
  part: cell.whole,
  documentDate: cell.day,
  dueDate: cell.day,
  documentCurrency: cell.text,
})

export async function readAgingItems(
  database: Handle,
  q: AgingItemsRequest,
  scope: Scope,
): Promise<AgingItems> {
  const settings = await readSettings(database)
  const asOf = q.asOf ?? settings.today
  const state = await knownTo(database, q.known)
  const past: Past = { asOf, today: settings.today, known: q.known === undefined ? null : state.entryId }
  const values: Values = { asOf, known: past.known }
  const date = q.basis === 'due' ? 's.due_date' : 's.document_date'
  const open = q.currency ? 's.open' : 's.base_open'
  const where = [...customerWhere(q, scope, values), ...itemWhere(q, values)]
  if (q.key !== undefined) {
    where.push(`${q.by === 'currency' ? 's.currency' : GROUP[q.by].key} = :key`)
    values.key = q.key
  }
  if (q.bucket === 'onAccount') where.push('s.open < 0')
  else if (q.bucket === 'overdue') where.push(`s.open > 0 AND ${date} < :asOf`)
  else if (q.bucket !== 'all') {
    const bucket = settings.buckets[Number(q.bucket)]
    where.push(bucket ? `s.open > 0 AND ${bucketSql(bucket, date, asOf)}` : '1 = 0')
  }
  const from = `FROM ${openAsOfSql(past)} s
    JOIN customer c ON c.id = s.customer_id ${groupOf(q.by, scope).join} WHERE ${['1 = 1', ...where].join(' AND ')}`
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastDate, values.lastId] = cursor
  const [rows, [total]] = await Promise.all([
    database.rows(
      agingItemsRow,
      `
      SELECT s.item_id AS id, ${date} AS date, c.number AS customerNumber, c.name AS customerName,
        s.open AS documentOpen, ${open} AS open,
        i.kind, i.number, i.part, s.document_date AS documentDate, s.due_date AS dueDate,
        s.currency AS documentCurrency
      FROM (SELECT s.* ${from}
        ${cursor ? `AND (${date} > :lastDate OR (${date} = :lastDate AND s.item_id > :lastId))` : ''}
        ORDER BY ${date}, s.item_id LIMIT ${q.limit + 1}) s
      JOIN customer c ON c.id = s.customer_id JOIN item i ON i.id = s.item_id ORDER BY ${date}, s.item_id`,
      values,
    ),
    database.rows(agingItemsTotalRow, `SELECT SUM(${open}) AS total, COUNT(*) AS count ${from}`, values),
  ])
  const page = cut(rows, q.limit, r => [r.date, r.id])
  return {
    asOf,
    currency: q.currency ?? settings.base,
    total: int(total!.total),
    count: int(total!.count),
    next: page.next,
    items: page.items.map(({ customerNumber, customerName, date: agedBy, ...r }) => ({
      ...r,
      documentOpen: int(r.documentOpen),
      open: int(r.open),
      customer: { number: customerNumber, name: customerName },
      daysLate: daysLate(agedBy, asOf),
    })),
  }
}
