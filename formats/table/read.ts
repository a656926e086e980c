import { parse } from 'csv-parse/sync'
import ExcelJS from 'exceljs'
import { MOST_ROWS } from '../csv'
import { decodeAs } from '../encoding'
import { TableFault } from './fault'

/** A cell as the file has it: text, or a number that a workbook keeps as one. Days are written YYYY-MM-DD. */
export type Cell = string | number

/** A file as a table, before anybody says what its columns are. */
export interface Sheet {
  format: 'CSV' | 'XLSX'
  /** Of the text; empty for a workbook. */
  encoding: string
  /** What divides the cells; empty for a workbook. */
  delimiter: string
  rows: Cell[][]
  /** Of each row, the line or row of the file where it begins, from 1. */
  lines: number[]
}

const isZip = (bytes: Uint8Array) => bytes[0] === 0x50 && bytes[1] === 0x4b
const isOldWorkbook = (bytes: Uint8Array) => bytes[0] === 0xd0 && bytes[1] === 0xcf

/** Reads any table: a workbook of XLSX, or text of any encoding and divider. Throws TableFault. */
export async function readSheet(bytes: Uint8Array): Promise<Sheet> {
  if (!bytes.length) throw new TableFault('the file is empty', 'choose another file')
  if (isOldWorkbook(bytes))
    throw new TableFault('this is a workbook of the old form (XLS)', 'save it as XLSX or CSV')
  const sheet = isZip(bytes) ? await readWorkbook(bytes) : readText(bytes)
  const kept = sheet.rows.map(r => r.some(c => c !== ''))
  const rows = sheet.rows.filter((_, n) => kept[n])
  if (!rows.length) throw new TableFault('the file holds no rows', 'choose another file')
  return { ...sheet, rows, lines: sheet.lines.filter((_, n) => kept[n]) }
}

const LABELS: Record<string, string> = {
  'utf-8': 'UTF-8',
  'utf-16le': 'UTF-16',
  'utf-16be': 'UTF-16',
  'windows-1252': 'Windows-1252',
}

/**
 * The encoding of a text: by its mark (BOM), by its zero bytes for UTF-16, UTF-8 where all of it is, else
 * Windows-1252, in which every byte is a sign and which is what spreadsheets of western Europe write.
 */
export function encodingOf(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return 'utf-16le'
  if (bytes[0] === 0xfe && bytes[1] === 0xff) return 'utf-16be'
  const start = bytes.subarray(0, 2000)
  const zeros = [0, 1].map(odd => start.filter((b, n) => b === 0 && n % 2 === odd).length)
  if (zeros[1]! > start.length / 4) return 'utf-16le'
  if (zeros[0]! > start.length / 4) return 'utf-16be'
  try {
    new TextDecoder('utf-8', { fatal: true }).decode(bytes)
    return 'utf-8'
  } catch {
    return 'windows-1252'
  }
}

const DELIMITERS = [';', '\t', ',', '|'] as const
const SEP_LINE = /^sep=([,;\t|])\r?\n/i

/** What divides the cells: the sign that most of the first lines have equally often. */
function delimiterOf(text: string): string {
  const lines = text
    .slice(0, 50_000)
    .replace(/"(?:[^"]|"")*"/g, '')
    .split(/\r?\n/)
    .filter(l => l.trim())
    .slice(0, 30)
  const score = (delimiter: string) => {
    const counts = lines.map(l => l.split(delimiter).length - 1).filter(n => n > 0)
    const [most] = [...new Set(counts)].sort(
      (a, b) => counts.filter(c => c === b).length - counts.filter(c => c === a).length,
    )
    return most === undefined ? 0 : counts.filter(c => c === most).length * (1 + Math.log(most))
  }
  return [...DELIMITERS].sort((a, b) => score(b) - score(a))[0]!
}

function readText(bytes: Uint8Array): Sheet {
  const encoding = encodingOf(bytes)
  // A browser strips the mark of UTF-8; so does this.
  const whole = decodeAs(bytes, encoding).replace(/\r\n?/g, '\n')
  const named = SEP_LINE.exec(whole)
  const text = named ? whole.slice(named[0].length) : whole
  const delimiter = named?.[1] ?? delimiterOf(text)
  let records: { record: string[]; info: { lines: number } }[]
  try {
    records = parse(text, {
      delimiter,
      info: true,
      relax_column_count: true,
      relax_quotes: true,
      skip_empty_lines: true,
      to: MOST_ROWS + 20,
    }) as unknown as typeof records
  } catch (error) {
    const { lines = 1, message } = error as { lines?: number; message: string }
    throw new TableFault(`line ${lines}: ${message}`, 'save it again as CSV, or as XLSX')
  }
  const above = named ? 1 : 0
  return {
    format: 'CSV',
    encoding: LABELS[encoding]!,
    delimiter,
    rows: records.map(r => r.record.map(c => c.trim())),
    lines: records.map(
      ({ record, info }) =>
        info.lines + above - record.reduce((n, c) => n + (c.match(/\n/g)?.length ?? 0), 0),
    ),
  }
}

/** The first worksheet that holds something. Formulas count by what they came to. */
async function readWorkbook(bytes: Uint8Array): Promise<Sheet> {
  const book = new ExcelJS.Workbook()
  try {
    await book.xlsx.load(Buffer.from(bytes) as unknown as ExcelJS.Buffer)
  } catch {
    throw new TableFault('this workbook cannot be read', 'save it again as XLSX, or as CSV')
  }
  const sheet = book.worksheets.find(w => w.actualRowCount > 0)
  if (!sheet) throw new TableFault('the workbook is empty', 'choose another file')
  const rows: Cell[][] = []
  const lines: number[] = []
  sheet.eachRow((row, line) => {
    const cells: Cell[] = []
    // Cells count from 1, and empty ones are left out.
    row.eachCell({ includeEmpty: true }, (cell, column) => {
      cells[column - 1] = cellOf(cell.value)
    })
    rows.push(Array.from(cells, c => c ?? ''))
    lines.push(line)
  })
  return { format: 'XLSX', encoding: '', delimiter: '', rows, lines }
}

function cellOf(value: ExcelJS.CellValue): Cell {
  if (value === null || value === undefined) return ''
  if (typeof value === 'number') return value
  if (typeof value === 'string') return value.trim()
  if (typeof value === 'boolean') return value ? 'yes' : 'no'
  if (value instanceof Date) return value.toISOString().slice(0, 10)
  if ('richText' in value)
    return value.richText
      .map(part => part.text)
      .join('')
      .trim()
  if ('result' in value) return cellOf(value.result as ExcelJS.CellValue)
  if ('text' in value) return cellOf(value.text as ExcelJS.CellValue)
  return ''
}
