import seedrandom from 'seedrandom'
import { ENDED, startsOf, type Past } from './past'
import { normalFrom } from './normal'
import { AS_USUAL } from './changes'
import type { Tell } from './learn'
import { slackOf, type Model } from './model'
import { pointWhere, waitsBeyond } from './shape'
import { quantileOf } from './score'

/*
 * What may come, day by day, in many seeded trials. Customers are tried one by one with all their items:
 * in one trial a customer is a little later with all of them, or has stopped altogether, so that the band
 * of the sum is as wide as it must be.
 */

export interface Trials {
  asOf: number
  days: number
  trials: number
  /** Base minor units that come in a trial on a day: trial after trial, the day after `asOf` first. */
  came: Float64Array
}

export const noTrials = (asOf: number, days: number, trials: number): Trials => ({
  ...{ asOf, days, trials },
  came: new Float64Array(days * trials),
})

/** What is known of an item beside how its customer pays. */
export type Knowledge =
  /** It was promised for a day: kept with this chance, otherwise it comes as usual. */
  | { kind: 'promise'; day: number; chance: number }
  /** It is collected on a day, and comes back with this chance. */
  | { kind: 'collection'; day: number; chance: number }
  /** It is disputed: credited with this chance, otherwise paid so many days after, on average. */
  | { kind: 'dispute'; chance: number; days: number }

export interface SimulateAsk {
  days: number
  trials: number
  seed: string
  /** Rows of customers that count; all when left out. */
  only?: (customer: number) => boolean
  /** Of customers by row, what they do otherwise. */
  changed?: ReadonlyMap<number, Changed>
  /** Of items of which more is known. */
  knowledge?: ReadonlyMap<number, Knowledge>
  /** What the money of an item is worth on a day of a trial beside what it is worth now. */
  worth?: (item: number, trial: number, day: number) => number
  /** Called for each item and trial that pays within the days; `day` counts from 1. */
  paid?: (item: number, trial: number, day: number, amount: number) => void
  /** Of customers by row, what will be invoiced to them. */
  future?: ReadonlyMap<number, readonly Future[]>
  /** Called for each of these and each trial that pays within the days. */
  futurePaid?: (future: Future, trial: number, day: number, amount: number) => void
  tell?: Tell
}

export interface Changed {
  /** More that it takes; fewer when negative. */
  days: number
  /** More that it takes for what is overdue already. */
  overdue: number
  /** The share that it pays. */
  share: number
}

/** What is not invoiced yet: its invoice comes on a day by chance, and is paid as its customer pays. */
export interface Future {
  /** Its place in the list that was asked with. */
  place: number
  /** In what is asked for, and in base, by which sizes are told. */
  amount: number
  base: number
  currency: string
  /** The day of its invoice, for an even chance between 0 and 1; Infinity for never. */
  invoiced: (chance: number) => number
  /** Days from the invoice until it is due. */
  terms: number
}

/** Trials of what is open. The same model, items and seed give the same. */
export function simulateItems(
  model: Model,
  past: Past,
  ask: SimulateAsk,
  into: (item: number) => Trials,
): void {
  const { days, trials, seed } = ask
  const { asOf, calendar, house } = model
  const starts = startsOf(past, house.customers)
  const ofHouse = normalFrom(seedrandom.alea(`${seed} house`))
  const common = Float64Array.from({ length: trials }, () => ofHouse() * model.common)
  for (let c = 0; c < house.customers; c++) {
    if (c % TOLD_EVERY === 0) ask.tell?.(c / house.customers)
    if (ask.only && !ask.only(c)) continue
    simulateFuture(model, c, ask, common)
    const open = openOf(past, starts, c, asOf)
    if (!open.length) continue
    // Each has a chance of its own: what one does otherwise leaves all others as they are.
    const next = seedrandom.alea(`${seed} ${nameOf(model, c)}`)
    const normal = normalFrom(next)
    const run = calendar.of(model.run[c]!)
    const spread = model.spread[c]!
    const known = open.map(i => ask.knowledge?.get(i))
    const changed = ask.changed?.get(c) ?? AS_USUAL
    const slacks = open.map(i => slackOf(model, c, past.amount[i]!, past.due[i]!))
    const share = model.share[c]! * changed.share
    // Up to the last run that has passed it did not pay.
    const waited = calendar.before(model.run[c]!, asOf + 1)
    for (let trial = 0; trial < trials; trial++) {
      const isAlive = next() <= model.alive[c]!
      const moved = normal() * model.unsure[c]! + common[trial]! * spread
      let shared = next()
      let week = -1
      for (let n = 0; n < open.length; n++) {
        const i = open[n]!
        const due = past.due[i]!
        const own = Math.floor(due / 7)
        if (own !== week) {
          shared = next()
          week = own
        }
        const u = next() < model.together ? shared : next()
        const knowledge = known[n]
        const special = knowledge && knownDay(knowledge, asOf, next)
        if (special === NEVER || (special === undefined && !isAlive)) continue
        const wanted = slacks[n]! + moved
        const beyond = waitsBeyond(model, c, (waited - due - wanted) / spread)
        const z = special === undefined ? pointWhere(model, c, u * beyond) : 0
        if (z === Infinity) continue
        const usual = special ?? Math.max(asOf + 1, Math.ceil(due + wanted + z * spread))
        const more = changed.days + (due <= asOf ? changed.overdue : 0)
        const day = Math.max(asOf + 1, usual + more)
        if (day > asOf + days) continue
        const pays = run.next[day - calendar.from]! - asOf
        if (pays > days) continue
        const amount = past.part[i]! * share * (ask.worth?.(i, trial, pays) ?? 1)
        into(i).came[trial * days + pays - 1]! += amount
        ask.paid?.(i, trial, pays, amount)
      }
    }
  }
}

