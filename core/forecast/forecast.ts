import seedrandom from 'seedrandom'
import { rowOfCustomer, type KnownLedger } from './fromLedger'
import type { Tell } from './learn'
import type { Learnt } from './learnt'
import { usualLate, type Model } from './model'
import { normalFrom } from './normal'
import { invoicedByWeek, invoiceDay, type OpenOrder } from './orders'
import { ENDED } from './past'
import { ANY_DAY } from './payDays'
import { salesOf, type Sales } from './sales'
import { quantileOf } from './score'
import {
  bandsOf,
  noTrials,
  simulateItems,
  STRETCH,
  type Band,
  type Changed,
  type Future,
  type Knowledge,
  type Trials,
} from './simulate'
import { SOURCE_NAMES, type Source } from './sources'
import type { SurvivalCurve } from './survival'

/*
 * The forecast of a house: what its ledger tells, what else is known, in many trials; added up in base
 * currency or in one.
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

export interface ForecastCustomer {
  id: number
  open: number
  /** What is expected of it within the weeks, and in each. */
  expected: number
  weeks: number[]
  /** Days after the due day that its money usually comes, how much that varies, and on which days. */
  late: number
  spread: number
  run: number
  items: number
  alive: number
  lastPaid: number
}

export interface Forecast {
  asOf: number
  seed: string
  trials: number
  weeks: Band[]
  bySource: { source: Source; weeks: Band[] }[]
  /** The same day by day. */
  days: Band[]
  daysBySource: { source: Source; days: Band[] }[]
  /** Of the bank balance at the end of each day. */
  balance: { day: number; p10: number; p50: number; p90: number; below: number }[]
  customers: ForecastCustomer[]
  /** Days after which a payment tells half as much. */
  halving: number
  /** Items that were learnt from. */
  learnt: number
}

/** From this chance on a customer is told to have stopped paying as it used to. */
const STOPPED = 0.5
export const hasStopped = ({ alive }: Pick<ForecastCustomer, 'alive'>): boolean => 1 - alive > STOPPED

/** Trials for a ledger of common size, and for one so large that its sums hardly vary. */
const TRIALS = 200
const FEW_TRIALS = 100
const LARGE = 100_000

interface Values {
  valueOf: (currency: string) => number
  worth: ReturnType<typeof wanderingOf>
}

/** Adds a trial's money, in what is asked for. */
type Taking = (source: Source) => Trials

/** Trials of a question, kept for what-ifs about it. */
export interface Tried {
  key: string
  trials: number
  bySource: Map<Source, Trials>
  /** By row of a customer: what it brings in each week on average. */
  byCustomer: Map<number, Float64Array>
  prepared: Prepared
}

/** What is worked out of all items once for a question, whatever is tried of it. */
interface Prepared {
  source: ReturnType<typeof sourcesOf>
  part: Float64Array
  future: Map<number, Future[]>
  /** Open of each customer by row, in what is asked for. */
  open: Float64Array
}

function prepare(known: KnownLedger, ask: ForecastAsk, valueOf: Values['valueOf']): Prepared {
  const part = partsOf(known, ask, valueOf)
  const open = new Float64Array(known.house.customers)
  for (let i = 0; i < known.past.count; i++)
    if (known.past.ended[i] === ENDED.open) open[known.past.customer[i]!]! += part[i]!
  return { source: sourcesOf(known, ask), part, future: futureOf(known, ask, valueOf), open }
}

/** The question without what single customers do otherwise; null where nothing else is otherwise. */
const plainOf = ({ whatIf }: ForecastAsk): WhatIf | null =>
  whatIf?.rates.length ? { ...whatIf, customers: [] } : null

const triedOf = new WeakMap<Learnt, Tried>()
const nobody: Tell = () => {}

