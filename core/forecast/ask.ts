import { rowOfCustomer, type KnownLedger } from './fromLedger'
import { invoiceDay, type OpenOrder } from './orders'
import { ENDED } from './past'
import type { Changed, Future, Knowledge } from './simulate'
import type { Source } from './sources'
import type { SurvivalCurve } from './survival'

/*
 * What a forecast is asked for, and what that says of the ledger: worths, sources, parts, what is otherwise.
 */

/** More is known of an item: it belongs to another source, and pays by that. */
export interface KnownItem {
  itemId: number
  source: Source
  knowledge: Knowledge | null
}

/** Money that comes or goes on a day, whoever pays. Signed minor units of its currency. */
export interface PlannedMoney {
  source: Source
  day: number
  currency: string
  amount: number
  /** That it happens. */
  chance: number
}

export interface WhatIf {
  /** Customers by id. */
  customers: ({ id: number } & Changed)[]
  /** One unit of a currency becomes so much. */
  rates: { currency: string; times: number }[]
}

export interface ForecastAsk {
  asOf: number
  /** Whole weeks from the day after. */
  weeks: number
  seed: string
  /** What counts. */
  sources: Source[]
  /** One currency, in its own minor units; null: all in base. */
  currency: string | null
  /**
   * Base minor units of one minor unit, and how much that moves in a day (standard deviation of its
   * logarithm).
   */
  rates: { currency: string; rate: number; moves: number }[]
  known: KnownItem[]
  planned: PlannedMoney[]
  orders: OpenOrder[]
  /** Days from an order until its invoice. */
  invoicing: SurvivalCurve
  /** Customers to whom nothing new is sold. */
  withoutSales: number[]
  /** Items whose money goes to somebody else. */
  without: number[]
  /** At the bank on the day of the forecast, in what is asked for; null: not known. */
  start: number | null
  floor: number
  whatIf: WhatIf | null
  /**
   * Customers that are told: so many, those who have stopped first, then those that bring the most; or one
   * alone.
   */
  tell: { most: number } | { id: number }
}

/** What a minor unit of a currency is worth in what is asked for; 0 when it does not count. */
export function valuesIn(ask: ForecastAsk): (currency: string) => number {
  const worth = new Map(
    ask.rates.map(({ currency, rate }) => {
      const times = ask.whatIf?.rates.find(r => r.currency === currency)?.times ?? 1
      return [currency, ask.currency === null ? rate * times : currency === ask.currency ? 1 : 0] as const
    }),
  )
  return currency => worth.get(currency) ?? 0
}

/** Of items by row: the source they belong to, and what more is known of them. */
export function sourcesOf({ past, itemIds }: KnownLedger, ask: ForecastAsk) {
  const rowOf = new Map<number, number>()
  for (let i = 0; i < past.count; i++) if (past.ended[i] === ENDED.open) rowOf.set(itemIds[i]!, i)
  const of = new Map<number, Source>()
  const knowledge = new Map<number, Knowledge>()
  for (const { itemId, source, knowledge: more } of ask.known) {
    const i = rowOf.get(itemId)
    if (i === undefined) continue
    of.set(i, source)
    if (more) knowledge.set(i, more)
  }
  return { of, knowledge }
}

/**
 * What is open of each item, in what is asked for; of an ended one what came. The model keeps to base, by
 * which sizes are told.
 */
export function partsOf(
  { past, open, itemIds, currency, currencyNames }: KnownLedger,
  ask: ForecastAsk,
  valueOf: (currency: string) => number,
): Float64Array {
  const without = new Set(ask.without)
  return Float64Array.from(past.part, (p, i) => {
    if (past.ended[i] !== ENDED.open) return p
    return without.has(itemIds[i]!) ? 0 : open[i]! * valueOf(currencyNames[currency[i]!]!)
  })
}

export const changedBy = (known: KnownLedger, { whatIf }: ForecastAsk) =>
  new Map((whatIf?.customers ?? []).map(({ id, ...changed }) => [rowOfCustomer(known, id), changed]))

/** Orders by the row of their customer, worth what they are worth in what is asked for. */
export function futureOf(
  known: KnownLedger,
  { orders, invoicing, asOf, rates }: ForecastAsk,
  valueOf: (currency: string) => number,
): Map<number, Future[]> {
  const inBase = new Map(rates.map(r => [r.currency, r.rate]))
  const byRow = new Map<number, Future[]>()
  orders.forEach((order, place) => {
    const amount = order.amount * valueOf(order.currency)
    const row = rowOfCustomer(known, order.customerId)
    if (!amount || row < 0) return
    const list = byRow.get(row) ?? []
    byRow.set(row, list)
    list.push({
      ...{ place, amount, terms: order.terms, currency: order.currency },
      base: order.amount * (inBase.get(order.currency) ?? 0),
      invoiced: invoiceDay(invoicing, order, asOf),
    })
  })
  return byRow
}
