import type { Customers, LedgerImage, Open } from '../image'
import { ITEM_KINDS, KINDS, type Movement } from '../ledger'
import type { Bucket } from './index'
import { placeAt, placesOf } from './position'

/*
 * From the aging of one day to that of another: what was there, what came, what became older, what went and
 * why. All in base currency; the parts of each column add up, to the cent.
 */

export const BRIDGE_PARTS = [
  'billed',
  'older',
  'paid',
  'credited',
  'allowed',
  'refunded',
  'reversed',
  'rates',
] as const
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
  refunded: 'refunded',
  reversed: 'reversed',
}

/** By code of a kind of item the place of the part that it moves. */
const PART_OF_KIND = Uint8Array.from(ITEM_KINDS, kind => BRIDGE_PARTS.indexOf(PART[KINDS[kind].movement]))
const OLDER = BRIDGE_PARTS.indexOf('older')
const REFUNDED = BRIDGE_PARTS.indexOf('refunded')
const RATES = BRIDGE_PARTS.indexOf('rates')

/** By row of a customer, 1 for those that count, looked up by the id that items bear. */
function countedIds(customers: Customers, wanted: Uint8Array | null): Uint8Array {
  const { rowById } = customers
  return Uint8Array.from(rowById, row => (row >= 0 && (wanted === null || wanted[row] === 1) ? 1 : 0))
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
  tell: ((move: BridgeMove) => void) | null = null,
): Bridge {
  const { from, to, buckets } = ask
  const onAccount = buckets.length
  const width = onAccount + 1
  const { items, allocations } = image
  const i = items.column
  const a = allocations.column
  const places = placesOf(buckets)
  const counts = countedIds(customers, ask.wanted)
  const [opening, closing] = [new Float64Array(width), new Float64Array(width)]
  const parts = new Float64Array(BRIDGE_PARTS.length * width)
  const move = (part: number, column: number, row: number, amount: number): void => {
    if (amount === 0) return
    parts[part * width + column]! += amount
    if (tell !== null) tell({ part: BRIDGE_PARTS[part]!, column, itemId: i.id[row]!, amount })
  }

  const before = openAt(from).table
  const beforeAges = ask.basis === 'due' ? before.dueDay : before.documentDay
  for (let place = 0; place < before.count; place++) {
    const base = before.base[place]!
    if (base === 0 || counts[before.customer[place]!] !== 1) continue
    if (before.debit[place] === 0) {
      opening[onAccount]! -= base
      continue
    }
    const then = placeAt(places, from - beforeAges[place]!)
    const now = placeAt(places, to - beforeAges[place]!)
    opening[then]! += base
    if (then === now) continue
    move(OLDER, then, before.item[place]!, -base)
    move(OLDER, now, before.item[place]!, base)
  }
  const after = openAt(to).table
  const afterAges = ask.basis === 'due' ? after.dueDay : after.documentDay
  for (let place = 0; place < after.count; place++) {
    const base = after.base[place]!
    if (base === 0 || counts[after.customer[place]!] !== 1) continue
    if (after.debit[place] === 0) closing[onAccount]! -= base
    else closing[placeAt(places, to - afterAges[place]!)]! += base
  }

  const agesBy = ask.basis === 'due' ? i.dueDay : i.documentDay
  for (let row = 0; row < items.count; row++) {
    const day = i.postingDay[row]!
    if (day <= from || day > to || counts[i.customer[row]!] !== 1) continue
    const part = PART_OF_KIND[i.kind[row]!]!
    if (i.debit[row] === 0) move(part, onAccount, row, -i.base[row]!)
    else move(part, placeAt(places, to - agesBy[row]!), row, i.base[row]!)
  }
  for (let row = 0; row < allocations.count; row++) {
    const day = a.effectiveDay[row]!
    if (day <= from || day > to) continue
    const debit = a.debit[row]!
    const credit = a.credit[row]!
    if (counts[i.customer[debit]!] !== 1) continue
    // What is taken off is told by what pays, and credit that went back by what closes it; the difference of
    // rates between the two is told apart.
    const closes = PART_OF_KIND[i.kind[debit]!]!
    const part = closes === REFUNDED ? REFUNDED : PART_OF_KIND[i.kind[credit]!]!
    const column = placeAt(places, to - agesBy[debit]!)
    const paid = a.creditBase[row]!
    move(part, column, debit, -paid)
    move(RATES, column, debit, paid - a.debitBase[row]!)
    move(part, onAccount, credit, paid)
  }
  return {
    opening: figuresOf(opening),
    closing: figuresOf(closing),
    parts: Object.fromEntries(
      BRIDGE_PARTS.map((part, n) => [part, figuresOf(parts.subarray(n * width, (n + 1) * width))]),
    ) as Record<BridgePart, BridgeFigures>,
  }
}

/** Plain figures; a sum that cancels is 0, never -0. */
const figuresOf = (sums: Float64Array): BridgeFigures => Array.from(sums, sum => sum || 0)

/** Adds a bridge to another, of other customers over the same days. */
export function addBridge(to: Bridge, more: Bridge): void {
  const add = (row: BridgeFigures, other: BridgeFigures) => other.forEach((amount, n) => (row[n]! += amount))
  add(to.opening, more.opening)
  add(to.closing, more.closing)
  for (const part of BRIDGE_PARTS) add(to.parts[part], more.parts[part])
}
