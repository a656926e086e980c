import { fromDayNumber, dayNumber } from '../calendar'
import { ITEM_KINDS, KINDS } from '../ledger'
import type { Customers, LedgerImage } from '../image'
import type { MonthOfSales } from './countBack'

/*
 * The sums of the ledger that measures are made of: of several days and several groups of customers in one
 * pass over items and allocations. All amounts are base currency, minor units; all of them add up, so the
 * sums of two groups of customers are those of both together.
 */

/** So many months are taken off a balance at most. */
export const MONTHS_BACK = 24
/** Later than so many days is long overdue. */
export const LONG_LATE = 90

/** A day that is measured, and the period that ends with it: from the day after `from`. */
export interface MeasuredDay {
  /** Days since 1970. */
  day: number
  from: number
}

export interface Ingredients {
  /** Open debits: without credit on account, which stands by itself. */
  receivables: number
  current: number
  overdue: number
  over90: number
  /** Open credits, negative or zero. */
  onAccount: number
  /** Of them money that came, positive. */
  unallocated: number
  disputed: number
  /** Open debits at the start of the period. */
  opening: number
  /** Invoices, debit notes and fees less credit notes, posted in the period. */
  sales: number
  days: number
  /** Paid in the period, and these amounts times their days late. */
  paid: number
  paidDays: number
  /** Promised for days of the period, by the last day on which it was in time, and what came by then. */
  promised: number
  promiseKept: number
  /** Sales by month, the newest first: of the month of the day what has passed. */
  months: MonthOfSales[]
}

/**
 * A customer says that it does not owe this part of an item, in the item's currency, from one day until
 * another, which is not in it. One that came as a deduction of a payment is there while the payment stands.
 */
export interface Disputed {
  itemId: number
  receiptId: number | null
  amount: number
  from: number
  until: number | null
}

/** Money that was promised for a day that is over, base currency. */
export interface PromiseDue {
  customerId: number
  /** The last day on which it was in time, since 1970. */
  day: number
  amount: number
  /** What of it came by then. */
  kept: number
}

export interface MeasureAsk {
  days: readonly MeasuredDay[]
  /** By row of a customer its group; -1 for those that do not count. */
  groupOf: Int32Array
  groups: number
  disputed: readonly Disputed[]
  promises: readonly PromiseDue[]
}

const flags = (holds: (kind: (typeof ITEM_KINDS)[number]) => boolean): Uint8Array =>
  Uint8Array.from(ITEM_KINDS, kind => (holds(kind) ? 1 : 0))
const IS_SALE = flags(kind => KINDS[kind].receivable)
const IS_MONEY = flags(kind => KINDS[kind].money)

/** By row of an allocation, 1 when it takes another back or was taken back. */
export function takenBack(image: LedgerImage): Uint8Array {
  const { debit, credit, amount } = image.allocations.column
  const gone = new Uint8Array(image.allocations.count)
  for (let row = 0; row < image.allocations.count; row++) {
    if (amount[row]! >= 0) continue
    gone[row] = 1
    // The newest first: what is taken back is the one that stands.
    for (const other of image.allocationsOf(debit[row]!))
      if (
        other < row &&
        gone[other] === 0 &&
        credit[other] === credit[row] &&
        amount[other] === -amount[row]!
      ) {
        gone[other] = 1
        break
      }
  }
  return gone
}

/** Sums that change at a step of time and stay: of each group one cell a step. */
class Steps {
  readonly cells: Float64Array

  constructor(
    groups: number,
    readonly steps: number,
  ) {
    this.cells = new Float64Array(groups * steps)
  }

  add(group: number, step: number, amount: number): void {
    if (step < this.steps) this.cells[group * this.steps + step]! += amount
  }

  /** From what is added at each step to what stands there. */
  summedUp(): this {
    for (let at = 0; at < this.cells.length; at++)
      if (at % this.steps !== 0) this.cells[at]! += this.cells[at - 1]!
    return this
  }

  at(group: number, step: number): number {
    return this.cells[group * this.steps + step]!
  }
}

