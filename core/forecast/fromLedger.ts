import type { Customers, LedgerImage } from '../image'
import { kindOf } from '../image'
import { KINDS } from '../ledger'
import { COLUMNS, emptyPast, ENDED, type House, type Past } from './past'

/**
 * What the ledger tells up to a day: items with their ends, and which they are. Plain columns: they go from
 * thread to thread, and parts of a ledger that is read bit by bit are put together (`joinKnown`).
 */
export interface KnownLedger {
  asOf: number
  past: Past
  house: House
  /** Id of each customer by row. */
  customerIds: Uint32Array
  /** Id of each item. */
  itemIds: Uint32Array
  /** Currency of each item, as a place in their names. */
  currency: Uint8Array
  currencyNames: readonly string[]
  /** What is open of each, in its own currency; and in base by the rate of its posting. */
  open: Float64Array
  openBase: Float64Array
  /** What became of it afterwards; null unless it was asked for. */
  after: After | null
}

/** What became of a ledger from the day of a forecast until another, in base minor units. */
export interface After {
  until: number
  /** Of each item that was open: the money that came for it. */
  came: Float64Array
  /** Whether it ended without money: credited, written off, netted. */
  isLost: Uint8Array
  /** Each day, the day after the forecast first: for what was open then, and for what was written since. */
  openByDay: Float64Array
  newByDay: Float64Array
}

/** Most of an item must have come as money for it to count as paid. */
const MOST_PAID = 0.5

export interface KnownAsk {
  asOf: number
  /** Also what became of it until this day. */
  until?: number
  /** Ids of customers whose items are there; all when left out. */
  only?: ReadonlySet<number>
}

/**
 * Claims of a ledger as the forecast learns from them, by its dates up to a day: `amount` is base currency,
 * `part` of an open one is what is open in its own currency. Customers by their rows, in groups by class.
 */
export function knownLedger(
  ledger: LedgerImage,
  customers: Customers,
  { asOf, until, only }: KnownAsk,
): KnownLedger {
  const { debit, kind, postingDay, dueDay, documentDay, amount, base, currency, id } = ledger.items.column
  const isClaim = (row: number): boolean => debit[row] === 1 && KINDS[kindOf(kind[row]!)].receivable
  const rows: number[] = []
  const newer: number[] = []
  const credits: Map<number, number>[] = []
  const owners: number[] = []
  customers.rows.forEach((customer, row) => {
    if (only && !only.has(customer.id)) {
      credits.push(new Map())
      return
    }
    const claims = [...ledger.itemsOf(customer.id)].filter(isClaim)
    const own = claims.filter(item => postingDay[item]! <= asOf)
    own.sort((a, b) => dueDay[a]! - dueDay[b]! || a - b)
    for (const item of own) {
      rows.push(item)
      owners.push(row)
    }
    if (until !== undefined) newer.push(...claims.filter(item => postingDay[item]! > asOf))
    credits.push(creditsOf(ledger, customer.id, asOf))
  })
  const past = emptyPast(rows.length)
  const known: KnownLedger = {
    ...{ asOf, past },
    house: housesOf(customers),
    customerIds: Uint32Array.from(customers.rows, c => c.id),
    itemIds: new Uint32Array(rows.length),
    currency: new Uint8Array(rows.length),
    currencyNames: [...ledger.currencies],
    open: new Float64Array(rows.length),
    openBase: new Float64Array(rows.length),
    after: null,
  }
  rows.forEach((row, i) => {
    past.customer[i] = owners[i]!
    past.due[i] = dueDay[row]!
    past.written[i] = documentDay[row]!
    past.amount[i] = base[row]!
    known.itemIds[i] = id[row]!
    known.currency[i] = currency[row]!
    endOf(ledger, row, asOf, past, i)
    if (past.ended[i] === ENDED.open) takeCredit(credits[owners[i]!]!, currency[row]!, past, i)
    known.open[i] = past.ended[i] === ENDED.open ? past.part[i]! : 0
    known.openBase[i] = (known.open[i]! / amount[row]!) * base[row]!
    if (past.ended[i] === ENDED.paid) past.part[i] = (past.part[i]! / amount[row]!) * base[row]!
  })
  if (until !== undefined) known.after = afterOf(ledger, rows, newer, past, asOf, until)
  return known
}

/** What came after the day of a forecast: for items that were open, and for those written since. */
function afterOf(
  ledger: LedgerImage,
  rows: readonly number[],
  newer: readonly number[],
  past: Past,
  asOf: number,
  until: number,
): After {
  const days = until - asOf
  const after: After = {
    until,
    came: new Float64Array(rows.length),
    isLost: new Uint8Array(rows.length),
    openByDay: new Float64Array(days),
    newByDay: new Float64Array(days),
  }
  rows.forEach((row, i) => {
    if (past.ended[i] !== ENDED.open) return
    after.came[i] = moneyFor(ledger, row, asOf, until, after.openByDay)
    const then = emptyPast(1)
    endOf(ledger, row, until, then, 0)
    after.isLost[i] = then.ended[0] === ENDED.otherwise ? 1 : 0
  })
  for (const row of newer) moneyFor(ledger, row, asOf, until, after.newByDay)
  return after
}

