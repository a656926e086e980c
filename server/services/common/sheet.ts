import ExcelJS from 'exceljs'
import { minorDigits, toMajor } from '../../../core/money'
import { defuse, writeCsv } from '../../../formats/csv'

/** A column of a table that is written to a file; with a currency, its cells are amounts in minor units. */
export interface SheetColumn {
  header: string
  currency?: string
  width?: number
}

export type SheetCell = string | number | null

export interface SheetFile {
  name: string
  type: string
  bytes: Buffer
}

/** A table as a file, amounts in major units. `total`: a last row that stands out, in workbooks only. */
export async function sheetFile(
  name: string,
  format: 'csv' | 'xlsx',
  columns: readonly SheetColumn[],
  rows: readonly (readonly SheetCell[])[],
  total?: readonly SheetCell[],
): Promise<SheetFile> {
  const header = columns.map(c => c.header)
  const text = (cell: SheetCell, { currency }: SheetColumn) =>
    cell === null ? '' : currency && typeof cell === 'number' ? toMajor(cell, currency) : String(cell)
  if (format === 'csv') {
    const csv = writeCsv(
      header,
      rows.map(row => row.map((cell, i) => text(cell, columns[i]!))),
    )
    return { name: `${name}.csv`, type: 'text/csv; charset=utf-8', bytes: Buffer.from(csv, 'utf8') }
  }
  const book = new ExcelJS.Workbook()
  const sheet = book.addWorksheet(name.slice(0, 31), { views: [{ state: 'frozen', ySplit: 1 }] })
  const cellOf = (cell: SheetCell, column: SheetColumn) =>
    typeof cell === 'number'
      ? column.currency
        ? Number(toMajor(cell, column.currency))
        : cell
      : defuse(cell ?? '')
  sheet.addRow(header).font = { bold: true }
  for (const row of rows) sheet.addRow(row.map((cell, i) => cellOf(cell, columns[i]!)))
  if (total) sheet.addRow(total.map((cell, i) => cellOf(cell, columns[i]!))).font = { bold: true }
  columns.forEach(({ currency, width }, i) => {
    const column = sheet.getColumn(i + 1)
    column.width = width ?? 15
    if (!currency) return
    const digits = minorDigits(currency)
    column.numFmt = digits ? `#,##0.${'0'.repeat(digits)}` : '#,##0'
  })
  return {
    name: `${name}.xlsx`,
    type: 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet',
    bytes: Buffer.from(await book.xlsx.writeBuffer()),
  }
}