/** Maps days to steps: the first of some rising days that is not before it. */
function stepsOf(days: readonly number[]): (day: number) => number {
  const [first, last] = [days[0]!, days.at(-1)!]
  const table = new Int32Array(last - first + 1)
  let step = 0
  for (let day = first; day <= last; day++) {
    if (day > days[step]!) step++
    table[day - first] = step
  }
  return day => (day <= first ? 0 : day > last ? days.length : table[day - first]!)
}

/** The months before and up to a day, the newest first: bounds as days since 1970, the first not in it. */
export function monthsBack(day: number, months = MONTHS_BACK): { from: number; to: number }[] {
  const spans = []
  let to = day
  for (let n = 0; n < months; n++) {
    const from = dayNumber(`${fromDayNumber(to).slice(0, 7)}-01`) - 1
    spans.push({ from, to })
    to = from
  }
  return spans
}

/** The ingredients of each day, of each group: `[day][group]`. Days rise. */
export function ingredientsOf(image: LedgerImage, customers: Customers, ask: MeasureAsk): Ingredients[][] {
  const { days, groupOf, groups } = ask
  const { items, allocations } = image
  const i = items.column
  const a = allocations.column
  const { rowById } = customers
  const measured = [...new Set(days.flatMap(d => [d.day, d.from]))].sort((x, y) => x - y)
  const stepOf = stepsOf(measured)
  const last = measured.at(-1)!
  const first = Math.min(measured[0]!, monthsBack(days[0]!.day).at(-1)!.from)
  const states = {
    receivables: new Steps(groups, measured.length),
    overdue: new Steps(groups, measured.length),
    over90: new Steps(groups, measured.length),
    onAccount: new Steps(groups, measured.length),
    unallocated: new Steps(groups, measured.length),
  }
  const flows = {
    sales: new Steps(groups, last - first + 1),
    paid: new Steps(groups, last - first + 1),
    paidDays: new Steps(groups, last - first + 1),
    promised: new Steps(groups, last - first + 1),
    promiseKept: new Steps(groups, last - first + 1),
  }
  const groupOfItem = (row: number): number => {
    const who = rowById[i.customer[row]!] ?? -1
    return who < 0 ? -1 : groupOf[who]!
  }
  /** What an item has open changes by an amount on a day: its age then, and as it grows older. */
  const open = (row: number, group: number, day: number, amount: number): void => {
    const step = stepOf(day)
    if (i.debit[row] === 1) {
      states.receivables.add(group, step, amount)
      states.overdue.add(group, Math.max(step, stepOf(i.dueDay[row]! + 1)), amount)
      states.over90.add(group, Math.max(step, stepOf(i.dueDay[row]! + LONG_LATE + 1)), amount)
      return
    }
    states.onAccount.add(group, step, -amount)
    if (IS_MONEY[i.kind[row]!] === 1) states.unallocated.add(group, step, amount)
  }
  /** Something that happened on a day, and is summed over periods. */
  const flow = (steps: Steps, group: number, day: number, amount: number): void => {
    if (day > first && day <= last) steps.add(group, day - first, amount)
  }

  for (let row = 0; row < items.count; row++) {
    const group = groupOfItem(row)
    if (group < 0) continue
    const day = i.postingDay[row]!
    open(row, group, day, i.base[row]!)
    if (IS_SALE[i.kind[row]!] === 1)
      flow(flows.sales, group, day, i.debit[row] === 1 ? i.base[row]! : -i.base[row]!)
  }
  const gone = takenBack(image)
  for (let row = 0; row < allocations.count; row++) {
    const [debit, credit] = [a.debit[row]!, a.credit[row]!]
    const day = a.effectiveDay[row]!
    const debitGroup = groupOfItem(debit)
    const creditGroup = groupOfItem(credit)
    if (debitGroup >= 0) open(debit, debitGroup, Math.max(day, i.postingDay[debit]!), -a.debitBase[row]!)
    if (creditGroup >= 0) open(credit, creditGroup, Math.max(day, i.postingDay[credit]!), -a.creditBase[row]!)
    if (debitGroup < 0 || !isPayment(image, row) || gone[row] === 1) continue
    flow(flows.paid, debitGroup, day, a.debitBase[row]!)
    flow(flows.paidDays, debitGroup, day, a.debitBase[row]! * (day - i.dueDay[debit]!))
  }
  for (const { customerId, day, amount, kept } of ask.promises) {
    const who = rowById[customerId] ?? -1
    const group = who < 0 ? -1 : groupOf[who]!
    if (group < 0) continue
    flow(flows.promised, group, day, amount)
    flow(flows.promiseKept, group, day, kept)
  }
  for (const steps of [...Object.values(states), ...Object.values(flows)]) steps.summedUp()
  const disputed = disputedOf(image, groupOfItem, measured, ask)

  const between = (steps: Steps, group: number, from: number, to: number): number =>
    steps.at(group, to - first) - steps.at(group, Math.max(0, from - first))
  return days.map(({ day, from }) => {
    const step = stepOf(day)
    const months = monthsBack(day)
    return Array.from({ length: groups }, (_, group): Ingredients => {
      const receivables = states.receivables.at(group, step)
      const overdue = states.overdue.at(group, step)
      return {
        receivables,
        current: receivables - overdue,
        overdue,
        over90: states.over90.at(group, step),
        onAccount: states.onAccount.at(group, step) || 0,
        unallocated: states.unallocated.at(group, step),
        disputed: disputed.at(group, step),
        opening: states.receivables.at(group, stepOf(from)),
        sales: between(flows.sales, group, from, day),
        days: day - from,
        paid: between(flows.paid, group, from, day),
        paidDays: between(flows.paidDays, group, from, day),
        promised: between(flows.promised, group, from, day),
        promiseKept: between(flows.promiseKept, group, from, day),
        months: months.map(m => ({ sales: between(flows.sales, group, m.from, m.to), days: m.to - m.from })),
      }
    })
  })
}

