import type { Customers, CustomerText, Open } from '../image'
import { securedOf } from '../exposure'
import { inForceOn, insuredOn } from './limits'

/*
 * The list of accounts, from the ledger in memory: what each has open and overdue, its exposure and headroom,
 * sorted by any of them, or by what somebody else knows of each (given). Base currency, minor units.
 */

/** Columns that are worked out here; `given` is sorted by values that come with the question. */
export type AccountColumn =
  | 'name'
  | CustomerText
  | 'open'
  | 'overdue'
  | 'oldest'
  | 'exposure'
  | 'limit'
  | 'headroom'
  | 'score'
  | 'daysLate'
  | 'given'

/** Accounts of which something holds. */
export type AccountsOnly = 'open' | 'overdue' | 'over'

/** Of some customers a value each, by id; of the others there is none. */
export interface Given {
  ids: Uint32Array
  values: Float64Array
}

export interface AccountListAsk {
  /** Today, as a day since 1970 and as a date. */
  day: number
  date: string
  /** By row of a customer, 1 for those that count; null for all. */
  wanted: Uint8Array | null
  only: AccountsOnly | null
  /** Amounts that add to exposure beside what is open. */
  addends: Given
  /** What it is sorted by when the column is `given`. */
  given: Given | null
  column: AccountColumn
  descending: boolean
  /** The last row of the page before: what it was sorted by, and its row. */
  after: { value: number; number: string } | null
  limit: number
  /** An amount of a limit in base currency. */
  inBase: (amount: number, currency: string) => number | null
}

export interface AccountFigures {
  customerId: number
  open: number
  overdue: number
  /** Days late of the oldest open debit; null when none is late. */
  oldest: number | null
  exposure: number
  limit: number | null
  headroom: number | null
  sortValue: number
}

export interface AccountList {
  rows: AccountFigures[]
  totals: { count: number; open: number; overdue: number; exposure: number }
}

/** Stands for no value at all: behind all that have one, whichever way it is sorted. */
const NONE = Number.MAX_SAFE_INTEGER

const TEXTS: readonly string[] = ['number', 'className', 'city', 'contact', 'currency', 'controller']
const isText = (column: AccountColumn): column is CustomerText => TEXTS.includes(column)

interface Sums {
  receivables: Float64Array
  credit: Float64Array
  overdue: Float64Array
  /** The earliest due day of an open debit. */
  due: Float64Array
}

function sumsOf(customers: Customers, open: Open, day: number): Sums {
  const many = customers.count
  const sums: Sums = {
    receivables: new Float64Array(many),
    credit: new Float64Array(many),
    overdue: new Float64Array(many),
    due: new Float64Array(many).fill(Infinity),
  }
  const { table } = open
  const { customer, debit, dueDay, base } = table
  const { rowById } = customers
  for (let row = 0; row < table.count; row++) {
    const amount = base[row]!
    if (amount === 0) continue
    const who = rowById[customer[row]!] ?? -1
    if (who < 0) continue
    if (debit[row] === 0) {
      sums.credit[who]! -= amount
      continue
    }
    sums.receivables[who]! += amount
    if (dueDay[row]! < day) sums.overdue[who]! += amount
    if (dueDay[row]! < sums.due[who]!) sums.due[who] = dueDay[row]!
  }
  return sums
}

/** Values by row of a customer; `missing` for those that have none. */
function byRow(customers: Customers, { ids, values }: Given, missing: number): Float64Array {
  const rows = new Float64Array(customers.count).fill(missing)
  ids.forEach((id, n) => {
    const row = customers.rowOf(id)
    if (row >= 0) rows[row] = values[n]!
  })
  return rows
}

