import { z } from 'zod'
import { type AgedBalance, type Bucket, type Dimension, type PageAsk } from '../../../core/aging'
import { addDays, type IsoDate } from '../../../core/calendar'
import type { AgingQuery } from '../../../contract/aging'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import type { AgingPage } from '../../image'
import { movesAsOfSql, openAsOfSql } from '../../ledger/asOf'
import { ledgerBalance } from '../books/books'
import type { Scope } from '../people/scope'
import { customerWhere, type AgingRequestInForce } from './request'

/*
 * The aging from the tables, in SQL: for a ledger that does not fit into memory, and while it is read. It
 * answers as `core/aging` does from the ledger in memory; tests hold one against the other.
 */

interface DimensionSql {
  key: string
  name: string
  join: string
}

/** How rows are grouped, by dimension; the joins of two dimensions go together. */
const DIMENSIONS: Record<Dimension, DimensionSql> = {
  customer: { key: 'c.number', name: 'c.name', join: '' },
  group: {
    key: 'COALESCE(g.number, c.number)',
    name: 'COALESCE(g.name, c.name)',
    join: 'LEFT JOIN customer g ON g.id = c.head_id',
  },
  class: {
    key: 'c.class',
    name: 'COALESCE(k.name, c.class)',
    join: 'LEFT JOIN customer_class k ON k.code = c.class',
  },
  controller: {
    key: `COALESCE(pc.email, '')`,
    name: `COALESCE(pc.name, 'nobody')`,
    join: 'LEFT JOIN person pc ON pc.id = c.controller_id',
  },
  sales: {
    key: `COALESCE(ps.email, '')`,
    name: `COALESCE(ps.name, 'nobody')`,
    join: 'LEFT JOIN person ps ON ps.id = c.sales_id',
  },
  currency: { key: 'a.currency', name: 'a.currency', join: '' },
  country: { key: 'c.country', name: 'c.country', join: '' },
}

/** A group whose head is somebody else's customer is not named: its members stand by themselves. */
export const dimensionSql = (by: Dimension, scope: Scope): DimensionSql =>
  by === 'group' && scope.salesId
    ? { ...DIMENSIONS.group, join: `${DIMENSIONS.group.join} AND g.sales_id = :salesId` }
    : DIMENSIONS[by]

/** Condition for an item's age to fall in a bucket, as bounds on its date. */
export function bucketSql(bucket: Bucket, date: string, asOf: IsoDate): string {
  const parts = []
  if (bucket.to !== null) parts.push(`${date} >= '${addDays(asOf, -bucket.to)}'`)
  if (bucket.from !== null) parts.push(`${date} <= '${addDays(asOf, -bucket.from)}'`)
  return parts.join(' AND ')
}

export const dateSql = (basis: AgingQuery['basis']) => (basis === 'due' ? 's.due_date' : 's.document_date')

