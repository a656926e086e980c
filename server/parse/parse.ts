import { CsvFault, readCsv, type CsvTable } from '../../formats/csv'
import type { Converted, Guess, ImportKind, ImportMap, Sheet } from '../../formats/table'
import { TableFault } from '../../formats/table/fault'
import { readAdvice, type Advice } from '../../formats/remittance'
import {
  csvHeader,
  decodeText,
  guessMap,
  readStatements,
  StatementFault,
  type ColumnMap,
  type Statement,
} from '../../formats/statements'

/** What may be asked of a parsing thread, and what it answers. */
export interface Parses {
  table: { ask: object; answer: CsvTable }
  statement: {
    ask: { csv?: { map: ColumnMap | null; currency: string; account: string } }
    answer: Statement[]
  }
  columns: {
    ask: object
    answer: { header: string[]; map: ColumnMap; sample: Record<string, string>[] }
  }
  advice: { ask: { currency: string }; answer: Advice }
  look: { ask: { kind?: ImportKind }; answer: Look }
  convert: { ask: { map: ImportMap }; answer: Converted & { names: string[] } }
}
/** A table before anybody said what it holds. `names`: of its columns, by which its layout is remembered. */
export interface Look extends Guess {
  format: Sheet['format']
  encoding: string
  delimiter: string
  rows: number
  top: string[][]
  topLines: number[]
  names: string[]
}
export type ParseKind = keyof Parses

export type Task = {
  [K in ParseKind]: { kind: K; bytes: Uint8Array; ask: Parses[K]['ask'] }
}[ParseKind]

/** What is wrong with a file, told so that its sender can mend it. */
export interface FileFault {
  message: string
  satisfy: string
  path: string
  line?: number
  /** Each line that is wrong, when there are several. */
  all?: readonly { line: number; message: string }[]
}

export type Parsed =
  | { ok: true; answer: unknown }
  | { ok: false; fault: FileFault }
  /** Our reader stumbled: the file is unreadable for its sender, and a fault of ours for us. */
  | { ok: false; stumble: string[] }

/** So much of a cell is shown in a sample. */
const SHOWN = 200

/** So many rows are shown, beside those above the names. */
const TOP = 40
const namesOf = (sheet: Sheet, map: ImportMap) => (sheet.rows[map.headerRow] ?? []).map(String)

const WORK: {
  [K in ParseKind]: (
    bytes: Uint8Array,
    ask: Parses[K]['ask'],
  ) => Parses[K]['answer'] | Promise<Parses[K]['answer']>
} = {
  // Workbooks and the names of countries take a moment to load: only who needs them waits for it.
  look: async (bytes, { kind }) => {
    const { guessImport, readSheet } = await import('../../formats/table')
    const sheet = await readSheet(bytes)
    const guess = guessImport(sheet, kind)
    const { format, encoding, delimiter, rows } = sheet
    const topLines = sheet.lines.slice(0, TOP)
    const top = rows.slice(0, TOP).map(r => r.map(c => String(c).slice(0, SHOWN)))
    return {
      ...guess,
      format,
      encoding,
      delimiter,
      rows: rows.length,
      top,
      topLines,
      names: namesOf(sheet, guess.map),
    }
  },
  convert: async (bytes, { map }) => {
    const { convertSheet, readSheet } = await import('../../formats/table')
    const sheet = await readSheet(bytes)
    return { ...convertSheet(sheet, map), names: namesOf(sheet, map) }
  },
  table: bytes => readCsv(utf8(bytes)),
  statement: (bytes, { csv }) => readStatements(bytes, csv),
  advice: (bytes, { currency }) => readAdvice(bytes, currency),
  columns: bytes => {
    const { header, rows } = csvHeader(decodeText(bytes))
    const cells = rows.map(r => r.cells)
    const sample = cells
      .slice(0, 5)
      .map(c => Object.fromEntries(Object.entries(c).map(([k, v]) => [k, v.slice(0, SHOWN)])))
      // No JSON has such a field.
      .map(({ __proto__: _, ...c }) => c)
    return { header, map: guessMap(header, cells.slice(0, 50)), sample }
  },
}

function utf8(bytes: Uint8Array): string {
  return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes)
}

/** Runs in a thread of its own: whatever a file does there, nobody waits for it. */
export async function parse({ kind, bytes, ask }: Task): Promise<Parsed> {
  try {
    return { ok: true, answer: await WORK[kind](bytes, ask as never) }
  } catch (error) {
    if (error instanceof StatementFault) {
      const { message, satisfy, path } = error
      return { ok: false, fault: { message, satisfy, path } }
    }
    if (error instanceof TableFault) {
      const { message, satisfy } = error
      return { ok: false, fault: { message, satisfy, path: 'file' } }
    }
    if (error instanceof CsvFault) {
      const { message, line, all } = error
      return { ok: false, fault: { message, satisfy: 'mend that line', path: `line ${line}`, line, all } }
    }
    const stack = error instanceof Error ? (error.stack ?? '').split('\n') : []
    return { ok: false, stumble: stack.filter(l => /^\s+at /.test(l)).slice(0, 6) }
  }
}
