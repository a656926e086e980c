import ExcelJS from 'exceljs'
import type { Handle } from '../../db/handle'
import { agingQuery, type AgingRow } from '../../../contract/aging'
import { minorDigits, toMajor } from '../../../core/money'
import { defuse, writeCsv } from '../../../formats/csv'
import { readAging, type AgingRequest } from './aging'
import type { Scope } from '../people/scope'

/** The whole filtered aging as a file, amounts in major units. */
export async function exportAging(
  database: Handle,
  q: Omit<AgingRequest, 'limit' | 'cursor'> & { format: 'csv' | 'xlsx' },
  scope: Scope,
) {
  const rows: AgingRow[] = []
  let page = await readAging(
    database,
    { ...q, limit: agingQuery.shape.limit.parse(500), cursor: undefined },
    scope,
  )
  rows.push(...page.items)
  while (page.next) {
    page = await readAging(database, { ...q, limit: 500, cursor: page.next }, scope)
    rows.push(...page.items)
  }
  const currency = page.totals.currency
  const header = ['number', 'name', 'currency', ...page.buckets.map(b => b.label), 'on account', 'total']
  const name = `aging-${page.asOf}.${q.format}`
  if (q.format === 'csv') {
    const csv = writeCsv(
      header,
      rows.map(r => [
        r.customer.number,
        r.customer.name,
        currency,
        ...[...r.amounts, r.onAccount, r.total].map(a => toMajor(a, currency)),
      ]),
    )
    return { name, type: 'text/csv; charset=utf-8', bytes: Buffer.from(csv, 'utf8') }
  }
  const book = new ExcelJS.Workbook()
  const sheet = book.addWorksheet(`Aging ${page.asOf}`, { views: [{ state: 'frozen', ySplit: 1 }] })
  const digits = minorDigits(currency)
  sheet.addRow(header).font = { bold: true }
  for (const r of rows)
    sheet.addRow([
      defuse(r.customer.number),
      defuse(r.customer.name),
      currency,
      ...[...r.amounts, r.onAccount, r.total].map(a => Number(toMajor(a, currency))),
    ])
  const total = sheet.addRow([
    '',
    'All',
    currency,
    ...[...page.totals.amounts, page.totals.onAccount, page.totals.total].map(a =>
      Number(toMajor(a, currency)),
    ),
  ])
  total.font = { bold: true }
  header.forEach((_, i) => {
    const column = sheet.getColumn(i + 1)
    column.width = i === 1 ? 36 : 15
    if (i > 2) column.numFmt = digits ? `#,##0.${'0'.repeat(digits)}` : '#,##0'
  })
  return {
    name,
    type: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    bytes: Buffer.from(await book.xlsx.writeBuffer()),
  }
}