function sums(buckets: readonly Bucket[], q: Pick<AgingQuery, 'currency' | 'basis'>, asOf: IsoDate): string {
  const open = q.currency ? 's.open' : 's.base_open'
  const date = dateSql(q.basis)
  const columns = buckets.map(
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
const agingRow = sumsRow.extend({
  key0: cell.text,
  name0: cell.text,
  key1: cell.text,
  name1: cell.text,
  sortValue: z.union([z.string(), z.number()]),
})
const agingTotalRow = sumsRow.extend({ count: cell.sum })

function figures(row: Sums, n: number): AgedBalance {
  const amounts = Array.from({ length: n }, (_, i) => int(row[`b${i}` as keyof Sums]))
  return { amounts, onAccount: int(row.onAccount), total: int(row.total) }
}

/**
 * Rows netted as `core/aging` nets them: what is left of bucket i once credit has eaten the older ones.
 */
function nettedRows(rows: string, n: number): string {
  const buckets = Array.from({ length: n }, (_, i) => {
    const older = Array.from({ length: n - i - 1 }, (_, k) => `b${n - 1 - k}`).join(' + ') || '0'
    return `GREATEST(0, b${i} - GREATEST(0, -onAccount - (${older}))) AS b${i}`
  })
  const all = Array.from({ length: n }, (_, i) => `b${i}`).join(' + ')
  return `SELECT key0, name0, key1, name1, ${buckets.join(', ')}, LEAST(0, onAccount + ${all}) AS onAccount,
    total, oldest FROM (${rows}) gross`
}

/** What a page is sorted by; of two dimensions the first, then the second. */
function sortSql(column: string, n: number, two: boolean): string {
  const late = Array.from({ length: n - 1 }, (_, i) => `g.b${i + 1}`).join(' + ')
  if (column === 'name') return two ? `CONCAT(g.name0, '\\n', g.name1)` : 'g.name0'
  if (column === 'overdue') return `(${late})`
  if (column === 'oldest') return `COALESCE(DATEDIFF(:asOf, g.oldest), -99999)`
  if (column.startsWith('b')) return Number(column.slice(1)) < n ? `g.${column}` : 'g.total'
  return `g.${column}`
}

export type TablesAsk = Pick<
  AgingQuery,
  'currency' | 'basis' | 'search' | 'class' | 'controller' | 'country' | 'by' | 'within' | 'buckets'
> & { net: boolean; page: PageAsk }

export async function agingFromTables(
  database: Handle,
  request: AgingRequestInForce,
  q: TablesAsk,
  scope: Scope,
): Promise<AgingPage> {
  const { asOf, past, buckets, dimensions, without } = request
  const { page } = q
  const n = buckets.length
  const two = dimensions.length > 1
  const values: Values = { asOf, known: past.known, without: [0, ...without] }
  const [first, second] = dimensions.map(d => dimensionSql(d, scope)) as [DimensionSql, DimensionSql?]
  const onCustomer = customerWhere(q, scope, values)
  if (q.currency) values.currency = q.currency
  // Summed by customer first, along the index; names and groups are joined to the few sums.
  const byCurrency = dimensions.includes('currency') ? ', s.currency' : ''
  // Who is the longest overdue is a question to the items; all else is a sum.
  const source =
    page.column === 'oldest' || without.length
      ? `(SELECT o.*, o.open > 0 AS debit FROM ${openAsOfSql(past)} o WHERE o.item_id NOT IN (:without))`
      : movesAsOfSql(past)
  const balances = `SELECT s.customer_id${byCurrency}, ${sums(buckets, q, asOf)}
    FROM ${source} s ${q.currency ? 'WHERE s.currency = :currency' : ''} GROUP BY s.customer_id${byCurrency}
    HAVING onAccount <> 0 OR ${buckets.map((_, i) => `b${i} <> 0`).join(' OR ')}`
  const joined = `FROM (${balances}) a JOIN customer c ON c.id = a.customer_id ${first.join}
    ${second?.join ?? ''} ${onCustomer.length ? `WHERE ${onCustomer.join(' AND ')}` : ''}`
  const keys = `${first.key} AS key0, ${first.name} AS name0, ${second?.key ?? "''"} AS key1,
    ${second?.name ?? "''"} AS name1`
  const gross =
    q.by === 'customer' && !two
      ? `SELECT ${keys}, ${Array.from({ length: n }, (_, i) => `a.b${i}`).join(', ')}, a.onAccount,
        a.total, a.oldest ${joined}`
      : `SELECT ${keys}, ${sumsAgain(n)} ${joined} GROUP BY 1, 2, 3, 4`
  const grouped = q.net ? nettedRows(gross, n) : gross
  const column = sortSql(page.column, n, two)
  const key = two ? `CONCAT(g.key0, '\\n', g.key1)` : 'g.key0'
  const order = page.descending ? 'DESC' : 'ASC'
  if (page.after) [values.lastValue, values.lastKey] = [page.after.value, page.after.key]
  const after = page.after
    ? `WHERE (${column} ${page.descending ? '<' : '>'} :lastValue OR (${column} = :lastValue
      AND ${key} > :lastKey))`
    : ''
  const [rows, [total], ledger] = await Promise.all([
    database.rows(
      agingRow,
      `SELECT g.*, ${column} AS sortValue FROM (${grouped}) g ${after}
        ORDER BY ${column} ${order}, ${key} ASC LIMIT ${page.limit + 1}`,
      values,
    ),
    database.rows(
      agingTotalRow,
      q.net
        ? `SELECT COUNT(*) AS count, ${sumsAgain(n)} FROM (${grouped}) a`
        : q.by === 'customer' && !two && !onCustomer.length
          ? `SELECT COUNT(*) AS count, ${sumsAgain(n)} FROM (${balances}) a`
          : `SELECT COUNT(DISTINCT ${[first, ...(second ? [second] : [])].map(d => d.key).join(', ')}) AS count,
            ${sumsAgain(n)} ${joined}`,
      values,
    ),
    // Unfiltered in base currency the total is the whole ledger: no need to add it up again.
    q.currency || onCustomer.length ? ledgerBalance(database, past) : null,
  ])
  return {
    rows: rows.map(r => {
      return {
        keys: two ? [r.key0, r.key1] : [r.key0],
        names: two ? [r.name0, r.name1] : [r.name0],
        sortValue: page.column !== 'name' && typeof r.sortValue === 'string' ? int(r.sortValue) : r.sortValue,
        ...figures(r, n),
      }
    }),
    totals: { ...figures(total!, n), count: int(total!.count) },
    ledger: ledger ?? int(total!.total),
  }
}
