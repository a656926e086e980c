import { oldestOf, rowOf, type Position, type PositionRow } from './position'

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

export type SortedRow = PositionRow & { sortValue: string | number }

const names = new Intl.Collator('en', { sensitivity: 'base' })
const compareKeys = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0)

/** The columns of figures that a sort adds up: from one up to another, which is not in it. */
function spanOf(width: number, column: SortColumn): [from: number, to: number] {
  if (column === 'onAccount') return [width - 1, width]
  if (column === 'overdue') return [1, width - 1]
  const bucket = column.startsWith('b') ? Number(column.slice(1)) : width
  // A bucket the house does not have sorts as the total.
  return bucket < width - 1 ? [bucket, bucket + 1] : [0, width]
}

/** What each of some groups is sorted by, in figures. */
function figuresOf(position: Position, groups: Int32Array, column: SortColumn, day: number): Float64Array {
  const { figures, width } = position.sums
  const values = new Float64Array(groups.length)
  if (column === 'oldest') {
    groups.forEach((group, n) => {
      const oldest = oldestOf(position, group)
      values[n] = oldest === null ? NO_AGE : day - oldest
    })
    return values
  }
  const [from, to] = spanOf(width, column)
  for (let n = 0; n < groups.length; n++) {
    const at = groups[n]! * width
    let sum = 0
    for (let i = at + from; i < at + to; i++) sum += figures[i]!
    values[n] = sum
  }
  return values
}

const keyOf = (position: Position, group: number) => position.labels(group).keys.join('\n')
const nameOf = (position: Position, group: number) => position.labels(group).names.join('\n')

/** One page, and one row more when there is a further one. */
export function pageOf(position: Position, ask: PageAsk): SortedRow[] {
  const groups = ask.column === 'name' ? byName(position, ask) : byFigure(position, ask)
  return groups.map(group => ({
    ...rowOf(position, group),
    sortValue:
      ask.column === 'name'
        ? nameOf(position, group)
        : figuresOf(position, Int32Array.of(group), ask.column, ask.day)[0]!,
  }))
}

function byName(position: Position, { descending, after, limit }: PageAsk): number[] {
  const { used, inOrderOfNames } = position
  const sorted = Array.from(used)
  // Of customers the database said the order already: by name, then by number.
  if (!inOrderOfNames)
    sorted.sort(
      (a, b) =>
        (descending ? -1 : 1) * names.compare(nameOf(position, a), nameOf(position, b)) ||
        compareKeys(keyOf(position, a), keyOf(position, b)),
    )
  else if (descending) sorted.sort((a, b) => names.compare(nameOf(position, b), nameOf(position, a)) || a - b)
  if (!after) return sorted.slice(0, limit + 1)
  const at = sorted.findIndex(group => keyOf(position, group) === after.key)
  // What has left the list since: go on with whatever comes behind its name.
  const next =
    at >= 0
      ? at + 1
      : sorted.findIndex(
          group => (descending ? -1 : 1) * names.compare(nameOf(position, group), String(after.value)) > 0,
        )
  return next < 0 ? [] : sorted.slice(next, next + limit + 1)
}

function byFigure(position: Position, { column, descending, after, limit, day }: PageAsk): number[] {
  const sign = descending ? -1 : 1
  const values = figuresOf(position, position.used, column, day)
  if (descending) for (let n = 0; n < values.length; n++) values[n] = -values[n]!
  const last = after ? sign * Number(after.value) : -Infinity
  const isBehind = (n: number) =>
    values[n]! > last ||
    (after !== null && values[n] === last && keyOf(position, position.used[n]!) > after.key)
  const worst = nth(after ? values.filter((value, n) => value >= last && isBehind(n)) : values, limit)
  const found: { group: number; value: number; key: string }[] = []
  for (let n = 0; n < values.length; n++) {
    const value = values[n]!
    if (value > worst || value < last || (after && !isBehind(n))) continue
    const group = position.used[n]!
    found.push({ group, value, key: keyOf(position, group) })
  }
  return found
    .sort((a, b) => a.value - b.value || compareKeys(a.key, b.key))
    .slice(0, limit + 1)
    .map(f => f.group)
}

/**
 * The value that stands at a place when all are sorted: a page needs nothing beyond it. Hoare's selection:
 * the part in which the place lies is divided again and again.
 */
function nth(values: Float64Array, place: number): number {
  if (values.length <= place) return Infinity
  const list = Float64Array.from(values)
  let [low, high] = [0, list.length - 1]
  while (low < high) {
    const pivot = list[(low + high) >>> 1]!
    let [i, j] = [low, high]
    while (i <= j) {
      while (list[i]! < pivot) i++
      while (list[j]! > pivot) j--
      if (i > j) break
      const kept = list[i]!
      list[i++] = list[j]!
      list[j--] = kept
    }
    if (place <= j) high = j
    else if (place >= i) low = i
    else break
  }
  return list[place]!
}
