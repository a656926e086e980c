import { z } from 'zod'
import { fieldCells } from './cells'
import { cell } from '../../db/rows'
import { FIELDS, FIELD_NAMES, type Field, type Value } from '../../../core/accounts'
import { toMajor } from '../../../core/money'
import { CUSTOMER_COLUMNS, CUSTOMER_REFERENCES } from '../../../contract/documents'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { like } from '../common/paging'
import { sheetFile, type SheetFile } from '../common/sheet'
import type { Scope } from '../people/scope'

type CustomerCells = Record<Field | (typeof CUSTOMER_REFERENCES)[number], Value> & { number: string }

const exportCustomersRow = z.object({
  ...fieldCells,
  controller: cell.text,
  sales: cell.text,
  parent: cell.text,
  number: cell.text,
})

/** Customers in the columns of the import, so that a file may be changed and read again. */
export async function exportCustomers(
  database: Handle,
  q: { search?: string; format: 'csv' | 'xlsx' },
  scope: Scope,
): Promise<SheetFile> {
  const { base, today } = await readSettings(database)
  const values: Values = { salesId: scope.salesId ?? 0 }
  const where = ['c.merged_into IS NULL']
  if (scope.salesId) where.push('c.sales_id = :salesId')
  if (q.search) {
    where.push('(c.name LIKE :search OR c.number LIKE :search)')
    values.search = like(q.search)
  }
  const rows = await database.rows(
    exportCustomersRow,
    `SELECT c.number, ${FIELD_NAMES.map(f => `c.${FIELDS[f].column} AS ${f}`).join(', ')},
      COALESCE(p.number, '') AS parent, COALESCE(pc.email, '') AS controller, COALESCE(ps.email, '') AS sales
      FROM customer c LEFT JOIN customer p ON p.id = c.parent_id
      LEFT JOIN person pc ON pc.id = c.controller_id LEFT JOIN person ps ON ps.id = c.sales_id
      WHERE ${where.join(' AND ')} ORDER BY c.number`,
    values,
  )
  const cellOf = (row: CustomerCells, field: Field): string => {
    const value = row[field]
    if (value === null) return ''
    // In the currency of the limit: that is how the import reads it.
    return FIELDS[field].form === 'money'
      ? toMajor(int(value), String(row.limitCurrency || base))
      : String(value)
  }
  return sheetFile(
    `customers-${today}`,
    q.format,
    CUSTOMER_COLUMNS.map(header => ({ header, width: header === 'name' ? 36 : 15 })),
    rows.map(row => [
      row.number,
      ...FIELD_NAMES.map(field => cellOf(row, field)),
      ...CUSTOMER_REFERENCES.map(column => String(row[column])),
    ]),
  )
}
