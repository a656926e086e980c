import { CUSTOMER_WORDS, DOCUMENT_WORDS, ORDER_WORDS } from './words'
import type { Cell, Sheet } from './read'

export type ImportKind = 'customers' | 'documents' | 'orders'
export type DateOrder = 'DMY' | 'MDY' | 'YMD'

/** What the columns of a table are, and how its cells are written. */
export interface ImportMap {
  kind: ImportKind
  /** Place of the row with the names, from 0 among the rows that hold something. */
  headerRow: number
  /** Our column → place of theirs, from 0. */
  columns: Record<string, number>
  /** Our column → what stands in every row, where the file has no such column. */
  fixed: Record<string, string>
  order: DateOrder
  decimal: '.' | ','
  /** Documents of less than nothing are credit notes. */
  negativeIsCredit: boolean
  /** Documents of nothing are left out: lists of open items often hold them. */
  leaveOutZero: boolean
}

/** A first idea of the map, and what of it somebody should look at. */
export interface Guess {
  map: ImportMap
  /** Whether 03/04 may be the third of April or the fourth of March, and nothing in the file tells. */
  dateUnsure: boolean
}

const WORDS: Record<ImportKind, Record<string, string>> = {
  customers: CUSTOMER_WORDS,
  documents: DOCUMENT_WORDS,
  orders: ORDER_WORDS,
}

/** Small letters, no accents, words apart by one blank. */
export const plainWords = (text: string): string =>
  text
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/ß/g, 'ss')
    .replace(/[^a-z0-9]+/g, ' ')
    .trim()

/** How well a name of theirs fits a column of ours: 0 not at all. Earlier words fit better. */
function fit(name: string, words: string): number {
  const own = words.split('|')
  const at = own.indexOf(name)
  if (at >= 0) return 100 - at
  const within = own.findIndex(w => w.length > 3 && ` ${name} `.includes(` ${w} `))
  return within >= 0 ? 40 - within : 0
}

/** The best pairs of our columns and theirs, each used once. */
function pair(names: readonly string[], kind: ImportKind): { columns: Record<string, number>; fit: number } {
  const pairs = Object.entries(WORDS[kind])
    .flatMap(([ours, words]) => names.map((name, n) => ({ ours, n, fit: name ? fit(name, words) : 0 })))
    .filter(p => p.fit > 0)
    .sort((a, b) => b.fit - a.fit || a.n - b.n)
  const columns: Record<string, number> = {}
  const taken = new Set<number>()
  let sum = 0
  for (const p of pairs) {
    if (p.ours in columns || taken.has(p.n)) continue
    columns[p.ours] = p.n
    taken.add(p.n)
    sum += p.fit
  }
  return { columns, fit: sum }
}

/** Above the names there may be a title, a date, a company. */
const MOST_ABOVE = 15

const named = (row: readonly Cell[]) => row.map(c => (typeof c === 'string' ? plainWords(c) : ''))

/** Needs of each kind: a table that lacks one of these is hardly one. */
const TELLING: Record<ImportKind, string[]> = {
  customers: ['number', 'name'],
  documents: ['number', 'customer', 'date'],
  orders: ['number', 'customer', 'date'],
}

/** Orders look like documents; these columns only they have. */
const ONLY_ORDERS = ['delivered', 'invoiced', 'state']

/** A first idea of what a table holds. `kind`: somebody said what it is. */
export function guessImport(sheet: Sheet, kind?: ImportKind): Guess {
  const kinds: ImportKind[] = kind ? [kind] : ['documents', 'customers', 'orders']
  const tries = sheet.rows.slice(0, MOST_ABOVE).flatMap((row, headerRow) =>
    kinds.map(k => {
      const found = pair(named(row), k)
      const tells = TELLING[k].filter(c => c in found.columns).length
      const money = k !== 'customers' && ['amount', 'debit', 'credit'].some(c => c in found.columns) ? 1 : 0
      const isOrders = kind === 'orders' || ONLY_ORDERS.some(c => c in found.columns)
      const score = k === 'orders' && !isOrders ? 0 : found.fit + 150 * tells + 150 * money
      return { kind: k, headerRow, columns: found.columns, score }
    }),
  )
  const [best] = tries.sort((a, b) => b.score - a.score || a.headerRow - b.headerRow)
  const { headerRow, columns } = best!
  const body = sheet.rows.slice(headerRow + 1, headerRow + 1001)
  const cells = (...names: string[]) =>
    names.flatMap(c => (c in columns ? body.map(r => r[columns[c]!] ?? '') : [])).filter(c => c !== '')
  // Debit and credit stand for the amount; a column that is all of it is not needed beside them.
  if ('debit' in columns && 'credit' in columns) delete columns.amount
  const dates = dateOrderOf(cells('date', 'due_date', 'discount_date'))
  return {
    map: {
      kind: best!.kind,
      headerRow,
      columns,
      fixed: {},
      order: dates.order,
      decimal: decimalOf(
        cells('amount', 'debit', 'credit', 'tax', 'discount_amount', 'credit_limit', 'delivered', 'invoiced'),
      ),
      negativeIsCredit: true,
      leaveOutZero: true,
    },
    dateUnsure: dates.unsure,
  }
}

/** Day or month first: what is above twelve tells; points between them are a sign of day first. */
export function dateOrderOf(cells: readonly Cell[]): { order: DateOrder; unsure: boolean } {
  const parts = cells.flatMap(c => {
    const found = typeof c === 'string' ? /^(\d{1,4})([./\- ])(\d{1,2})\2(\d{1,4})\b/.exec(c) : null
    return found ? [{ first: Number(found[1]), mark: found[2]!, second: Number(found[3]) }] : []
  })
  if (!parts.length || parts.every(p => p.first > 31)) return { order: 'YMD', unsure: false }
  if (parts.some(p => p.first > 12)) return { order: 'DMY', unsure: false }
  if (parts.some(p => p.second > 12)) return { order: 'MDY', unsure: false }
  return { order: 'DMY', unsure: parts.some(p => p.mark !== '.') }
}

/** Which sign stands before the decimals: the last of two kinds, or one that two digits follow. */
export function decimalOf(cells: readonly Cell[]): '.' | ',' {
  let [commas, points] = [0, 0]
  for (const c of cells) {
    if (typeof c !== 'string') continue
    const [comma, point] = [c.lastIndexOf(','), c.lastIndexOf('.')]
    if (comma >= 0 && point >= 0) {
      if (comma > point) commas++
      else points++
    } else if (/,\d{1,2}\D*$/.test(c)) commas++
    else if (/\.\d{1,2}\D*$/.test(c)) points++
    // Three digits after a single sign are thousands.
    else if (/\d,\d{3}\D*$/.test(c)) points += 0.5
    else if (/\d\.\d{3}\D*$/.test(c)) commas += 0.5
  }
  return commas > points ? ',' : '.'
}
