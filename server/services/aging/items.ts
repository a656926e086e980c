import { z } from 'zod'
import { daysLate } from '../../../core/calendar'
import type { AgingItems, agingItemsQuery } from '../../../contract/aging'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { openAsOfSql } from '../../ledger/asOf'
import { cut, decodeCursor } from '../common/paging'
import type { Scope } from '../people/scope'
import { customerWhere, inForce } from './request'
import { bucketSql, dateSql, dimensionSql } from './tables'

export type AgingItemsRequest = z.infer<typeof agingItemsQuery>

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

/** The items that a figure of an aging is made of, adding up to it. */
export async function readAgingItems(
  database: Handle,
  q: AgingItemsRequest,
  scope: Scope,
): Promise<AgingItems> {
  const { settings, asOf, past, buckets, dimensions, without } = await inForce(database, q)
  const values: Values = { asOf, known: past.known }
  const date = dateSql(q.basis)
  const open = q.currency ? 's.open' : 's.base_open'
  const where = ['1 = 1', ...customerWhere(q, scope, values)]
  if (q.currency) {
    where.push('s.currency = :currency')
    values.currency = q.currency
  }
  const shown = dimensions.map(d => dimensionSql(d, scope))
  ;[q.key, q.withinKey].forEach((key, i) => {
    if (key === undefined || !dimensions[i]) return
    where.push(`${dimensions[i] === 'currency' ? 's.currency' : shown[i]!.key} = :key${i}`)
    values[`key${i}`] = key
  })
  if (without.length) {
    where.push('s.item_id NOT IN (:without)')
    values.without = without
  }
  if (q.bucket === 'onAccount') where.push('s.open < 0')
  else if (q.bucket === 'overdue') where.push(`s.open > 0 AND ${date} < :asOf`)
  else if (q.bucket !== 'all') {
    const bucket = buckets[Number(q.bucket)]
    where.push(bucket ? `s.open > 0 AND ${bucketSql(bucket, date, asOf)}` : '1 = 0')
  }
  const from = `FROM ${openAsOfSql(past)} s
    JOIN customer c ON c.id = s.customer_id ${shown.map(d => d.join).join(' ')} WHERE ${where.join(' AND ')}`
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
