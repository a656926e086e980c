import type { AgedBalance } from './index'
import type { PositionRow } from './position'

/** The columns that an aging is sorted by; `b0` … `b5` are its buckets. */
export type SortColumn = 'name' | 'total' | 'onAccount' | 'overdue' | 'oldest' | `b${0 | 1 | 2 | 3 | 4 | 5}`

export interface PageAsk {
  column: SortColumn
  descending: boolean
  /** The last row of the page before: what it was sorted by, and its key. */
  after: { value: string | number; key: string } | null
  limit: number
  /** The as-of date, in days since 1970. */
  day: number
}

/** Sorted below whatever is open for longest: nothing is due on it. */
const NO_AGE = -99_999

export const overdueOf = ({ amounts }: AgedBalance): number => amounts.slice(1).reduce((a, b) => a + b, 0)

/** Keys of a row as one text: what the next page goes on after. */
export const keyOf = (row: PositionRow): string => row.keys.join('\n')
const nameOf = (row: PositionRow): string => row.names.join('\n')

/** What a row is sorted by. A bucket the house does not have sorts as the total. */
export function sortValue(row: PositionRow, column: SortColumn, day: number): string | number {
  if (column === 'name') return nameOf(row)
  if (column === 'total') return row.total
  if (column === 'onAccount') return row.onAccount
  if (column === 'overdue') return overdueOf(row)
  if (column === 'oldest') return row.oldest === null ? NO_AGE : day - row.oldest
  return row.amounts[Number(column.slice(1))] ?? row.total
}

const names = new Intl.Collator('en', { sensitivity: 'base', numeric: false })
const compareText = (a: string, b: string): number => names.compare(a, b) || (a < b ? -1 : a > b ? 1 : 0)

interface Sorted {
  row: PositionRow
  value: string | number
  key: string
}

/** One page, and one row more when there is a further one. */
export function pageOf(rows: readonly PositionRow[], ask: PageAsk): PositionRow[] {
  const sign = ask.descending ? -1 : 1
  const compare = (a: Omit<Sorted, 'row'>, b: Omit<Sorted, 'row'>): number => {
    const byValue =
      typeof a.value === 'number' && typeof b.value === 'number'
        ? a.value - b.value
        : compareText(String(a.value), String(b.value))
    return byValue ? sign * byValue : compareText(a.key, b.key)
  }
  const after = ask.after
  const list: Sorted[] = []
  for (const row of rows) {
    const sorted = { row, value: sortValue(row, ask.column, ask.day), key: keyOf(row) }
    if (!after || compare(sorted, after) > 0) list.push(sorted)
  }
  return firstOf(list, ask.limit + 1, sign)
    .sort(compare)
    .slice(0, ask.limit + 1)
    .map(s => s.row)
}

/** At least so many of the first, by value alone: sorting a page costs less than sorting all. */
function firstOf(list: Sorted[], n: number, sign: 1 | -1): Sorted[] {
  if (list.length <= n || typeof list[0]!.value === 'string') return list
  const values = Float64Array.from(list, s => sign * (s.value as number)).sort()
  const worst = values[n - 1]!
  return list.filter(s => sign * (s.value as number) <= worst)
}