/** Base money that came for a claim after one day and up to another; each day's is added to its day. */
function moneyFor(
  ledger: LedgerImage,
  row: number,
  asOf: number,
  until: number,
  byDay: Float64Array,
): number {
  const { kind } = ledger.items.column
  const { credit, effectiveDay, debitBase } = ledger.allocations.column
  let sum = 0
  for (const a of ledger.allocationsOf(row)) {
    const day = effectiveDay[a]!
    if (day <= asOf || day > until || !KINDS[kindOf(kind[credit[a]!]!)].money) continue
    sum += debitBase[a]!
    byDay[day - asOf - 1]! += debitBase[a]!
  }
  return sum
}

/** What is open of each item in base, by what it is worth in the books; of an ended one what came. */
export const baseParts = ({ past, openBase }: KnownLedger): Float64Array =>
  Float64Array.from(past.part, (part, i) => (past.ended[i] === ENDED.open ? openBase[i]! : part))

const rowsOf = new WeakMap<KnownLedger, ReadonlyMap<number, number>>()

/** The row of a customer; -1 of one that is not there. */
export function rowOfCustomer(known: KnownLedger, id: number): number {
  let rows = rowsOf.get(known)
  if (!rows) rowsOf.set(known, (rows = new Map([...known.customerIds].map((own, row) => [own, row]))))
  return rows.get(id) ?? -1
}

/**
 * One ledger from its parts, each with customers of its own, in the order of customers. Customers and houses
 * are those of all.
 */
export function joinKnown(parts: readonly KnownLedger[]): KnownLedger {
  const first = parts[0]!
  const count = parts.reduce((sum, p) => sum + p.past.count, 0)
  const names = [...new Set(parts.flatMap(p => p.currencyNames))]
  const past = emptyPast(count)
  const withAfter = first.after !== null
  const joined: KnownLedger = {
    ...first,
    past,
    itemIds: new Uint32Array(count),
    currency: new Uint8Array(count),
    currencyNames: names,
    open: new Float64Array(count),
    openBase: new Float64Array(count),
    after: withAfter
      ? { ...first.after!, came: new Float64Array(count), isLost: new Uint8Array(count) }
      : null,
  }
  if (joined.after) {
    joined.after.openByDay = sumOf(parts.map(p => p.after!.openByDay))
    joined.after.newByDay = sumOf(parts.map(p => p.after!.newByDay))
  }
  let at = 0
  for (const p of parts) {
    for (const column of COLUMNS) past[column].set(p.past[column], at)
    joined.itemIds.set(p.itemIds, at)
    joined.open.set(p.open, at)
    joined.openBase.set(p.openBase, at)
    joined.currency.set(
      p.currency.map(place => names.indexOf(p.currencyNames[place]!)),
      at,
    )
    joined.after?.came.set(p.after!.came, at)
    joined.after?.isLost.set(p.after!.isLost, at)
    at += p.past.count
  }
  return joined
}

const sumOf = (lists: readonly Float64Array[]): Float64Array =>
  Float64Array.from(lists[0]!, (_, n) => lists.reduce((sum, list) => sum + list[n]!, 0))

/** Money and credit notes on an account that are not assigned yet, by currency. */
function creditsOf(ledger: LedgerImage, customerId: number, asOf: number): Map<number, number> {
  const { debit, postingDay, amount, currency } = ledger.items.column
  const { effectiveDay, amount: allocated } = ledger.allocations.column
  const credits = new Map<number, number>()
  for (const row of ledger.itemsOf(customerId)) {
    if (debit[row] === 1 || postingDay[row]! > asOf) continue
    let open = amount[row]!
    for (const a of ledger.allocationsOf(row)) if (effectiveDay[a]! <= asOf) open -= allocated[a]!
    if (open > 0) credits.set(currency[row]!, (credits.get(currency[row]!) ?? 0) + open)
  }
  return credits
}

/** What lies on account already does not come again: it goes to what was due first. */
function takeCredit(credits: Map<number, number>, currency: number, past: Past, i: number): void {
  const left = credits.get(currency) ?? 0
  const taken = Math.min(left, past.part[i]!)
  if (!taken) return
  credits.set(currency, left - taken)
  past.part[i]! -= taken
}

/** How an item ended by a day, when, and what of it came as money or is open, in its own currency. */
function endOf(ledger: LedgerImage, row: number, asOf: number, past: Past, i: number): void {
  const { kind, amount } = ledger.items.column
  const { credit, effectiveDay, amount: allocated } = ledger.allocations.column
  let open = amount[row]!
  let money = 0
  let last = -Infinity
  let largest = { day: -Infinity, amount: 0 }
  for (const a of ledger.allocationsOf(row)) {
    if (effectiveDay[a]! > asOf) continue
    open -= allocated[a]!
    last = Math.max(last, effectiveDay[a]!)
    if (!KINDS[kindOf(kind[credit[a]!]!)].money) continue
    money += allocated[a]!
    if (allocated[a]! > largest.amount) largest = { day: effectiveDay[a]!, amount: allocated[a]! }
  }
  const isPaid = open <= 0 && money > MOST_PAID * amount[row]!
  past.ended[i] = open > 0 ? ENDED.open : isPaid ? ENDED.paid : ENDED.otherwise
  past.end[i] = open > 0 ? asOf : isPaid ? largest.day : last
  past.part[i] = open > 0 ? open : Math.max(0, money)
}

/** Customers of one class borrow from each other first. */
function housesOf(customers: Customers): House {
  const places = new Map<string, number>()
  const group = Uint16Array.from(customers.rows, c => {
    const place = places.get(c.class) ?? places.size
    places.set(c.class, place)
    return place
  })
  const ids = Uint32Array.from(customers.rows, c => c.id)
  return { customers: customers.count, group, groups: Math.max(1, places.size), ids }
}
