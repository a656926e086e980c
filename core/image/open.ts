import type { LedgerImage } from './ledger'

/**
 * A day, and what of the ledger counts: all of it, or the entries up to one (`known`), as it would have been
 * told then.
 */
export interface Moment {
  /** Days since 1970. */
  day: number
  /** Id of the last entry that counts; null for all. */
  known: number | null
}

/**
 * What is open of each item, by row, in its currency and in base currency: never below zero, and 0 of an item
 * that was not posted yet.
 */
export interface Open {
  amount: Float64Array
  base: Float64Array
}

/** Which allocations count: rows, days of effect and entries, bounds included. */
interface Span {
  fromRow: number
  afterDay: number
  untilDay: number
  lastEntry: number
}

const ALL: Span = { fromRow: 0, afterDay: -Infinity, untilDay: Infinity, lastEntry: Infinity }

/** Takes allocations off what is open of their items (`sign` -1), or puts them back (1). */
function move(image: LedgerImage, open: Open, sign: 1 | -1, span: Span): void {
  const { entry, debit, credit, amount, debitBase, creditBase, effectiveDay } = image.allocations.column
  const { fromRow, afterDay, untilDay, lastEntry } = span
  for (let row = fromRow; row < image.allocations.count; row++) {
    const day = effectiveDay[row]!
    if (day <= afterDay || day > untilDay || entry[row]! > lastEntry) continue
    const moved = sign * amount[row]!
    open.amount[debit[row]!]! += moved
    open.amount[credit[row]!]! += moved
    open.base[debit[row]!]! += sign * debitBase[row]!
    open.base[credit[row]!]! += sign * creditBase[row]!
  }
}

/** What is open at a moment, from the rows alone: their amounts less the allocations in effect. */
export function openFromRows(image: LedgerImage, { day, known }: Moment): Open {
  const { items } = image
  const lastEntry = known ?? Infinity
  const open = {
    amount: items.column.amount.slice(0, items.count),
    base: items.column.base.slice(0, items.count),
  }
  clear(image, open, day, lastEntry)
  move(image, open, -1, { ...ALL, untilDay: day, lastEntry })
  return open
}

/** Items that were not posted by that day, or not known, have nothing open. */
function clear(image: LedgerImage, open: Open, day: number, lastEntry: number): void {
  const { postingDay, entry } = image.items.column
  for (let row = 0; row < image.items.count; row++) {
    if (postingDay[row]! <= day && entry[row]! <= lastEntry) continue
    open.amount[row] = 0
    open.base[row] = 0
  }
}

/**
 * What is open now, kept up as the ledger grows. A question about a past day starts from it and puts back
 * what was allocated since, so its cost follows the changes since then, not the age of the ledger.
 */
export class OpenNow {
  private open: Open = { amount: new Float64Array(0), base: new Float64Array(0) }
  private items = 0
  private allocations = 0

  constructor(private readonly image: LedgerImage) {}

  get bytes(): number {
    return this.open.amount.byteLength + this.open.base.byteLength
  }

  /** Brings it up to the rows of the image. */
  catchUp(): void {
    const { items, allocations } = this.image
    if (items.count > this.open.amount.length) {
      const room = this.items === 0 ? items.count : Math.ceil(items.count * 1.125) + 512
      this.open = { amount: grown(this.open.amount, room), base: grown(this.open.base, room) }
    }
    const { amount, base } = items.column
    this.open.amount.set(amount.subarray(this.items, items.count), this.items)
    this.open.base.set(base.subarray(this.items, items.count), this.items)
    this.items = items.count
    move(this.image, this.open, -1, { ...ALL, fromRow: this.allocations })
    this.allocations = allocations.count
  }

  /** What was open at a moment. Only to be read: of today these are the arrays that are kept up. */
  at(moment: Moment): Open {
    if (moment.known !== null) return openFromRows(this.image, moment)
    if (moment.day >= this.image.lastDay) return this.open
    const { items } = this.image
    const open = {
      amount: this.open.amount.slice(0, items.count),
      base: this.open.base.slice(0, items.count),
    }
    move(this.image, open, 1, { ...ALL, afterDay: moment.day })
    clear(this.image, open, moment.day, Infinity)
    return open
  }
}

function grown(array: Float64Array, room: number): Float64Array {
  const more = new Float64Array(room)
  more.set(array)
  return more
}

/** What is open of one item at a moment, from its own allocations. */
export function openOfItem(
  image: LedgerImage,
  item: number,
  { day, known }: Moment,
): { amount: number; base: number } {
  const { amount, base, postingDay, entry } = image.items.column
  const lastEntry = known ?? Infinity
  if (postingDay[item]! > day || entry[item]! > lastEntry) return { amount: 0, base: 0 }
  const open = { amount: amount[item]!, base: base[item]! }
  const a = image.allocations.column
  for (const row of image.allocationsOf(item)) {
    if (a.effectiveDay[row]! > day || a.entry[row]! > lastEntry) continue
    open.amount -= a.amount[row]!
    open.base -= a.debit[row] === item ? a.debitBase[row]! : a.creditBase[row]!
  }
  return open
}
