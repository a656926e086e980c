import { dayNumber } from '../../../core/calendar'
import {
  emptyPast,
  ENDED,
  ordersCurve,
  SOURCE_NAMES,
  type After,
  type ForecastAsk,
  type House,
  type KnownLedger,
  type Past,
} from '../../../core/forecast'

/* Small ledgers as lists, for tests of the forecast. */

export const TODAY = dayNumber('2026-11-16')
export const houseOf = (customers: number): House => ({
  ...{ customers, group: new Uint16Array(customers), groups: 1 },
})

/** Customer, due, day of payment or null while it is open, amount. */
export type Item = [customer: number, due: number, paid: number | null, amount: number]

export function pastOf(items: readonly Item[]): Past {
  const past = emptyPast(items.length)
  const inOrder = [...items].sort((a, b) => a[0] - b[0] || a[1] - b[1])
  inOrder.forEach(([customer, due, paid, amount], i) => {
    past.customer[i] = customer
    past.due[i] = due
    past.written[i] = due - 30
    past.amount[i] = amount
    past.part[i] = amount
    past.ended[i] = paid === null ? ENDED.open : ENDED.paid
    past.end[i] = paid ?? TODAY
  })
  return past
}

/** Items of a customer that pays so many days late, one each fortnight. */
export const habit = (customer: number, late: number, count = 20): Item[] =>
  Array.from({ length: count }, (_, n): Item => {
    const due = TODAY - 30 - 14 * (count - n)
    return [customer, due, due + late + (n % 3), 1000]
  })

/** Ids of customers are their rows and 100, of items their rows and 1000. All is in EUR. */
export function knownOf(past: Past, customers: number, after: After | null = null): KnownLedger {
  const open = Float64Array.from(past.part, (p, i) => (past.ended[i] === ENDED.open ? p : 0))
  return {
    ...{ asOf: TODAY, past, house: houseOf(customers), after, open, openBase: open.slice() },
    customerIds: Uint32Array.from({ length: customers }, (_, row) => row + 100),
    itemIds: Uint32Array.from(past.part, (_, i) => i + 1000),
    currency: new Uint8Array(past.count),
    currencyNames: ['EUR'],
  }
}

export const askOf = (over: Partial<ForecastAsk> = {}): ForecastAsk => ({
  ...{ asOf: TODAY, weeks: 8, seed: 'a', sources: [...SOURCE_NAMES], currency: null },
  rates: [{ currency: 'EUR', rate: 1, moves: 0 }],
  ...{ known: [], planned: [], orders: [], invoicing: ordersCurve([]), withoutSales: [], without: [] },
  ...{ start: 0, floor: -1_000_000, whatIf: null, tell: { most: 50 } },
  ...over,
})
