import seedrandom from 'seedrandom'
import { changedBy, futureOf, partsOf, sourcesOf, valuesIn, type ForecastAsk, type WhatIf } from './ask'
import { rowOfCustomer, type KnownLedger } from './fromLedger'
import type { Tell } from './learn'
import type { Learnt } from './learnt'
import { usualLate, type Model } from './model'
import { takePlanned, takeSales, wanderingOf, type Taking, type Values } from './otherMoney'
import { ENDED } from './past'
import { quantileOf } from './score'
import { bandsOf, noTrials, simulateItems, STRETCH, type Band, type Future, type Trials } from './simulate'
import { SOURCE_NAMES, type Source } from './sources'

/*
 * The forecast of a house: what its ledger tells, what else is known, in many trials; added up in base
 * currency or in one.
 */

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