/** All trials of a question without its what-if about customers. Kept, for the next is often the same. */
export function tried(learnt: Learnt, ask: ForecastAsk, tell = nobody): Tried {
  const { known, model } = learnt
  const plain = plainOf(ask)
  const key = JSON.stringify({ ...ask, whatIf: plain, tell: null, floor: 0, start: 0 })
  const there = triedOf.get(learnt)
  if (there?.key === key) return there
  const openCount = known.past.ended.reduce((n, e) => n + (e === ENDED.open ? 1 : 0), 0)
  const trials = openCount > LARGE ? FEW_TRIALS : TRIALS
  const bySource = emptyTrials(ask, trials)
  const taking: Taking = source => bySource.get(source)!
  const values = { valueOf: valuesIn(ask), worth: wanderingOf(ask, trials) }
  const byCustomer = new Map<number, Float64Array>()
  const usual = { ...ask, whatIf: plain }
  const prepared = prepare(known, usual, values.valueOf)
  simulateKnown(known, model, usual, { ...values, prepared }, trials, taking, byCustomer, { tell })
  const next = seedrandom.alea(`${ask.seed} money`)
  takePlanned(ask, values, trials, taking, next)
  if (ask.currency === null) takeSales(learnt, ask, trials, taking, next)
  const made = { key, trials, bySource, byCustomer, prepared }
  triedOf.set(learnt, made)
  return made
}

const emptyTrials = (ask: ForecastAsk, trials: number) =>
  new Map<Source, Trials>(SOURCE_NAMES.map(s => [s, noTrials(ask.asOf, ask.weeks * 7, trials)]))

/** The same trials with what some customers do otherwise: only they are tried again. */
function otherwise({ known, model }: Learnt, ask: ForecastAsk, base: Tried): Tried {
  const rows = new Set(ask.whatIf!.customers.map(c => rowOfCustomer(known, c.id)))
  const { prepared } = base
  const values = { valueOf: valuesIn(ask), worth: wanderingOf(ask, base.trials), prepared }
  const only = (row: number): boolean => rows.has(row)
  const before = emptyTrials(ask, base.trials)
  const after = emptyTrials(ask, base.trials)
  const byCustomer = new Map([...base.byCustomer].filter(([row]) => !rows.has(row)))
  const usual = { ...ask, whatIf: plainOf(ask) }
  simulateKnown(known, model, usual, values, base.trials, s => before.get(s)!, new Map(), { only })
  simulateKnown(known, model, ask, values, base.trials, s => after.get(s)!, byCustomer, { only })
  const bySource = new Map(
    [...base.bySource].map(([source, { came, ...rest }]) => [
      source,
      { ...rest, came: came.map((x, n) => x - before.get(source)!.came[n]! + after.get(source)!.came[n]!) },
    ]),
  )
  return { ...base, bySource, byCustomer }
}

/** The forecast of a house. The same ledger and question give the same, whenever and wherever asked. */
export function forecast(learnt: Learnt, ask: ForecastAsk, tell?: Tell): Forecast {
  const { known, model } = learnt
  const base = tried(learnt, ask, tell)
  const found = ask.whatIf?.customers.length ? otherwise(learnt, ask, base) : base
  const customers = customersOf(known, model, found, ask)
  const { halving } = model
  return { ...forecastFrom(found, ask), customers, halving, learnt: known.past.count }
}

