import { quantileOf } from './score'
import { slackOf, type Model } from './model'
import { COLUMNS, emptyPast, ENDED, startsOf, type House, type Past } from './past'
import { PayDays, runOf } from './payDays'
import { shapeOf } from './shape'
import { aliveOf } from './stopped'
import { between, effectOf, itemsOf, spanOf, toldBy, type Learning, type Told } from './told'

/*
 * How the customers of a house pay. Each has its own slack, the days from the due day until it wants to
 * pay, with its own spread; it then pays on the next day of its run. Who has paid little borrows from its
 * group and the house (partial pooling: a normal prior whose weight follows from how much customers
 * differ). What is still open tells that the slack is longer than so many days (a censored observation),
 * what was paid tells it to between two days of the run. All customers share the shape of what is left,
 * told as a survival curve: so a tail of those who never pay stays one.
 */

/** Amounts fall into so many parts of like count, from small to large. */
const SIZES = 8
/** Weight of the house beside what one size, or month, tells of itself. */
const EFFECT_PRIOR = 30
/** Halving of what a payment tells, in days, tried on the last quarter. */
const HALVINGS = [60, 150, 400, 1500]
/** Items that have waited so much longer than nearly all others tell nothing of slack, only of the tail. */
const NEVER_DAYS = 75
const EM_ROUNDS = 4
/** Weight of the house's spread beside a customer's own, in items. */
const SPREAD_PRIOR = 4
const LEAST_SPREAD = 0.8

/** Nothing is told by what ended longer ago: ten years. */
const OLDEST_DAYS = 3650
/** No forecast goes further. */
const AHEAD_DAYS = 400

/** Hears how much of a work is done, from 0 to 1. What it throws ends the work: so it is stopped. */
export type Tell = (share: number) => void
const nobody: Tell = () => {}

/** How the customers of a house pay, from what is known on a day. */
export function learn(past: Past, house: House, asOf: number, tell = nobody): Model {
  let first = asOf
  for (let i = 0; i < past.count; i++) first = Math.min(first, past.due[i]!, past.written[i]!, past.end[i]!)
  const calendar = new PayDays(Math.max(first - 40, asOf - OLDEST_DAYS), asOf + AHEAD_DAYS)
  const starts = startsOf(past, house.customers)
  const run = runsOf(past, starts, house, calendar, asOf)
  const learning: Learning = { past, house, starts, run, calendar, asOf, upTo: sizesOf(past) }
  tell(0.1)
  const halving = bestHalving(learning, share => tell(0.1 + 0.3 * share))
  return fit(learning, halving, false, share => tell(0.4 + 0.6 * share))
}

function runsOf(
  past: Past,
  starts: Uint32Array,
  { customers }: House,
  calendar: PayDays,
  asOf: number,
): Uint8Array {
  const runs = new Uint8Array(customers)
  for (let c = 0; c < customers; c++) {
    const days = new Set<number>()
    for (let i = starts[c]!; i < starts[c + 1]!; i++)
      if (past.ended[i] === ENDED.paid && past.end[i]! > asOf - 730) days.add(past.end[i]!)
    runs[c] = runOf([...days].sort((a, b) => a - b).slice(-40), calendar)
  }
  return runs
}

/** Bounds of sizes by which items fall into parts of like count. */
function sizesOf(past: Past): Float64Array {
  const amounts = Float64Array.from(past.amount).sort()
  if (!amounts.length) return new Float64Array(SIZES - 1).fill(Infinity)
  return Float64Array.from({ length: SIZES - 1 }, (_, n) => quantileOf(amounts, (n + 1) / SIZES))
}

