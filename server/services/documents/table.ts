import { z } from 'zod'
import { cell } from '../../db/rows'
import { sameNumber } from '../../../core/documents'
import type { Refusal } from '../../../core/ledger'
import type { Fault } from '../../../contract/common'
import { MOST_ROWS, type CsvTable } from '../../../formats/csv'
import type { Handle } from '../../db/handle'
import { parseFile } from '../../parse'
import { ProblemError } from '../common/problems'

export interface ImportOptions {
  dryRun: boolean
  skipExisting: boolean
  /** Customers that are there already are changed where the file says otherwise. */
  update?: boolean
  /** Documents that were open before these books began: against opening balances. */
  opening?: boolean
}
/** Called between steps; throws to stop, and then nothing of the import stays. */
export type Progress = (step: string, done: number, total: number) => Promise<void>
export const MAX_ROWS = MOST_ROWS
const SAMPLE = 5
/** So much of a cell is shown. */
const SHOWN = 200

/** The first rows, to look at: bounded, whatever the cells hold. */
export const sampleOf = (rows: readonly { cells: object }[]): Record<string, string>[] =>
  rows
    .slice(0, SAMPLE)
    .map(r => Object.fromEntries(Object.entries(r.cells).map(([k, v]) => [k, String(v).slice(0, SHOWN)])))

/** Why a file was not taken: every bad row is told at once, by line and column. */
export function nothingImported(faults: readonly Refusal[]): ProblemError {
  const n = new Set(faults.map(f => f.line)).size
  const list = faults.map(({ path, line, column, message }): Fault => ({ path, line, column, message }))
  const detail =
    `${n} row${n === 1 ? ' is' : 's are'} wrong: mend ${n === 1 ? 'it' : 'them'} and import the file ` +
    'again'
  return new ProblemError(422, 'Nothing was imported', detail, list)
}

/** The table with our names of its columns: "Due Date" and "due-date" are due_date. */
function withOurNames(table: CsvTable, columns: readonly string[]): CsvTable {
  const ours = (name: string) => {
    const plain = name.replace(/[\s-]+/g, '_')
    return columns.includes(plain) && !table.header.includes(plain) ? plain : name
  }
  const header = table.header.map(ours)
  if (header.every((name, i) => name === table.header[i])) return table
  const rows = table.rows.map(({ line, cells }) => ({
    line,
    cells: Object.fromEntries(table.header.map((name, i) => [header[i]!, cells[name]!])),
  }))
  return { header, rows }
}

/** A table that came as a file. Throws ProblemError. */
export async function readTable(
  text: string,
  columns: readonly string[],
  required: readonly string[],
): Promise<{ table: CsvTable; unknownColumns: string[] }> {
  const table = await parseFile('table', Buffer.from(text, 'utf8'), {}, 'Not a CSV table')
  const renamed = withOurNames(table, columns)
  const named = renamed.header
  const missing = required.filter(c => !named.includes(c))
  if (missing.length) {
    throw new ProblemError(
      422,
      'Columns are missing',
      `the header lacks ${missing.join(', ')}: the columns are ${columns.join(', ')}`,
      missing.map(c => ({ path: `line 1, ${c}`, line: 1, column: c, message: 'this column is missing' })),
    )
  }
  if (!renamed.rows.length)
    throw new ProblemError(422, 'No rows', 'the file has a header and no rows: add a row for each record')
  if (renamed.rows.length > MAX_ROWS)
    throw new ProblemError(
      413,
      'Too many rows',
      `at most ${MAX_ROWS} rows in one file, this one has ${renamed.rows.length}: split it`,
    )
  return { table: renamed, unknownColumns: named.filter(h => !columns.includes(h)) }
}

const existingRow = z.object({
  value: cell.text,
})

/** Which of these values stand in a column already. */
export async function existing(database: Handle, sql: string, values: string[]): Promise<Set<string>> {
  const found = new Set<string>()
  for (let at = 0; at < values.length; at += 5000) {
    for (const row of await database.rows(existingRow, sql, { values: values.slice(at, at + 5000) }))
      found.add(sameNumber(row.value))
  }
  return found
}
