import type { Model } from './model'
import { normalCdf } from './normal'
import { ENDED } from './past'
import { endingShares } from './survival'
import { between, effectOf, itemsOf, type Learning, type Told } from './told'

/*
 * The shape of what is left of items when slack and effects are taken off, in spreads of their customers: a
 * survival curve by parts, of the house, and of each customer near it. So two habits in one customer are told
 * apart, and a tail that never pays stays one.
 */

/** Points at which shapes are kept, in spreads: close in the middle, wide in the tail. */
export const EDGES = Float64Array.from([
  ...Array.from({ length: 6 }, (_, n) => -6 + 0.5 * n),
  ...Array.from({ length: 48 }, (_, n) => -3 + 0.125 * n),
  ...Array.from({ length: 14 }, (_, n) => 3 + 0.5 * n),
  ...Array.from({ length: 8 }, (_, n) => 10 + 2 * n),
])
const BINS = EDGES.length
/** Weight of the house beside what a customer's own items tell of its shape, in items. */
const SHAPE_PRIOR = 20

/** The last edge that is not beyond a point; -1 before the first. */
export function binOf(z: number): number {
  if (z < -3) return z < -6 ? -1 : Math.floor((z + 6) * 2)
  if (z < 3) return 6 + Math.floor((z + 3) * 8)
  if (z < 10) return 54 + Math.floor((z - 3) * 2)
  return Math.min(BINS - 1, 68 + Math.floor((z - 10) / 2))
}

/** The width of the part behind an edge. */
const widthOf = (bin: number): number => (bin < BINS - 1 ? EDGES[bin + 1]! - EDGES[bin]! : 2)

/** Weight of the normal form beside what a house has seen, in items: a house without history has it alone. */
const FORM_PRIOR = 3
const NORMAL_CHANCES = Float64Array.from(EDGES, (edge, n) => {
  const next = edge + widthOf(n)
  const waits = 1 - normalCdf(edge)
  return waits > 1e-6 ? (normalCdf(next) - normalCdf(edge)) / waits : 0
})

/** What an item tells of the shape. */
interface Left {
  /** Its part. */
  bin: number
  isPaid: boolean
  weight: number
  z: number
}

/** The least that an item tells, however old. */
const LEAST_TOLD = 0.05

/** What is left of an item; null of one that tells nothing. */
function leftOf(model: Model, { past }: Learning, told: Told, c: number, i: number): Left | null {
  if (past.written[i]! > model.asOf) return null
  const isPaid = past.ended[i] === ENDED.paid
  if (isPaid && told.weight[i] === 0) return null
  const effect = effectOf(model, told, i)
  const low = told.low[i]! - effect
  const bound = isPaid ? between(model.slack[c]!, model.spread[c]!, low, told.high[i]! - effect).mean : low
  const z = (bound - model.slack[c]!) / model.spread[c]!
  // However old an item is, it tells a little. One that is open is as old as if it had been paid as usual:
  // otherwise those that never pay would outweigh the others of their time.
  const age = model.asOf - past.due[i]! - model.slack[c]!
  const newness = isPaid ? told.weight[i]! : 0.5 ** (Math.max(0, age) / model.halving)
  const weight = Math.max(LEAST_TOLD, newness) * (isPaid ? 1 : model.alive[c]!)
  return { bin: Math.max(0, binOf(z)), isPaid, weight, z }
}

/** How alike what is left is: of items of one customer due within a week, and of all that came in one. */
class Likeness {
  private pairs = 0
  private alike = 0
  private squares = 0
  private count = 0
  private before = { customer: -1, due: -Infinity, z: 0 }
  private readonly weeks = new Map<number, { sum: number; count: number }>()

  add(customer: number, due: number, paidOn: number, left: number, isRecent: boolean): void {
    const z = Math.max(-3, Math.min(3, left))
    this.squares += z * z
    this.count++
    if (this.before.customer === customer && due - this.before.due <= 7) {
      this.pairs++
      this.alike += z * this.before.z
    }
    this.before = { customer, due, z }
    if (!isRecent) return
    const week = Math.floor(paidOn / 7)
    const own = this.weeks.get(week) ?? { sum: 0, count: 0 }
    own.sum += z
    own.count++
    this.weeks.set(week, own)
  }

