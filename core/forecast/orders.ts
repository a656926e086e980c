import { survivalCurve, type SurvivalCurve, type Waiting } from './survival'

/*
 * Orders and deliveries before their invoice: when that is written is told from orders before, those that
 * still wait counted as such (Kaplan and Meier). Days are days since 1970, amounts minor units of the
 * order's currency.
 */

export interface OpenOrder {
  customerId: number
  currency: string
  amount: number
  orderedOn: number
  /** It is delivered: its invoice only has to be written. */
  isDelivered: boolean
  /** Days from its invoice until it is due. */
  terms: number
}

/** Weight, in orders, of a rule of ours: half of all are invoiced within two weeks, nearly all in eight. */
const PRIOR: readonly Waiting[] = [2, 5, 9, 14, 21, 30, 42, 56].map(time => ({
  time,
  ended: true,
  weight: 0.5,
}))
/** What is delivered is invoiced on one of the next so many days (common practice; ours). */
const DELIVERED_DAYS = 7

/** Days from the order until its invoice, from orders that were invoiced and those that wait. */
export const ordersCurve = (seen: readonly Omit<Waiting, 'weight'>[]): SurvivalCurve =>
  survivalCurve([...PRIOR, ...seen.map(w => ({ ...w, weight: 1 }))])

/** The share of orders that waits longer than so many days. */
function waitingAfter({ times, share }: SurvivalCurve, days: number): number {
  let waits = 1
  for (let n = 0; n < times.length && times[n]! <= days; n++) waits = share[n]!
  return waits
}

/**
 * The day of the invoice for a chance between 0 and 1, given that it has not been written up to `asOf`;
 * Infinity for never. Who has waited longer than any before is invoiced at a steady rate, half in 30 days.
 */
export function invoiceDay(
  curve: SurvivalCurve,
  { orderedOn, isDelivered }: Pick<OpenOrder, 'orderedOn' | 'isDelivered'>,
  asOf: number,
): (chance: number) => number {
  if (isDelivered) return chance => asOf + 1 + Math.floor(chance * DELIVERED_DAYS)
  const waited = asOf - orderedOn
  const left = waitingAfter(curve, waited)
  if (left < 0.01) return chance => asOf + 1 + Math.round((-Math.log2(1 - chance) || 0) * LONG_DAYS)
  return chance => {
    for (let n = 0; n < curve.times.length; n++)
      if (curve.times[n]! > waited && curve.share[n]! <= (1 - chance) * left)
        return orderedOn + curve.times[n]!
    return Infinity
  }
}
const LONG_DAYS = 30

/** Of an order the share that is invoiced in each of so many weeks. */
export function invoicedByWeek(day: (chance: number) => number, asOf: number, weeks: number): Float64Array {
  const shares = new Float64Array(weeks)
  const tries = 100
  for (let n = 0; n < tries; n++) {
    const week = Math.floor((day((n + 0.5) / tries) - asOf - 1) / 7)
    if (week < weeks) shares[Math.max(0, week)]! += 1 / tries
  }
  return shares
}