/** The halving by which the payments of the last quarter are told best from those before. */
function bestHalving(learning: Learning, tell: Tell): number {
  const { calendar } = learning
  const some = learning.house.customers > SAMPLED ? sampleOf(learning) : learning
  const { past, run } = some
  const cut = learning.asOf - 91
  const then = { ...some, past: asKnown(past, cut), asOf: cut }
  let best = { halving: HALVINGS[2]!, error: Infinity }
  for (const [tried, halving] of HALVINGS.entries()) {
    tell(tried / HALVINGS.length)
    const model = fit(then, halving, true, nobody)
    let error = 0
    let count = 0
    for (let i = 0; i < past.count; i++) {
      const [customer, due, end] = [past.customer[i]!, past.due[i]!, past.end[i]!]
      if (past.ended[i] !== ENDED.paid || end <= cut || due <= cut - 30) continue
      const wanted = due + slackOf(model, customer, past.amount[i]!, due)
      const pays = calendar.next(run[customer]!, Math.ceil(wanted))
      error += Math.min(60, Math.abs(end - pays))
      count++
    }
    if (count > 0 && error / count < best.error - 1e-9) best = { halving, error: error / count }
  }
  return best.halving
}

/** So many customers tell the halving. */
const SAMPLED = 1500

/** Every so-manieth customer with all its items. */
function sampleOf(learning: Learning): Learning {
  const { past, starts, house, run } = learning
  const step = Math.ceil(house.customers / SAMPLED)
  const rows = Array.from({ length: Math.ceil(house.customers / step) }, (_, n) => n * step)
  const items = rows.flatMap(c =>
    Array.from({ length: starts[c + 1]! - starts[c]! }, (_, n) => starts[c]! + n),
  )
  const some = emptyPast(items.length)
  for (const column of COLUMNS) items.forEach((i, n) => (some[column][n] = past[column][i]!))
  items.forEach((i, n) => (some.customer[n] = past.customer[i]! / step))
  const own: House = {
    customers: rows.length,
    group: Uint16Array.from(rows, c => house.group[c]!),
    groups: house.groups,
  }
  return {
    ...learning,
    past: some,
    house: own,
    starts: startsOf(some, rows.length),
    run: Uint8Array.from(rows, c => run[c]!),
  }
}

/** The same items as they stood on an earlier day; those of later days weigh nothing. */
function asKnown(past: Past, day: number): Past {
  const ended = past.ended.slice()
  const end = past.end.slice()
  for (let i = 0; i < past.count; i++)
    if (end[i]! > day) {
      ended[i] = ENDED.open
      end[i] = day
    }
  return { ...past, ended, end }
}

/** One model by one halving. A rough one tells slacks alone. */
function fit(learning: Learning, halving: number, isRough: boolean, tell: Tell): Model {
  const { past, house, starts, run, calendar, asOf, upTo } = learning
  const { customers } = house
  const told = toldBy(learning, halving)
  const late = lateOf(past, told)
  const tooLong = quantileOf(late, 0.99) + NEVER_DAYS
  for (let i = 0; i < past.count; i++) {
    const isLater = past.written[i]! > asOf
    if (isLater || (past.ended[i] !== ENDED.paid && told.low[i]! > tooLong)) told.weight[i] = 0
    if (past.ended[i] === ENDED.otherwise) told.weight[i]! *= 0.5
  }
  const model: Model = {
    ...{ asOf, calendar, house, run, halving },
    slack: new Float64Array(customers).fill(quantileOf(late, 0.5)),
    spread: new Float64Array(customers).fill(spreadOf(late)),
    unsure: new Float64Array(customers),
    paidItems: new Float64Array(customers),
    alive: new Float64Array(customers).fill(1),
    share: new Float64Array(customers).fill(1),
    lastPaid: new Int32Array(customers).fill(-1),
    late: new Float64Array(customers).fill(NaN),
    sizes: { upTo, days: new Float64Array(SIZES) },
    season: new Float64Array(12),
    waits: new Float32Array(0),
    ...{ together: 0, common: 0 },
  }
  const prior = priorsOf(house, model)
  const full = told.weight
  const round = (): void => {
    for (let c = 0; c < customers; c++) fitCustomer(model, told, starts, c, prior)
    improvePriors(model, house, prior)
    fitEffects(model, past, told)
  }
  sharesOf(model, past, starts)
  latesOf(model, past, told, starts)
  // First by what was paid alone: who has stopped would look slower and slower.
  told.weight = full.map((w, i) => (past.ended[i] === ENDED.paid ? w : 0))
  round()
  tell(0.3)
  shapeOf(model, learning, told, true)
  aliveOf(model, learning, told)
  told.weight = full.map((w, i) => (past.ended[i] === ENDED.paid ? w : w * model.alive[past.customer[i]!]!))
  for (let n = 0; n < (isRough ? 1 : 2); n++) {
    tell(0.5 + 0.2 * n)
    round()
  }
  if (isRough) return model
  tell(0.9)
  shapeOf(model, learning, told)
  aliveOf(model, learning, told)
  return model
}