/** The forecast of sums alone, from its trials. */
export function forecastFrom(
  { trials, bySource }: Pick<Tried, 'trials' | 'bySource'>,
  ask: Pick<ForecastAsk, 'asOf' | 'seed' | 'sources' | 'weeks' | 'start' | 'floor'>,
): Omit<Forecast, 'customers' | 'halving' | 'learnt'> {
  const { asOf, seed } = ask
  const counted = ask.sources.map(source => ({ source, trials: bySource.get(source)! }))
  const sum = noTrials(asOf, ask.weeks * 7, trials)
  for (const { trials: own } of counted)
    for (let n = 0; n < sum.came.length; n++) sum.came[n]! += own.came[n]!
  return {
    ...{ asOf, seed, trials },
    weeks: bandsOf(sum, 7),
    bySource: counted.map(({ source, trials: own }) => ({ source, weeks: bandsOf(own, 7) })),
    days: bandsOf(sum, 1),
    daysBySource: counted.map(({ source, trials: own }) => ({ source, days: bandsOf(own, 1) })),
    balance: ask.start === null ? [] : balanceOf(sum, ask.start, ask.floor),
  }
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

function simulateKnown(
  known: KnownLedger,
  model: Model,
  ask: ForecastAsk,
  { worth, prepared }: Values & { prepared: Prepared },
  trials: number,
  taking: Taking,
  byCustomer: Map<number, Float64Array>,
  more: { only?: (row: number) => boolean; tell?: Tell } = {},
): void {
  const { past } = known
  const { source, part, future } = prepared
  const nameOf = (item: number): string => known.currencyNames[known.currency[item]!]!
  const counted = new Set(ask.sources)
  const bring = (c: number, day: number, amount: number): void => {
    let own = byCustomer.get(c)
    if (!own) byCustomer.set(c, (own = new Float64Array(ask.weeks)))
    own[Math.floor((day - 1) / 7)]! += amount / trials
  }
  const days = ask.weeks * 7
  simulateItems(
    model,
    { ...past, part },
    {
      ...{ days, trials, seed: ask.seed, knowledge: source.knowledge, ...more },
      changed: changedBy(known, ask),
      future,
      worth: (item, trial, day) => worth(nameOf(item), trial, day),
      paid: (item, _trial, day, amount) => {
        if (counted.has(source.of.get(item) ?? 'items')) bring(past.customer[item]!, day, amount)
      },
      futurePaid: ({ place, currency }, trial, day, plain) => {
        const amount = plain * worth(currency, trial, day)
        taking('orders').came[trial * days + day - 1]! += amount
        if (counted.has('orders')) bring(rowOfCustomer(known, ask.orders[place]!.customerId), day, amount)
      },
    },
    item => taking(source.of.get(item) ?? 'items'),
  )
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

/**
 * What foreign money is worth on a day of a trial beside today: its rate wanders by what it has moved (a
 * random walk of its logarithm). 1 where only one currency is asked for.
 */
function wanderingOf(ask: ForecastAsk, trials: number) {
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
function takePlanned(
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
function takeSales(
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

/** The balance at the end of each day, and the chance that it has been below the floor by then. */
function balanceOf({ days, trials, came }: Trials, start: number, floor: number): Forecast['balance'] {
  const sums = new Float64Array(trials).fill(start)
  const hasBeenBelow = new Uint8Array(trials)
  const list: Forecast['balance'] = []
  for (let day = 1; day <= days; day++) {
    for (let trial = 0; trial < trials; trial++) {
      sums[trial]! += came[trial * days + day - 1]!
      if (sums[trial]! < floor) hasBeenBelow[trial] = 1
    }
    const sorted = sums.slice().sort()
    const p50 = quantileOf(sorted, 0.5)
    list.push({
      day,
      p10: Math.round(p50 - STRETCH * (p50 - quantileOf(sorted, 0.1))),
      p50: Math.round(p50),
      p90: Math.round(p50 + STRETCH * (quantileOf(sorted, 0.9) - p50)),
      below: hasBeenBelow.reduce((a, b) => a + b, 0) / trials,
    })
  }
  return list
}

/** Those that are told: who has stopped first, then who brings the most. */
function customersOf(
  known: KnownLedger,
  model: Model,
  { byCustomer, prepared: { open } }: Tried,
  ask: ForecastAsk,
): ForecastCustomer[] {
  const expected = new Float64Array(open.length)
  for (const [row, weeks] of byCustomer)
    expected[row] = weeks.reduce((sum, week) => sum + Math.round(week), 0)
  const isStopped = (row: number): number => Number(hasStopped({ alive: model.alive[row]! }))
  const isTold = (row: number): boolean =>
    open[row]! > 0 && (!('id' in ask.tell) || known.customerIds[row] === ask.tell.id)
  const rows = [...open.keys()].filter(isTold)
  rows.sort(
    (a, b) => isStopped(b) - isStopped(a) || expected[b]! - expected[a]! || open[b]! - open[a]! || a - b,
  )
  return rows.slice(0, 'most' in ask.tell ? ask.tell.most : 1).map(row => ({
    id: known.customerIds[row]!,
    open: Math.round(open[row]!),
    expected: expected[row]!,
    weeks: [...(byCustomer.get(row) ?? new Float64Array(ask.weeks))].map(Math.round),
    late: usualLate(model, row),
    spread: model.spread[row]!,
    run: model.run[row]!,
    items: model.paidItems[row]!,
    alive: model.alive[row]!,
    lastPaid: model.lastPaid[row]!,
  }))
}
