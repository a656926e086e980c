import type { LedgerImage } from './ledger'
import { OpenTable } from './openTable'

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

/** What is open at a moment. Only to be read. */
export interface Open {
  table: OpenTable
}

/** What is open at a moment, from the rows alone: their amounts less the allocations in effect. */
export function openFromRows(image: LedgerImage, { day, known }: Moment): Open {
  const { items, allocations } = image
  const lastEntry = known ?? Infinity
  const table = OpenTable.empty(image)
  const isThere = (row: number): boolean =>
    items.column.postingDay[row]! <= day && items.column.entry[row]! <= lastEntry
  for (let row = 0; row < items.count; row++) if (isThere(row)) table.add(row)
  const { entry, effectiveDay } = allocations.column
  for (let row = 0; row < allocations.count; row++)
    if (effectiveDay[row]! <= day && entry[row]! <= lastEntry) takeOff(image, table, row)
  table.inOrder()
  return { table }
}

/** Takes an allocation off what is open of its two items. */
function takeOff(image: LedgerImage, table: OpenTable, row: number): void {
  const { debit, credit, amount, debitBase, creditBase } = image.allocations.column
  table.move(debit[row]!, -amount[row]!, -debitBase[row]!)
  table.move(credit[row]!, -amount[row]!, -creditBase[row]!)
}

/** What is open on a day, or now without one, kept up as the ledger grows. */
class Kept {
  private constructor(
    private readonly image: LedgerImage,
    readonly table: OpenTable,
    /** Later than this nothing counts. */
    private readonly day: number,
    private items: number,
    private allocations: number,
  ) {}

  static now(image: LedgerImage): Kept {
    return new Kept(image, OpenTable.empty(image), Infinity, 0, 0)
  }

  /** Brings it up to the rows of the image. */
  catchUp(): void {
    const { items, allocations } = this.image
    if (items.count === this.items && allocations.count === this.allocations) return
    const isFirst = this.items === 0
    for (let row = this.items; row < items.count; row++)
      if (items.column.postingDay[row]! <= this.day) this.table.add(row)
    for (let row = this.allocations; row < allocations.count; row++)
      if (allocations.column.effectiveDay[row]! <= this.day) takeOff(this.image, this.table, row)
    this.items = items.count
    this.allocations = allocations.count
    if (isFirst) this.table.inOrder()
  }

  /** The same of a day before: what was allocated since is put back. */
  before(day: number): Kept {
    return new Kept(this.image, this.table.before(day), day, this.items, this.allocations)
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
    this.now = Kept.now(image)
  }

  get bytes(): number {
    return [this.now, ...this.past.values()].reduce((sum, { table }) => sum + table.bytes, 0)
  }

  /** Brings it up to the rows of the image. */
  catchUp(): void {
    this.now.catchUp()
  }

  /** Customers became one: whose items are whose is read again. */
  readCustomers(): void {
    for (const { table } of [this.now, ...this.past.values()]) table.readCustomers()
  }

  /** What was open at a moment. */
  at(moment: Moment): Open {
    if (moment.known !== null) return openFromRows(this.image, moment)
    if (moment.day >= this.image.lastDay) return this.now
    const then = this.past.get(moment.day) ?? this.now.before(moment.day)
    then.catchUp()
    this.past.delete(moment.day)
    this.past.set(moment.day, then)
    const [oldest] = this.past.keys()
    if (this.past.size > PAST_DAYS) this.past.delete(oldest!)
    return then
  }
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
