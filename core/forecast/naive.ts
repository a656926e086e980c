import { ENDED, startsOf, type Past } from './past'
import type { PayDays } from './payDays'
import { ANY_DAY } from './payDays'

/*
 * Plain rules that the forecast is held against: everybody pays on the due day; everybody pays as late as
 * the house does on average; every customer pays as late as it does on average. What is more than 90 days
 * past its expected day is left out, what is less comes on the next working day.
 */

export type NaiveRule = 'due' | 'house' | 'customer'
const GIVEN_UP_DAYS = 90

/** Days late by amount, of what was paid up to a day: of the house, and of each customer who paid. */
function latenessOf(past: Past, customers: number) {
  const sums = new Float64Array(customers)
  const amounts = new Float64Array(customers)
  for (let i = 0; i < past.count; i++) {
    if (past.ended[i] !== ENDED.paid) continue
    sums[past.customer[i]!]! += past.part[i]! * (past.end[i]! - past.due[i]!)
    amounts[past.customer[i]!]! += past.part[i]!
  }
  const sum = sums.reduce((a, b) => a + b, 0)
  const amount = amounts.reduce((a, b) => a + b, 0)
  const house = amount ? sum / amount : 0
  return { house, customer: (c: number) => (amounts[c]! ? sums[c]! / amounts[c]! : house) }
}

/** What comes by a rule on each day after `asOf`, base minor units. */
export function naiveDays(
  rule: NaiveRule,
  past: Past,
  customers: number,
  asOf: number,
  days: number,
  calendar: PayDays,
): Float64Array {
  const came = new Float64Array(days)
  const lateness = latenessOf(past, customers)
  const starts = startsOf(past, customers)
  for (let c = 0; c < customers; c++) {
    const late = rule === 'due' ? 0 : Math.round(rule === 'house' ? lateness.house : lateness.customer(c))
    for (let i = starts[c]!; i < starts[c + 1]!; i++) {
      if (past.ended[i] !== ENDED.open || past.written[i]! > asOf) continue
      const expected = past.due[i]! + late
      if (asOf - expected > GIVEN_UP_DAYS) continue
      const day = calendar.next(ANY_DAY, Math.max(asOf + 1, expected)) - asOf
      if (day <= days) came[day - 1]! += past.part[i]!
    }
  }
  return came
}