/** Slacks of what was paid, sorted; one of 0 when nothing was. */
function lateOf(past: Past, told: Told): Float64Array {
  const list: number[] = []
  for (let i = 0; i < past.count; i++)
    if (past.ended[i] === ENDED.paid && told.weight[i]! > 0.02) list.push(told.high[i]!)
  return list.length ? Float64Array.from(list).sort() : Float64Array.of(0)
}

/** A house that has seen few payments is unsure by so many days; from so many on it is as it is. */
const UNSURE_DAYS = 15
const FEW_PAYMENTS = 20

/** Half of the middle two thirds, in days. */
function spreadOf(late: Float64Array): number {
  const own = (quantileOf(late, 0.84) - quantileOf(late, 0.16)) / 2
  return Math.max(2, own, UNSURE_DAYS * (1 - late.length / FEW_PAYMENTS))
}

interface Priors {
  /** Of each group: what its customers are like, and how much they differ. */
  mean: Float64Array
  variance: Float64Array
  spread: number
}

const priorsOf = ({ groups }: House, model: Model): Priors => ({
  mean: new Float64Array(groups).fill(model.slack[0] ?? 0),
  variance: new Float64Array(groups).fill(200),
  spread: model.spread[0] ?? 5,
})

/** Slack and spread of one customer, given the effects and what its group is like. */
function fitCustomer(model: Model, told: Told, starts: Uint32Array, c: number, prior: Priors): void {
  const group = model.house.group[c]!
  const [from, to] = itemsOf(starts, c)
  let slack = model.slack[c]!
  let spread = model.spread[c]!
  let known = 0
  for (let round = 0; round < EM_ROUNDS; round++) {
    let weights = 0
    let sum = 0
    let squares = 0
    known = 0
    for (let i = from; i < to; i++) {
      const weight = told.weight[i]!
      if (weight < 0.01) continue
      const effect = effectOf(model, told, i)
      const { mean, variance } = between(slack, spread, told.low[i]! - effect, told.high[i]! - effect)
      told.expected[i] = mean
      weights += weight
      if (told.high[i]! !== Infinity) known += weight
      sum += weight * mean
      squares += weight * (mean * mean + variance)
    }
    const pull = (spread * spread) / prior.variance[group]!
    const next = (sum + pull * prior.mean[group]!) / (weights + pull)
    const around = weights ? squares - 2 * next * sum + weights * next * next : 0
    spread = Math.max(
      LEAST_SPREAD,
      Math.sqrt((around + SPREAD_PRIOR * prior.spread * prior.spread) / (weights + SPREAD_PRIOR)),
    )
    const moved = Math.abs(next - slack)
    slack = next
    model.unsure[c] = spread / Math.sqrt(weights + pull)
    if (moved < 0.05) break
  }
  model.slack[c] = slack
  model.spread[c] = spread
  model.paidItems[c] = known
}