/** By what a customer's own chance is told: its id, so that a part of a house is tried like the whole. */
const nameOf = ({ house }: Model, c: number): number => house.ids?.[c] ?? c

/** So many customers are tried between two tellings of how much is done. */
const TOLD_EVERY = 64

/** Trials of what is not invoiced yet, with a chance of its own: orders leave what is open as it is. */
function simulateFuture(model: Model, c: number, ask: SimulateAsk, common: Float64Array): void {
  const list = ask.future?.get(c)
  if (!list?.length) return
  const { days, trials, seed } = ask
  const { asOf, calendar } = model
  const next = seedrandom.alea(`${seed} ${nameOf(model, c)} orders`)
  const normal = normalFrom(next)
  const run = calendar.of(model.run[c]!)
  const spread = model.spread[c]!
  const changed = ask.changed?.get(c) ?? AS_USUAL
  const share = model.share[c]! * changed.share
  for (let trial = 0; trial < trials; trial++) {
    const isAlive = next() <= model.alive[c]!
    const moved = normal() * model.unsure[c]! + common[trial]! * spread
    for (const future of list) {
      const [whenInvoiced, whenPaid] = [next(), next()]
      if (!isAlive) continue
      const due = future.invoiced(whenInvoiced) + future.terms
      const z = pointWhere(model, c, whenPaid)
      if (z === Infinity || due > asOf + days + OLDEST_EARLY) continue
      const wanted = due + slackOf(model, c, future.base, due) + moved + z * spread
      const day = Math.max(asOf + 1, Math.ceil(wanted) + changed.days)
      if (day > asOf + days) continue
      const pays = run.next[day - calendar.from]! - asOf
      if (pays <= days) ask.futurePaid?.(future, trial, pays, future.amount * share)
    }
  }
}
/** Nobody pays so many days before the due day. */
const OLDEST_EARLY = 120

const NEVER = Infinity

/** The day that is known of an item in one trial; undefined when it comes as usual after all. */
function knownDay(known: Knowledge, asOf: number, next: () => number): number | undefined {
  const happens = next() < known.chance
  if (known.kind === 'promise') return happens ? Math.max(asOf + 1, known.day) : undefined
  if (known.kind === 'collection') return happens ? NEVER : Math.max(asOf + 1, known.day)
  // Solved at a steady rate: the days until then are exponential.
  return happens ? NEVER : asOf + 1 + Math.round(-Math.log(1 - next()) * known.days)
}

function openOf(past: Past, starts: Uint32Array, c: number, asOf: number): number[] {
  const open: number[] = []
  for (let i = starts[c]!; i < starts[c + 1]!; i++)
    if (past.ended[i] === ENDED.open && past.written[i]! <= asOf && past.part[i]! > 0) open.push(i)
  return open
}

export interface Band {
  /** Days after `asOf`, both included. */
  from: number
  to: number
  p10: number
  p50: number
  p90: number
  mean: number
}

/**
 * Bands are wider by this than the trials alone say: a model is never wholly right. Ours, from houses whose
 * habits are known (`npm run bench -- forecast`), where bands of the trials held 74 % instead of 80.
 */
export const STRETCH = 1.15

/** Bands of spans of so many days; of the sum from the start when `isRunning`. */
export function bandsOf(
  { days, trials, came }: Trials,
  span: number,
  { isRunning = false, stretch = STRETCH } = {},
): Band[] {
  const bands: Band[] = []
  const sums = new Float64Array(trials)
  for (let from = 1; from + span - 1 <= days; from += span) {
    if (!isRunning) sums.fill(0)
    for (let trial = 0; trial < trials; trial++)
      for (let day = from; day < from + span; day++) sums[trial]! += came[trial * days + day - 1]!
    const sorted = sums.slice().sort()
    const p50 = quantileOf(sorted, 0.5)
    bands.push({
      from,
      to: from + span - 1,
      // What came in no trial does not come by being unsure.
      p10: Math.max(Math.min(0, sorted[0]!), p50 - stretch * (p50 - quantileOf(sorted, 0.1))),
      p50,
      p90: p50 + stretch * (quantileOf(sorted, 0.9) - p50),
      mean: sums.reduce((a, b) => a + b, 0) / trials,
    })
  }
  return bands
}
