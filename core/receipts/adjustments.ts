import { addDays, discountOn, type IsoDate } from '../calendar'
import { share } from '../money'
import { newItem } from '../ledger/item'
import { lowestOpenFrom, takeOff } from '../ledger/open'
import { baseLeaving, refuse } from '../ledger/rules'
import type {
  AdjustmentKind,
  Allocation,
  LedgerState,
  Line,
  NewItem,
  Refusal,
  StateItem,
} from '../ledger/types'

export interface Adjustment {
  kind: AdjustmentKind
  amount: number
}

/**
 * The discount that a payment of so much on a date earns by the house rules: all of it when it closes the
 * item, else nothing or its share.
 */
export function earnedDiscount(state: LedgerState, item: StateItem, date: IsoDate, paid: number): number {
  const offered = discountOn(item.discounts, addDays(date, -state.policy.discountGraceDays))
  if (!offered || item.open !== item.amount) return 0
  if (paid + offered >= item.amount) return offered
  return state.policy.partPayments === 'pro-rata' ? share(offered, paid, item.amount - offered) : 0
}

/**
 * Why an adjustment is not granted. `left` is the item as the payment itself leaves it, `granted` the
 * discount that other payments of the same posting have had of it already: together they earn it once.
 */
export function adjustmentRefusals(
  state: LedgerState,
  item: StateItem,
  left: StateItem,
  adjustment: Adjustment,
  date: IsoDate,
  paid: number,
  late: boolean,
  path: string,
  granted: number,
): Refusal[] {
  const { kind, amount } = adjustment
  if (!Number.isSafeInteger(amount) || amount < 0)
    return [refuse(`${kind}.amount`, path, `the ${kind} must be zero or more`, 'enter an amount')]
  if (amount > left.open)
    return [
      refuse(
        `${kind}.open`,
        path,
        `only ${left.open} minor units of ${item.number} are left, the ${kind} is ${amount}`,
        `at most ${left.open}`,
      ),
    ]
  if (kind === 'discount') {
    const earned = earnedDiscount(state, item, date, paid) - granted
    const offered = Math.max(0, ...item.discounts.map(d => d.amount)) - granted
    if (amount > earned && !late)
      return [
        refuse(
          'discount.earned',
          path,
          `${item.number} earns a discount of ${earned} on ${date}, ${amount} was asked for`,
          earned ? `at most ${earned}` : 'leave the rest open, or grant the late discount on authority',
        ),
      ]
    if (amount > offered)
      return [
        refuse(
          'discount.offered',
          path,
          `${item.number} was offered a discount of ${offered} at ` +
            `most${granted ? ', beside what is granted here already' : ''}`,
          `at most ${offered}`,
        ),
      ]
    return []
  }
  const base = baseLeaving(left, amount)
  if (amount !== left.open)
    return [
      refuse(
        'difference.closes',
        path,
        `a small difference closes ${item.number}: ${left.open} minor units are left`,
        `write off ${left.open}, or nothing`,
      ),
    ]
  if (base > state.policy.tolerance)
    return [
      refuse(
        'difference.tolerance',
        path,
        `${base} minor units of ${state.base} are more than the tolerance of ${state.policy.tolerance}`,
        'leave the rest open',
      ),
    ]
  return []
}

/**
 * Whether what a payment would leave of an item may be written off as a small difference, before anything is
 * posted: its base worth, from what is open of it, is within the tolerance. Minor units. The posting decides.
 */
export const isSmallDifference = (
  item: Pick<StateItem, 'open' | 'baseOpen'>,
  left: number,
  tolerance: number,
): boolean => left > 0 && share(Math.abs(item.baseOpen), left, item.open) <= tolerance

/**
 * A discount or small difference as a credit item of its own, allocated to the item; tax is corrected on a
 * discount.
 */
export function postAdjustment(
  state: LedgerState,
  left: StateItem,
  item: StateItem,
  adjustment: Adjustment,
  date: IsoDate,
  bornOf: number,
  key: number,
  allocationKey: number,
): { item: NewItem; allocation: Allocation; lines: Line[] } {
  const { kind, amount } = adjustment
  const base = baseLeaving(left, amount)
  const tax = kind === 'discount' ? share(amount, item.tax, item.amount) : 0
  const taxBase = share(base, tax, amount)
  const line = { currency: item.currency, customerId: item.customerId, item: key, allocation: null }
  const lines: Line[] = [
    { ...line, account: state.chart[kind], amount: amount - tax, baseAmount: base - taxBase },
  ]
  if (tax) lines.push({ ...line, account: state.chart.tax, amount: tax, baseAmount: taxBase })
  lines.push({ ...line, account: state.chart.receivables, amount: -amount, baseAmount: -base })
  return {
    item: newItem({
      id: key,
      customerId: item.customerId,
      kind,
      currency: item.currency,
      amount,
      baseAmount: base,
      tax,
      postingDate: date,
      bornOfItemId: bornOf,
      text: `${kind === 'discount' ? 'Cash discount' : 'Small difference'} on ${item.number}`,
    }),
    allocation: {
      id: allocationKey,
      debitItemId: item.id,
      creditItemId: key,
      amount,
      debitBase: base,
      creditBase: base,
      effective: date,
      undoesId: null,
    },
    lines,
  }
}

/** A payment of an item with what goes with it; `paidOn` is the day by which discount is judged. */
export interface Adjusted {
  itemId: number
  bornOf: number
  paid: number
  paidOn: IsoDate
  discount: number
  difference: number
  path: string
  received: boolean
}

/**
 * Discounts and small differences of payments, each checked against what the ones before leave. `working`
 * holds the items after the payments themselves, and is taken down.
 */
export function planAdjustments(
  state: LedgerState,
  working: Map<number, StateItem>,
  payments: readonly Adjusted[],
  how: { date: IsoDate; late: boolean; firstItem: number; firstAllocation: number },
): { made: ReturnType<typeof postAdjustment>[]; refusals: Refusal[] } {
  const made: ReturnType<typeof postAdjustment>[] = []
  const refusals: Refusal[] = []
  const granted = new Map<number, number>()
  for (const p of payments) {
    const item = state.items.get(p.itemId)!
    for (const kind of ['discount', 'difference'] as const) {
      const adjustment = { kind, amount: p[kind] }
      if (adjustment.amount === 0) continue
      if (!p.received) {
        refusals.push(
          refuse(
            `${kind}.received`,
            `${p.path}.${kind}`,
            'only money received earns a discount or leaves a small difference',
            'leave it out',
          ),
        )
        continue
      }
      const left = working.get(p.itemId)!
      const path = `${p.path}.${kind}`
      const before = granted.get(p.itemId) ?? 0
      const why = adjustmentRefusals(
        state,
        item,
        left,
        adjustment,
        p.paidOn,
        p.paid + p.difference,
        how.late,
        path,
        before,
      )
      if (!why.length && adjustment.amount > lowestOpenFrom(left, how.date)) {
        const message =
          `${item.number} was used on days after ${how.date}, ` + `so nothing is left there for the ${kind}`
        why.push(refuse('allocation.past', path, message, 'use a later date'))
      }
      refusals.push(...why)
      if (why.length) continue
      if (kind === 'discount') granted.set(p.itemId, before + adjustment.amount)
      const done = postAdjustment(
        state,
        left,
        item,
        adjustment,
        how.date,
        p.bornOf,
        how.firstItem - made.length,
        how.firstAllocation - made.length,
      )
      working.set(p.itemId, takeOff(left, how.date, adjustment.amount, done.allocation.debitBase))
      made.push(done)
    }
  }
  return { made, refusals }
}