/** What groups are like follows from their customers, and groups borrow from the house. */
function improvePriors(model: Model, house: House, prior: Priors): void {
  const sums = Array.from({ length: house.groups }, () => ({ weight: 0, sum: 0, squares: 0 }))
  const all = { weight: 0, sum: 0, squares: 0 }
  const spreads: number[] = []
  for (let c = 0; c < house.customers; c++) {
    const known = model.paidItems[c]!
    if (known < 2) continue
    const weight = known / (known + 5)
    for (const s of [sums[house.group[c]!]!, all]) {
      s.weight += weight
      s.sum += weight * model.slack[c]!
      s.squares += weight * model.slack[c]! ** 2
    }
    if (known >= 5) spreads.push(model.spread[c]!)
  }
  if (!all.weight) return
  const houseMean = all.sum / all.weight
  const houseVariance = Math.max(4, all.squares / all.weight - houseMean ** 2)
  sums.forEach((s, group) => {
    const mean = (s.sum + 3 * houseMean) / (s.weight + 3)
    prior.mean[group] = mean
    const variance = s.weight ? s.squares / s.weight - 2 * mean * (s.sum / s.weight) + mean * mean : 0
    prior.variance[group] = Math.max(2, (s.weight * variance + 5 * houseVariance) / (s.weight + 5))
  })
  spreads.sort((a, b) => a - b)
  if (spreads.length) prior.spread = Math.max(LEAST_SPREAD, quantileOf(spreads, 0.5))
}

/** Days more or less by size and by month, from what is left of each item. */
function fitEffects(model: Model, past: Past, told: Told): void {
  const sizes = { sum: new Float64Array(SIZES), weight: new Float64Array(SIZES) }
  const months = { sum: new Float64Array(12), weight: new Float64Array(12) }
  for (let i = 0; i < past.count; i++) {
    const weight = told.weight[i]!
    if (weight < 0.01 || told.high[i] === Infinity) continue
    const c = past.customer[i]!
    const limit = 4 * model.spread[c]!
    const left = Math.max(-limit, Math.min(limit, told.expected[i]! - model.slack[c]!))
    // Who varies much tells less.
    const w = weight / (model.spread[c]! + 1)
    sizes.sum[told.size[i]!]! += w * left
    sizes.weight[told.size[i]!]! += w
    months.sum[told.month[i]!]! += w * left
    months.weight[told.month[i]!]! += w
  }
  const add = (days: Float64Array, { sum, weight }: typeof sizes): void => {
    for (let n = 0; n < days.length; n++) days[n]! += sum[n]! / (weight[n]! + EFFECT_PRIOR / 5)
    const total = weight.reduce((a, b) => a + b, 0)
    const mean = total ? days.reduce((a, d, n) => a + d * weight[n]!, 0) / total : 0
    for (let n = 0; n < days.length; n++) days[n]! -= mean
  }
  add(model.sizes.days, sizes)
  if (spanOf(past, model.asOf) > 400) add(model.season, months)
}

/** How late the money of each customer came, newer payments counting more. */
function latesOf(model: Model, past: Past, told: Told, starts: Uint32Array): void {
  for (let c = 0; c < model.house.customers; c++) {
    let sum = 0
    let weights = 0
    const [from, to] = itemsOf(starts, c)
    for (let i = from; i < to; i++) {
      if (past.ended[i] !== ENDED.paid) continue
      sum += told.weight[i]! * (past.end[i]! - past.due[i]!)
      weights += told.weight[i]!
    }
    if (weights > 0) model.late[c] = sum / weights
  }
}

/**
 * Of each customer the share of what is owed that came as money, near that of the house where little came.
 */
function sharesOf(model: Model, past: Past, starts: Uint32Array): void {
  const owed = new Float64Array(model.house.customers)
  const came = new Float64Array(model.house.customers)
  let [allOwed, allCame] = [0, 0]
  for (let c = 0; c < model.house.customers; c++) {
    const [from, to] = itemsOf(starts, c)
    for (let i = from; i < to; i++) {
      if (past.ended[i] !== ENDED.paid || past.amount[i]! <= 0) continue
      model.lastPaid[c] = Math.max(model.lastPaid[c]!, past.end[i]!)
      const part = Math.min(1, past.part[i]! / past.amount[i]!)
      owed[c]! += 1
      came[c]! += part
      allOwed += 1
      allCame += part
    }
  }
  const usual = allOwed ? allCame / allOwed : 1
  for (let c = 0; c < model.house.customers; c++) model.share[c] = (came[c]! + 10 * usual) / (owed[c]! + 10)
}
