import { kindOf, type Customers, type LedgerImage, type Open } from '../image'
import { KINDS } from '../ledger'

/*
 * The figures of the first screen that the ledger tells: what was posted since the last working day, what
 * fell overdue, what money lies unallocated. Base currency, minor units.
 */

export interface Sum {
  count: number
  amount: number
}

export interface DayFigures {
  /** Money that came since, without what was taken back; positive. */
  received: Sum
  /** Since the month began. */
  receivedThisMonth: Sum
  /** Claims less credit notes. */
  billed: Sum
  /** Money of a day before that came back since. */
  returned: Sum
  /** Open debits that were due on the last working day or since, and are late now. */
  overdue: Sum
  /** The largest of them. */
  newlyOverdue: { itemId: number; amount: number }[]
  /** Money that is not allocated; positive. */
  unallocated: Sum
}

export interface DayAsk {
  /** Days since 1970. */
  today: number
  since: number
  /** The month began on the day after. */
  monthEnd: number
  /** By row of a customer, 1 for those that count; null for all. */
  wanted: Uint8Array | null
  /** How many of the newly overdue are listed. */
  most: number
}

const none = (): Sum => ({ count: 0, amount: 0 })

export const noFigures = (): DayFigures => ({
  received: none(),
  receivedThisMonth: none(),
  billed: none(),
  returned: none(),
  overdue: none(),
  newlyOverdue: [],
  unallocated: none(),
})

const count = (sum: Sum, amount: number): void => {
  sum.count++
  sum.amount += amount
}

const largestFirst = (a: { itemId: number; amount: number }, b: { itemId: number; amount: number }) =>
  b.amount - a.amount || a.itemId - b.itemId

/** The item that a reversal takes back, or that takes this one back; -1 without one. */
function otherOfReversal(image: LedgerImage, row: number): number {
  const { debit, credit } = image.allocations.column
  const { kind } = image.items.column
  for (const link of image.allocationsOf(row)) {
    const other = debit[link] === row ? credit[link]! : debit[link]!
    if (kindOf(kind[row]!) === 'reversal' || kindOf(kind[other]!) === 'reversal') return other
  }
  return -1
}

/** The figures of a day. */
export function dayFigures(image: LedgerImage, customers: Customers, open: Open, ask: DayAsk): DayFigures {
  const figures = noFigures()
  const { today, since, monthEnd, wanted } = ask
  const { customer, kind, debit, base, postingDay, id, dueDay } = image.items.column
  const counts = (customerId: number): boolean => {
    const who = customers.rowOf(customerId)
    return who >= 0 && (wanted === null || wanted[who] === 1)
  }
  const first = Math.min(since, monthEnd + 1)
  for (let row = 0; row < image.items.count; row++) {
    const day = postingDay[row]!
    if (day < first || day > today || !counts(customer[row]!)) continue
    const what = KINDS[kindOf(kind[row]!)]
    if (what.money) {
      if (otherOfReversal(image, row) >= 0) continue
      if (day >= since) count(figures.received, base[row]!)
      if (day > monthEnd) count(figures.receivedThisMonth, base[row]!)
      continue
    }
    if (day < since) continue
    if (what.receivable) count(figures.billed, debit[row] === 1 ? base[row]! : -base[row]!)
    if (kindOf(kind[row]!) !== 'reversal' || debit[row] === 0) continue
    const taken = otherOfReversal(image, row)
    if (taken >= 0 && KINDS[kindOf(kind[taken]!)].money && postingDay[taken]! < day)
      count(figures.returned, base[row]!)
  }
  const { table } = open
  for (let place = 0; place < table.count; place++) {
    const amount = table.base[place]!
    const row = table.item[place]!
    if ((amount === 0 && table.amount[place] === 0) || !counts(table.customer[place]!)) continue
    if (table.debit[place] === 0) {
      if (KINDS[kindOf(kind[row]!)].money) count(figures.unallocated, amount)
      continue
    }
    if (dueDay[row]! < since || dueDay[row]! >= today) continue
    count(figures.overdue, amount)
    figures.newlyOverdue.push({ itemId: id[row]!, amount })
  }
  figures.newlyOverdue = figures.newlyOverdue.sort(largestFirst).slice(0, ask.most)
  return figures
}

/** Adds the figures of other customers. */
export function addFigures(to: DayFigures, { newlyOverdue, ...sums }: DayFigures, most: number): void {
  for (const name of Object.keys(sums) as (keyof typeof sums)[]) {
    to[name].count += sums[name].count
    to[name].amount += sums[name].amount
  }
  to.newlyOverdue = [...to.newlyOverdue, ...newlyOverdue].sort(largestFirst).slice(0, most)
}
