import { monthOf, sizeOf, type Model } from './model'
import { normalCdf, normalPdf } from './normal'
import { ENDED, type House, type Past } from './past'
import { ANY_DAY, isOnRun, type PayDays, type Run } from './payDays'

/*
 * What each item tells of its customer's slack: a payment, that it lay between the run before and the run on
 * which it came; an open item, that it is longer than so many days (a censored observation).
 */

/** All that is learnt from, with what is known of it before. */
export interface Learning {
  past: Past
  house: House
  /** Where the items of each customer begin. */
  starts: Uint32Array
  run: Uint8Array
  calendar: PayDays
  asOf: number
  /** Bounds of sizes. */
  upTo: Float64Array
}

/** Of one customer no more than its last so many items are read. */
const MOST_ITEMS = 160

/** The places of the items of a customer that are read: from, and to without. */
export const itemsOf = (starts: Uint32Array, customer: number): [from: number, to: number] => [
  Math.max(starts[customer]!, starts[customer + 1]! - MOST_ITEMS),
  starts[customer + 1]!,
]

/** What each item tells of the slack: more than `low`, at most `high` days. */
export interface Told {
  low: Float64Array
  high: Float64Array
  weight: Float64Array
  /** Size and month of the item. */
  size: Uint8Array
  month: Uint8Array
  /** What the slack of the item was, as far as can be told. */
  expected: Float64Array
}

/** What all items tell, newer ones weighing more. Those of before the calendar tell nothing. */
export function toldBy({ past, run, calendar, asOf, upTo }: Learning, halving: number): Told {
  const n = past.count
  const told: Told = {
    low: new Float64Array(n),
    high: new Float64Array(n),
    weight: new Float64Array(n),
    size: new Uint8Array(n),
    month: new Uint8Array(n),
    expected: new Float64Array(n),
  }
  for (let i = 0; i < n; i++) {
    const [due, end] = [past.due[i]!, past.end[i]!]
    const own = run[past.customer[i]!]!
    told.size[i] = sizeOf(upTo, past.amount[i]!)
    told.month[i] = monthOf(due)
    told.weight[i] = end < calendar.from ? 0 : 0.5 ** ((asOf - end) / halving)
    if (past.ended[i] === ENDED.paid) {
      const { low, high } = paidBetween(own, end, calendar)
      told.low[i] = low - due
      told.high[i] = high - due
    } else {
      // It has waited beyond the last run day that has passed.
      told.low[i] = calendar.before(own, end + 1) - due
      told.high[i] = Infinity
    }
  }
  return told
}

/** Money on a day was wanted after the run before, and at most on the run. */
function paidBetween(run: Run, day: number, calendar: PayDays): { low: number; high: number } {
  if (run !== ANY_DAY && isOnRun(run, day, calendar)) {
    const on = calendar.next(run, day) === day ? day : calendar.before(run, day)
    return { low: calendar.before(run, on), high: on }
  }
  return { low: calendar.before(ANY_DAY, day), high: day }
}

export const effectOf = (model: Model, told: Told, i: number): number =>
  model.sizes.days[told.size[i]!]! + model.season[told.month[i]!]!

/** Days that the items of a house span. */
export const spanOf = (past: Past, asOf: number): number => {
  let first = asOf
  for (let i = 0; i < past.count; i++) first = Math.min(first, past.due[i]!)
  return asOf - first
}

/** A span as narrow as this part of the spread is as good as even within. */
const NARROW = 0.5

/** Mean and variance of a normal value known to lie between two bounds, in its own units. */
export function between(
  mean: number,
  deviation: number,
  low: number,
  high: number,
): { mean: number; variance: number } {
  const a = (low - mean) / deviation
  const b = (high - mean) / deviation
  if (b - a < NARROW) return { mean: (low + high) / 2, variance: (high - low) ** 2 / 12 }
  // Far out in a tail a normal value stays near the bound.
  if (a > 5) return { mean: low + deviation / a, variance: (deviation / a) ** 2 }
  if (b < -5) return { mean: high + deviation / b, variance: (deviation / b) ** 2 }
  const [pa, pb] = [a === -Infinity ? 0 : normalPdf(a), b === Infinity ? 0 : normalPdf(b)]
  const mass = (b === Infinity ? 1 : normalCdf(b)) - (a === -Infinity ? 0 : normalCdf(a))
  if (mass < 1e-12) {
    const middle = (Math.max(low, mean - 5 * deviation) + Math.min(high, mean + 5 * deviation)) / 2
    return { mean: Math.min(high, Math.max(low, middle)), variance: 0.08 * (high - low) ** 2 || 0 }
  }
  const first = (pa - pb) / mass
  const second = ((a === -Infinity ? 0 : a * pa) - (b === Infinity ? 0 : b * pb)) / mass
  return {
    mean: mean + deviation * first,
    variance: Math.max(1e-6, deviation * deviation * (1 + second - first * first)),
  }
}