/** The list of accounts: one page, and one row more when there is a further one. */
export function accountList(customers: Customers, open: Open, ask: AccountListAsk): AccountList {
  const sums = sumsOf(customers, open, ask.day)
  const addends = byRow(customers, ask.addends, 0)
  const given = ask.given && byRow(customers, ask.given, NONE)
  const figuresOf = (row: number): Omit<AccountFigures, 'sortValue'> => {
    const customer = customers.rows[row]!
    const [receivables, onAccount] = [sums.receivables[row]!, sums.credit[row]!]
    const terms = customer.limit
    const insured = ask.inBase(insuredOn(terms, ask.date), terms.currency) ?? 0
    // The same as `exposureOf`, without its parts: they would be made for every customer.
    const unsecured = receivables + onAccount + addends[row]!
    const exposure = unsecured + securedOf(unsecured, insured)
    const limit =
      terms.amount !== null && inForceOn(terms, ask.date) ? ask.inBase(terms.amount, terms.currency) : null
    const late = ask.day - sums.due[row]!
    return {
      customerId: customer.id,
      open: receivables + onAccount,
      overdue: sums.overdue[row]!,
      oldest: late > 0 ? late : null,
      exposure,
      limit,
      headroom: limit === null ? null : limit - exposure,
    }
  }
  const places = isText(ask.column) ? customers.placesBy(ask.column) : null
  const valueOf = (row: number, figures: Omit<AccountFigures, 'sortValue'>): number => {
    if (ask.column === 'given') return given?.[row] ?? NONE
    // They lie in the order of their names.
    if (ask.column === 'name') return row
    if (ask.column === 'score' || ask.column === 'daysLate') return customers.rows[row]![ask.column] ?? NONE
    return isText(ask.column) ? places![row]! : (figures[ask.column] ?? NONE)
  }
  const rows = new Uint32Array(customers.count)
  const values = new Float64Array(customers.count)
  const totals = { count: 0, open: 0, overdue: 0, exposure: 0 }
  for (let row = 0; row < customers.count; row++) {
    if (customers.rows[row]!.isMerged || (ask.wanted !== null && ask.wanted[row] === 0)) continue
    const figures = figuresOf(row)
    if (ask.only !== null && !holds(ask.only, figures)) continue
    const value = valueOf(row, figures)
    rows[totals.count] = row
    // What has no value stands last, whichever way.
    values[totals.count] = value === NONE || !ask.descending ? value : -value
    totals.count++
    totals.open += figures.open
    totals.overdue += figures.overdue
    totals.exposure += figures.exposure
  }
  const inOrder = pageOf(customers, rows.subarray(0, totals.count), values, ask)
  return {
    rows: inOrder.map(n => ({
      ...figuresOf(rows[n]!),
      sortValue: values[n] === NONE || !ask.descending ? values[n]! : -values[n]! || 0,
    })),
    totals,
  }
}

/** The places of a page in its order, and one more when there is a further one. */
function pageOf(
  customers: Customers,
  rows: Uint32Array,
  values: Float64Array,
  { after, descending, limit }: AccountListAsk,
): number[] {
  const last = after && (descending && after.value !== NONE ? -after.value : after.value)
  // Of the same value the number says which comes first.
  const numbers = customers.placesBy('number')
  const numberAt = (n: number) => numbers[rows[n]!]!
  const lastNumber = after ? customers.placeOfNumber(after.number) : -1
  const behind = new Uint32Array(rows.length)
  let many = 0
  for (let n = 0; n < rows.length; n++)
    if (last === null || values[n]! > last || (values[n] === last && numberAt(n) > lastNumber))
      behind[many++] = n
  const first = firstOf(behind.subarray(0, many), limit + 1, n => values[n]!, numberAt)
  first.sort((a, b) => values[a]! - values[b]! || numberAt(a) - numberAt(b))
  return Array.from(first)
}

/**
 * The `count` smallest by value, of the same value by number; in no order. All are put in order as plain
 * figures, which is many times faster than comparing them two by two.
 */
function firstOf(
  places: Uint32Array,
  count: number,
  valueAt: (place: number) => number,
  numberAt: (place: number) => number,
): Uint32Array {
  if (places.length <= count) return places
  const most = nthOf(places, valueAt, count)
  const first = new Uint32Array(places.length)
  const same = new Uint32Array(places.length)
  let below = 0
  let equal = 0
  for (const n of places) {
    const value = valueAt(n)
    if (value < most) first[below++] = n
    else if (value === most) same[equal++] = n
  }
  const last = nthOf(same.subarray(0, equal), numberAt, count - below)
  for (const n of same.subarray(0, equal)) if (numberAt(n) <= last) first[below++] = n
  return first.subarray(0, below)
}

/** The value that stands at a place when all are in order; the first is 1. */
function nthOf(places: Uint32Array, valueAt: (place: number) => number, nth: number): number {
  const values = new Float64Array(places.length)
  for (let n = 0; n < places.length; n++) values[n] = valueAt(places[n]!)
  return values.sort()[nth - 1]!
}

function holds(only: AccountsOnly, figures: Omit<AccountFigures, 'sortValue'>): boolean {
  if (only === 'open') return figures.open !== 0
  return only === 'overdue' ? figures.overdue > 0 : (figures.headroom ?? 0) < 0
}
