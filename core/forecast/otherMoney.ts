import seedrandom from 'seedrandom'
import type { ForecastAsk } from './ask'
import { rowOfCustomer } from './fromLedger'
import type { Learnt } from './learnt'
import { normalFrom } from './normal'
import { invoicedByWeek, invoiceDay } from './orders'
import { ANY_DAY } from './payDays'
import { salesOf, type Sales } from './sales'
import type { Trials } from './simulate'
import type { Source } from './sources'

/*
 * Money that no item of the ledger brings: what is planned, and sales that are not made yet; and how far
 * foreign money wanders.
 */

export interface Values {
  valueOf: (currency: string) => number
  worth: ReturnType<typeof wanderingOf>
}

/** Adds a trial's money, in what is asked for. */
export type Taking = (source: Source) => Trials

/**
 * What foreign money is worth on a day of a trial beside today: its rate wanders by what it has moved (a
 * random walk of its logarithm). 1 where only one currency is asked for.
 */
export function wanderingOf(ask: ForecastAsk, trials: number) {
  const normal = normalFrom(seedrandom.alea(`${ask.seed} rates`))
  const shocks = new Map(
    ask.rates
      .filter(r => r.moves > 0 && ask.currency === null)
      .map(r => [r.currency, Float64Array.from({ length: trials }, () => normal() * r.moves)] as const),
  )
  return (currency: string, trial: number, day: number): number => {
    const own = shocks.get(currency)
    return own ? Math.exp(own[trial]! * Math.sqrt(day)) : 1
  }
}

/** Planned money on its day, with its chance, in what is asked for. */
export function takePlanned(
  ask: ForecastAsk,
  { valueOf, worth }: Values,
  trials: number,
  taking: Taking,
  next: () => number,
): void {
  const days = ask.weeks * 7
  for (const { source, day, currency, amount, chance } of ask.planned) {
    const place = Math.max(1, day - ask.asOf)
    const value = amount * valueOf(currency)
    if (place > days || !value) continue
    const { came } = taking(source)
    for (let trial = 0; trial < trials; trial++)
      if (chance >= 1 || next() < chance)
        came[trial * days + place - 1]! += value * worth(currency, trial, place)
  }
}

/** How much sales as a whole vary from one quarter to another: standard deviation of the logarithm. Ours. */
const SALES_MOVE = 0.12
const SALES_WEEKS = 13

/**
 * Sales that are not made yet: each week like one of the last, moved by what a quarter as a whole moves, less
 * what will be invoiced of orders: that is told by its own source.
 */
export function takeSales(
  learnt: Learnt,
  ask: ForecastAsk,
  trials: number,
  taking: Taking,
  next: () => number,
): void {
  const days = ask.weeks * 7
  const { weeks, delay } = soldLately(learnt, ask)
  const { calendar } = learnt.model
  // Banks are closed on some days: what would come then comes on the next.
  const open = calendar.of(ANY_DAY)
  const recent = weeks.slice(-SALES_WEEKS)
  const ordered = orderedByWeek(ask)
  const { came } = taking('sales')
  const normal = normalFrom(next)
  for (let trial = 0; trial < trials; trial++) {
    const level = Math.exp(SALES_MOVE * normal())
    for (let week = 0; week < ask.weeks; week++) {
      const sold = Math.max(0, recent[Math.floor(next() * recent.length)]! * level - ordered[week]!)
      for (let day = week * 7 + 4; day < days; day++) {
        const after = day - week * 7 - 3
        const pays = open.next[ask.asOf + 1 + day - calendar.from]! - ask.asOf - 1
        if (after < delay.length && pays < days) came[trial * days + pays]! += sold * delay[after]!
      }
    }
  }
}

/** What was sold lately to those who are still sold to. */
export function soldLately({ known, sales }: Learnt, ask: Pick<ForecastAsk, 'withoutSales' | 'asOf'>): Sales {
  if (sales) return sales
  const without = new Set(ask.withoutSales.map(id => rowOfCustomer(known, id)))
  return salesOf(known.past, ask.asOf, row => !without.has(row))
}

/** What is invoiced of orders in each week, on average, in base. */
function orderedByWeek({ orders, invoicing, asOf, weeks, rates }: ForecastAsk): Float64Array {
  const inBase = new Map(rates.map(r => [r.currency, r.rate]))
  const sums = new Float64Array(weeks)
  for (const order of orders) {
    const amount = order.amount * (inBase.get(order.currency) ?? 0)
    invoicedByWeek(invoiceDay(invoicing, order, asOf), asOf, weeks).forEach(
      (share, week) => (sums[week]! += share * amount),
    )
  }
  return sums
}
