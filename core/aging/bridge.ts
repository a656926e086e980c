import { kindOf, type Customers, type LedgerImage, type Open } from '../image'
import { KINDS, type Movement } from '../ledger'
import type { Bucket } from './index'
import { placeAt, placesOf } from './position'

/*
 * From the aging of one day to that of another: what was there, what came, what became older, what went and
 * why. All in base currency; the parts of each column add up, to the cent.
 */

export const BRIDGE_PARTS = ['billed', 'older', 'paid', 'credited', 'allowed', 'reversed', 'rates'] as const
export type BridgePart = (typeof BRIDGE_PARTS)[number]

/** Figures of one row: one a bucket, then credit on account. */
export type BridgeFigures = number[]

export interface Bridge {
  opening: BridgeFigures
  parts: Record<BridgePart, BridgeFigures>
  closing: BridgeFigures
}

export interface BridgeAsk {
  /** Days since 1970; the first before the second. */
  from: number
  to: number
  basis: 'due' | 'document'
  buckets: readonly Bucket[]
  /** By row of a customer, 1 for those that count; null for all. */
  wanted: Uint8Array | null
}

/** One thing that moved: an item of a part, in a column. */
export interface BridgeMove {
  part: BridgePart
  column: number
  itemId: number
  amount: number
}

const emptyRow = (columns: number): BridgeFigures => Array.from({ length: columns }, () => 0)

export function emptyBridge(columns: number): Bridge {
  const parts = Object.fromEntries(BRIDGE_PARTS.map(part => [part, emptyRow(columns)]))
  return {
    opening: emptyRow(columns),
    parts: parts as Record<BridgePart, BridgeFigures>,
    closing: emptyRow(columns),
  }
}

/** The part that a kind of item moves when it is posted, and when it is allocated. */
const PART: Readonly<Record<Movement, BridgePart>> = {
  billed: 'billed',
  paid: 'paid',
  credited: 'credited',
  allowed: 'allowed',
  reversed: 'reversed',
}

/**
 * The bridge from one day to another. `openAt`: what is open on a day. `tell` is told of every move, for the
 * Make-up of a part; without it only sums are made.
 */
export function bridge(
  image: LedgerImage,
  customers: Customers,
  openAt: (day: number) => Open,
  ask: BridgeAsk,
  tell: (move: BridgeMove) => void = () => {},
): Bridge {
  const { from, to, buckets } = ask
  const onAccount = buckets.length
  const result = emptyBridge(onAccount + 1)
  const { items, allocations } = image
  const i = items.column
  const a = allocations.column
  const agesBy = ask.basis === 'due' ? i.dueDay : i.documentDay
  const places = placesOf(buckets)
  const counts = (row: number): boolean => {
    const who = customers.rowOf(i.customer[row]!)
    return who >= 0 && (ask.wanted === null || ask.wanted[who] === 1)
  }
  const columnOf = (row: number, day: number): number =>
    i.debit[row] === 1 ? placeAt(places, day - agesBy[row]!) : onAccount
  const move = (part: BridgePart, column: number, row: number, amount: number): void => {
    if (amount === 0) return
    result.parts[part][column]! += amount
    tell({ part, column, itemId: i.id[row]!, amount })
  }
  /** What was open on a day, item by item, signed. */
  const eachOpen = (day: number, told: (row: number, open: number) => void): void => {
    const { table } = openAt(day)
    for (let place = 0; place < table.count; place++) {
      const base = table.base[place]!
      const row = table.item[place]!
      if (base !== 0 && counts(row)) told(row, table.debit[place] === 1 ? base : -base)
    }
  }

  eachOpen(from, (row, open) => {
    const [before, now] = [columnOf(row, from), columnOf(row, to)]
    result.opening[before]! += open
    if (before === now) return
    move('older', before, row, -open)
    move('older', now, row, open)
  })
  eachOpen(to, (row, open) => (result.closing[columnOf(row, to)]! += open))
  for (let row = 0; row < items.count; row++) {
    const day = i.postingDay[row]!
    if (day <= from || day > to || !counts(row)) continue
    const sign = i.debit[row] === 1 ? 1 : -1
    move(PART[KINDS[kindOf(i.kind[row]!)].movement], columnOf(row, to), row, sign * i.base[row]!)
  }
  for (let row = 0; row < allocations.count; row++) {
    const day = a.effectiveDay[row]!
    if (day <= from || day > to) continue
    const debit = a.debit[row]!
    const credit = a.credit[row]!
    if (!counts(debit)) continue
    // What is taken off is told by what pays; the difference of rates between the two is told apart.
    const part = PART[KINDS[kindOf(i.kind[credit]!)].movement]
    const column = columnOf(debit, to)
    move(part, column, debit, -a.creditBase[row]!)
    move('rates', column, debit, a.creditBase[row]! - a.debitBase[row]!)
    move(part, onAccount, credit, a.creditBase[row]!)
  }
  return result
}

/** Adds a bridge to another, of other customers over the same days. */
export function addBridge(to: Bridge, more: Bridge): void {
  const add = (row: BridgeFigures, other: BridgeFigures) => other.forEach((amount, n) => (row[n]! += amount))
  add(to.opening, more.opening)
  add(to.closing, more.closing)
  for (const part of BRIDGE_PARTS) add(to.parts[part], more.parts[part])
}
