import type { Handle } from '../../db/handle'
import { agingQuery, type AgingRow } from '../../../contract/aging'
import type { Scope } from '../people/scope'
import { sheetFile, type SheetFile } from '../common/sheet'
import { readAging, type AgingRequest } from './aging'

const PAGE = agingQuery.shape.limit.parse(500)

/** The whole filtered aging as a file, amounts in major units. */
export async function exportAging(
  database: Handle,
  q: Omit<AgingRequest, 'limit' | 'cursor'> & { format: 'csv' | 'xlsx' },
  scope: Scope,
): Promise<SheetFile> {
  const rows: AgingRow[] = []
  let page = await readAging(database, { ...q, limit: PAGE, cursor: undefined }, scope)
  rows.push(...page.items)
  while (page.next) {
    page = await readAging(database, { ...q, limit: PAGE, cursor: page.next }, scope)
    rows.push(...page.items)
  }
  const { currency, amounts, onAccount, total } = page.totals
  const within = q.within ? [{ header: 'within' }, { header: 'within name', width: 30 }] : []
  const columns = [
    { header: 'number' },
    { header: 'name', width: 36 },
    ...within,
    { header: 'currency' },
    ...[...page.buckets.map(b => b.label), 'on account', 'total'].map(header => ({ header, currency })),
  ]
  return sheetFile(
    `aging-${page.asOf}`,
    q.format,
    columns,
    rows.map(r => [
      r.customer.number,
      r.customer.name,
      ...(r.within ? [r.within.number, r.within.name] : []),
      currency,
      ...r.amounts,
      r.onAccount,
      r.total,
    ]),
    ['', 'All', ...within.map(() => ''), currency, ...amounts, onAccount, total],
  )
}
