import { parse } from 'csv-parse/sync'
import { stringify } from 'csv-stringify/sync'

/** A CSV file (RFC 4180) that cannot be read as a table. */
export class CsvFault extends Error {
  constructor(
    message: string,
    readonly line: number,
  ) {
    super(message)
  }
}

export interface CsvRow {
  line: number
  cells: Record<string, string>
}
export interface CsvTable {
  header: string[]
  rows: CsvRow[]
}

/** So many rows are taken from one file. */
export const MOST_ROWS = 500_000

/** Comma or semicolon, whichever the header line uses more outside quotes. */
function delimiterOf(text: string): ',' | ';' {
  const header =
    text
      .slice(0, 20_000)
      .replace(/"(?:[^"]|"")*"/g, '')
      .split(/\r?\n/)
      .find(l => l.trim()) ?? ''
  return (header.match(/;/g)?.length ?? 0) > (header.match(/,/g)?.length ?? 0) ? ';' : ','
}

const FAULTS: Record<string, string> = {
  CSV_QUOTE_NOT_CLOSED: 'a quote is opened and never closed: double the quotes inside a quoted cell',
  INVALID_OPENING_QUOTE:
    'a quote stands inside an unquoted cell: put the whole cell in quotes and double the quotes inside it',
  CSV_INVALID_CLOSING_QUOTE: 'text follows a closing quote: double the quotes inside a quoted cell',
}

/**
 * Reads a CSV with a header. Columns are lower-cased; every row must have as many cells as the header. Throws
 * CsvFault.
 */
export function readCsv(text: string): CsvTable {
  let records: { record: string[]; info: { lines: number } }[]
  try {
    // One kind of line end, so that lines are counted as an editor counts them.
    records = parse(text.replace(/\r\n?/g, '\n'), {
      bom: true,
      delimiter: delimiterOf(text),
      info: true,
      relax_column_count: true,
      skip_empty_lines: true,
      // One more than is taken, so that whoever takes it can tell.
      to: MOST_ROWS + 2,
    }) as unknown as typeof records
  } catch (error) {
    const { code = '', lines = 1, message } = error as { code?: string; lines?: number; message: string }
    throw new CsvFault(FAULTS[code] ?? message, lines)
  }
  const [head, ...body] = records
  if (!head) throw new CsvFault('the file is empty: the first line must name the columns', 1)
  const header = head.record.map(h => h.trim().toLowerCase())
  const twice = header.find((h, i) => header.indexOf(h) !== i)
  if (twice !== undefined) throw new CsvFault(`the column "${twice}" stands twice in the header`, 1)
  const rows = body.map(({ record, info }) => {
    // `lines` counts to the end of the record; quoted line breaks lie before it.
    const line = info.lines - record.reduce((a, c) => a + (c.match(/\n/g)?.length ?? 0), 0)
    if (record.length !== header.length)
      throw new CsvFault(`this row has ${record.length} cells, the header has ${header.length}`, line)
    return { line, cells: Object.fromEntries(header.map((h, i) => [h, record[i]!.trim()])) }
  })
  return { header, rows }
}

/**
 * A cell that a spreadsheet would run as a formula is made plain text (OWASP, CSV injection); plain numbers
 * stay.
 */
export function defuse(cell: string | number): string | number {
  return typeof cell === 'string' && /^[=+\-@\t\r]/.test(cell) && !/^-?\d+(\.\d+)?$/.test(cell)
    ? `'${cell}`
    : cell
}

/** Writes RFC 4180 with CRLF line ends. */
export function writeCsv(header: string[], rows: (string | number)[][]): string {
  return stringify([header, ...rows.map(r => r.map(defuse))], { record_delimiter: 'windows' })
}