  result(): Pick<Model, 'together' | 'common'> {
    const variance = this.count ? this.squares / this.count : 1
    const together = this.pairs > 50 ? Math.max(0, Math.min(0.95, this.alike / this.pairs / variance)) : 0.3
    return { together, common: commonOf([...this.weeks.values()], variance, together) }
  }
}

/**
 * The shape of a house and of its customers, and how alike what is left is. `ofPaid`: what is open may be of
 * somebody who has stopped; whether it is, is asked of what was paid alone.
 */
export function shapeOf(model: Model, learning: Learning, told: Told, ofPaid = false): void {
  const { past, starts } = learning
  const { customers } = model.house
  const house = { ended: new Float64Array(BINS), left: new Float64Array(BINS) }
  const likeness = new Likeness()
  const ofCustomer = (c: number, take: (left: Left, i: number) => void): void => {
    const [from, to] = itemsOf(starts, c)
    for (let i = from; i < to; i++) {
      const left = leftOf(model, learning, told, c, i)
      if (left && (left.isPaid || !ofPaid)) take(left, i)
    }
  }
  for (let c = 0; c < customers; c++)
    ofCustomer(c, ({ bin, isPaid, weight, z }, i) => {
      ;(isPaid ? house.ended : house.left)[bin]! += weight
      if (isPaid) likeness.add(c, past.due[i]!, past.end[i]!, z, told.weight[i]! > 0.05)
    })
  const usual = endingShares(house, { within: 0.5, prior: { share: NORMAL_CHANCES, weight: FORM_PRIOR } })
  model.waits = new Float32Array(customers * BINS)
  const own = { ended: new Float64Array(BINS), left: new Float64Array(BINS) }
  for (let c = 0; c < customers; c++) {
    own.ended.fill(0)
    own.left.fill(0)
    ofCustomer(c, ({ bin, isPaid, weight }) => {
      ;(isPaid ? own.ended : own.left)[bin]! += weight
    })
    const shares = endingShares(own, { prior: { share: usual, weight: SHAPE_PRIOR } })
    let waits = 1
    for (let n = 0; n < BINS; n++) {
      waits *= 1 - shares[n]!
      model.waits[c * BINS + n] = waits
    }
  }
  Object.assign(model, likeness.result())
}

/** How much all customers move together from week to week, in spreads. */
function commonOf(
  weeks: readonly { sum: number; count: number }[],
  variance: number,
  together: number,
): number {
  const enough = weeks.filter(w => w.count >= 10)
  if (enough.length < 8) return 0.1
  const means = enough.map(w => w.sum / w.count)
  const middle = means.reduce((a, b) => a + b, 0) / means.length
  const around = means.reduce((a, m) => a + (m - middle) ** 2, 0) / means.length
  const byChance = enough.reduce((a, w) => a + (variance * (1 + together)) / w.count, 0) / enough.length
  return Math.sqrt(Math.max(0.0025, Math.min(0.25, around - byChance)))
}

/** The share of a customer's items that waits beyond a point. Within a part they are paid evenly. */
export function waitsBeyond({ waits }: Pick<Model, 'waits'>, customer: number, z: number): number {
  const bin = binOf(z)
  if (bin < 0) return 1
  const at = customer * BINS + bin
  const above = bin === 0 ? 1 : waits[at - 1]!
  const within = Math.min(1, (z - EDGES[bin]!) / widthOf(bin))
  return above + (waits[at]! - above) * within
}

/** The point beyond which a share of a customer's items waits; Infinity in the tail that never pays. */
export function pointWhere({ waits }: Pick<Model, 'waits'>, customer: number, share: number): number {
  const from = customer * BINS
  if (share <= waits[from + BINS - 1]!) return Infinity
  let low = 0
  let high = BINS - 1
  while (low < high) {
    const middle = (low + high) >> 1
    if (waits[from + middle]! < share) high = middle
    else low = middle + 1
  }
  const [above, below] = [low === 0 ? 1 : waits[from + low - 1]!, waits[from + low]!]
  const width = widthOf(low)
  return EDGES[low]! + (above > below ? ((above - share) / (above - below)) * width : width)
}
