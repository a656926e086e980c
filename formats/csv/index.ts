import { parse } from 'csv-parse/sync'
import { stringify } from 'csv-stringify/sync'

/** A CSV file (RFC 4180) that cannot be read as a table. */
export class CsvFault extends Error {
  constructor(
    message: string,
    readonly line: number,
    /** Every line that is wrong, when there may be several. */
    readonly all: readonly { line: number; message: string }[] = [{ line, message }],
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

const DELIMITERS = [',', ';', '\t'] as const

/** What a spreadsheet writes above the header to say what divides the cells: sep=; */
const SEP_LINE = /^\uFEFF?sep=([,;\t|])\r?\n/i

/** Comma, semicolon or tab, whichever the header line uses most outside quotes. */
function delimiterOf(text: string): string {
  const header =
    text
      .slice(0, 20_000)
      .replace(/"(?:[^"]|"")*"/g, '')
      .split(/\r?\n/)
      .find(l => l.trim()) ?? ''
  const uses = (delimiter: string) => header.split(delimiter).length - 1
  return [...DELIMITERS].sort((x, y) => uses(y) - uses(x))[0]!
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
export function readCsv(source: string): CsvTable {
  const named = SEP_LINE.exec(source)
  const text = named ? source.slice(named[0].length) : source
  const above = named ? 1 : 0
  let records: { record: string[]; info: { lines: number } }[]
  try {
    // One kind of line end, so that lines are counted as an editor counts them.
    records = parse(text.replace(/\r\n?/g, '\n'), {
      bom: true,
      delimiter: named?.[1] ?? delimiterOf(text),
      info: true,
      relax_column_count: true,
      skip_empty_lines: true,
      // One more than is taken, so that whoever takes it can tell.
      to: MOST_ROWS + 2,
    }) as unknown as typeof records
  } catch (error) {
    const { code = '', lines = 1, message } = error as { code?: string; lines?: number; message: string }
    throw new CsvFault(FAULTS[code] ?? message, lines + above)
  }
  const [head, ...body] = records
  if (!head) throw new CsvFault('the file is empty: the first line must name the columns', 1)
  const header = withoutEmptyEnd(head.record.map(h => h.trim().toLowerCase()))
  const twice = header.find((h, i) => header.indexOf(h) !== i)
  if (twice !== undefined) throw new CsvFault(`the column "${twice}" stands twice in the header`, 1 + above)
  const ragged: { line: number; message: string }[] = []
  const rows = body.flatMap(({ record, info }): CsvRow[] => {
    const cells = record.map(c => c.trim())
    // A spreadsheet writes the empty rows below a table, and empty columns beside it.
    if (cells.every(c => c === '')) return []
    // `lines` counts to the end of the record; quoted line breaks lie before it.
    const line = info.lines + above - record.reduce((n, c) => n + (c.match(/\n/g)?.length ?? 0), 0)
    const fits = cells.length >= header.length && cells.slice(header.length).every(c => c === '')
    if (!fits) {
      const message = `this row has ${record.length} cells, the header has ${header.length}`
      ragged.push({ line, message })
      return []
    }
    return [{ line, cells: Object.fromEntries(header.map((h, i) => [h, cells[i]!])) }]
  })
  if (ragged.length) throw new CsvFault(ragged[0]!.message, ragged[0]!.line, ragged)
  return { header, rows }
}

function withoutEmptyEnd(cells: string[]): string[] {
  let end = cells.length
  while (end > 1 && cells[end - 1] === '') end--
  return cells.slice(0, end)
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

/** A cell as it was before it was made harmless: what we wrote is read again as it was meant. */
export const undefuse = (cell: string): string => (/^'[=+\-@\t\r]/.test(cell) ? cell.slice(1) : cell)

/** Writes RFC 4180 with CRLF line ends, harmless in a spreadsheet. */
export const writeCsv = (header: string[], rows: (string | number)[][]): string =>
  joinCsv(
    header,
    rows.map(r => r.map(defuse)),
  )

/** The same for our own readers: cells as they are. */
export function joinCsv(header: string[], rows: (string | number)[][]): string {
  // A line break of any kind stands within quotes, whatever ends the rows.
  return stringify([header, ...rows], {
    record_delimiter: 'windows',
    quoted_match: /[\r\n]/,
  })
}