/** Adds the sums of some customers to those of others, of the same day. */
export function addIngredients(to: Ingredients, more: Ingredients): void {
  const { months, days: _, ...sums } = more
  for (const name of Object.keys(sums) as (keyof typeof sums)[]) to[name] += sums[name]
  months.forEach((month, n) => (to.months[n]!.sales += month.sales))
}

/** Whether an allocation is a claim paid with money. */
export function isPayment(image: LedgerImage, row: number): boolean {
  const { kind } = image.items.column
  const { debit, credit } = image.allocations.column
  return IS_MONEY[kind[credit[row]!]!] === 1 && IS_SALE[kind[debit[row]!]!] === 1
}

/** Disputes by the item that they are about. */
export function disputesByItem(disputed: readonly Disputed[]): Map<number, Disputed[]> {
  const byItem = new Map<number, Disputed[]>()
  for (const d of disputed) byItem.set(d.itemId, [...(byItem.get(d.itemId) ?? []), d])
  return byItem
}

/** What disputes of one item come to on a day, base currency: at most what is open of it. */
export function disputedOn(
  image: LedgerImage,
  itemId: number,
  disputes: readonly Disputed[],
  day: number,
): number {
  const item = image.rowOf(itemId)
  const { debit, credit, amount: moved, debitBase, effectiveDay } = image.allocations.column
  const i = image.items.column
  if (i.postingDay[item]! > day) return 0
  let [open, base] = [i.amount[item]!, i.base[item]!]
  const paid = new Map<number, number>()
  for (const row of image.allocationsOf(item)) {
    if (effectiveDay[row]! > day || debit[row] !== item) continue
    open -= moved[row]!
    base -= debitBase[row]!
    paid.set(credit[row]!, (paid.get(credit[row]!) ?? 0) + moved[row]!)
  }
  if (open <= 0) return 0
  const stands = ({ receiptId }: Disputed) =>
    receiptId === null || (paid.get(image.rowOf(receiptId)) ?? 0) > 0
  const amount = disputes
    .filter(d => d.from <= day && (d.until === null || day < d.until) && stands(d))
    .reduce((sum, d) => sum + d.amount, 0)
  return amount >= open ? base : Math.round((base * amount) / open)
}

function disputedOf(
  image: LedgerImage,
  groupOfItem: (row: number) => number,
  measured: readonly number[],
  { groups, disputed }: MeasureAsk,
): Steps {
  const sums = new Steps(groups, measured.length)
  for (const [itemId, own] of disputesByItem(disputed)) {
    const group = groupOfItem(image.rowOf(itemId))
    if (group < 0) continue
    measured.forEach((day, step) => sums.add(group, step, disputedOn(image, itemId, own, day)))
  }
  return sums
}
