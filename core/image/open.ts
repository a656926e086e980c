import type { LedgerImage } from './ledger'
import { OpenTable, type Amounts } from './openTable'

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
 * that was not posted yet. Only to be read.
 */
export interface Open extends Amounts {
  /** The same without what is closed, customer by customer. */
  table: OpenTable
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
function move(image: LedgerImage, open: Amounts, sign: 1 | -1, span: Span): void {
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
  return told(image, open)
}

/** With a table that is made when it is asked for. */
function told(image: LedgerImage, { amount, base }: Amounts): Open {
  let table: OpenTable | undefined
  return {
    amount,
    base,
    get table() {
      return (table ??= OpenTable.of(image, { amount, base }))
    },
  }
}

/** Items that were not posted by that day, or not known, have nothing open. */
function clear(image: LedgerImage, open: Amounts, day: number, lastEntry: number): void {
  const { postingDay, entry } = image.items.column
  for (let row = 0; row < image.items.count; row++) {
    if (postingDay[row]! <= day && entry[row]! <= lastEntry) continue
    open.amount[row] = 0
    open.base[row] = 0
  }
}

/** What is open on a day, or now without one, kept up as the ledger grows. */
class Kept {
  amounts: Amounts = { amount: new Float64Array(0), base: new Float64Array(0) }
  items = 0
  allocations = 0
  private table: OpenTable | null = null

  constructor(
    private readonly image: LedgerImage,
    /** Later than this nothing counts. */
    private readonly day: number,
  ) {}

  get bytes(): number {
    return this.amounts.amount.byteLength + this.amounts.base.byteLength + (this.table?.bytes ?? 0)
  }

  /** Brings it up to the rows of the image. */
  catchUp(): void {
    const { items, allocations } = this.image
    if (items.count === this.items && allocations.count === this.allocations) return
    if (items.count > this.amounts.amount.length) {
      const room = this.items === 0 ? items.count : Math.ceil(items.count * 1.125) + 512
      const { amount, base } = this.amounts
      this.amounts = { amount: grown(amount, room), base: grown(base, room) }
    }
    const { amount, base, postingDay } = items.column
    for (let row = this.items; row < items.count; row++) {
      const isThere = postingDay[row]! <= this.day
      this.amounts.amount[row] = isThere ? amount[row]! : 0
      this.amounts.base[row] = isThere ? base[row]! : 0
    }
    move(this.image, this.amounts, -1, { ...ALL, fromRow: this.allocations, untilDay: this.day })
    const [firstItem, firstAllocation] = [this.items, this.allocations]
    this.items = items.count
    this.allocations = allocations.count
    if (this.table && !this.touchFrom(this.table, firstItem, firstAllocation)) this.table = null
  }

  /** Customers became one: whose items are whose is read again. */
  forgetTable(): void {
    this.table = null
  }

  open(): Open {
    const kept = { ...this.amounts, table: () => (this.table ??= OpenTable.of(this.image, this.amounts)) }
    return {
      amount: kept.amount,
      base: kept.base,
      get table() {
        return kept.table()
      },
    }
  }

  /** Brings the table up to new items and allocations; false when it had to be made anew. */
  private touchFrom(table: OpenTable, firstItem: number, firstAllocation: number): boolean {
    const { debit, credit } = this.image.allocations.column
    for (let row = firstItem; row < this.items; row++) if (!table.touch(row, this.amounts)) return false
    for (let row = firstAllocation; row < this.allocations; row++)
      if (!table.touch(debit[row]!, this.amounts) || !table.touch(credit[row]!, this.amounts)) return false
    return true
  }

  /** The same of a day before: what was allocated since is put back. */
  before(day: number): Kept {
    const then = new Kept(this.image, day)
    const { amount, base } = this.amounts
    then.amounts = { amount: amount.slice(0, this.items), base: base.slice(0, this.items) }
    then.items = this.items
    then.allocations = this.allocations
    move(this.image, then.amounts, 1, { ...ALL, afterDay: day })
    clear(this.image, then.amounts, day, Infinity)
    return then
  }
}

/** So many past days are kept up beside today: whoever looks at one pages, sorts and filters it. */
const PAST_DAYS = 2

/**
 * What is open now, kept up as the ledger grows. A question about a past day starts from it and puts back
 * what was allocated since, so its cost follows the changes since then, not the age of the ledger; the days
 * that were asked for last are kept up too.
 */
export class OpenNow {
  private readonly now: Kept
  /** The one asked for last stands last. */
  private readonly past = new Map<number, Kept>()

  constructor(private readonly image: LedgerImage) {
    this.now = new Kept(image, Infinity)
  }

  get bytes(): number {
    return [this.now, ...this.past.values()].reduce((sum, kept) => sum + kept.bytes, 0)
  }

  /** Brings it up to the rows of the image. */
  catchUp(): void {
    this.now.catchUp()
  }

  /** Customers became one: whose items are whose is read again. */
  forgetTables(): void {
    for (const kept of [this.now, ...this.past.values()]) kept.forgetTable()
  }

  /** What was open at a moment. */
  at(moment: Moment): Open {
    if (moment.known !== null) return openFromRows(this.image, moment)
    if (moment.day >= this.image.lastDay) return this.now.open()
    const then = this.past.get(moment.day) ?? this.now.before(moment.day)
    then.catchUp()
    this.past.delete(moment.day)
    this.past.set(moment.day, then)
    const [oldest] = this.past.keys()
    if (this.past.size > PAST_DAYS) this.past.delete(oldest!)
    return then.open()
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
