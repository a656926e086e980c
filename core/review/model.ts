/*
 * From a score to a probability: that an account which is not more than 90 days late is so within a time. The
 * time to it follows a Weibull law whose scale depends on the risk (proportional hazards), fitted by maximum
 * likelihood; accounts that were not seen for long enough count as far as they were seen (censored).
 * P(t) = 1 − exp(−exp(a + b·risk)·t^shape). Source: textbooks on survival analysis.
 */

export interface Observation {
  /** 0 without risk to 1. */
  risk: number
  /** Until it happened, or as long as it was seen; years, more than 0. */
  years: number
  happened: boolean
}

export interface Model {
  a: number
  b: number
  shape: number
}

/** What is held likely before anything is seen: mean and spread of a, b and the logarithm of the shape. */
export type Prior = readonly { mean: number; spread: number }[]

/**
 * Ours, and weak: one account in ten, more risk is worse, as likely early as late. A ledger with a dozen
 * cases says otherwise by itself.
 */
export const PRIOR: Prior = [
  { mean: -3, spread: 2 },
  { mean: 3, spread: 3 },
  { mean: 0, spread: 1 },
]

type Three = [number, number, number]

interface Likelihood {
  value: number
  slope: Three
  /** Second derivatives: aa, ab, ac, bb, bc, cc. */
  curve: [number, number, number, number, number, number]
}

/** The logarithm of the likelihood at a, b and the logarithm of the shape, with its derivatives. */
function likelihood(observations: readonly Observation[], [a, b, c]: Three, prior: Prior | null): Likelihood {
  const shape = Math.exp(c)
  const slope: Three = [0, 0, 0]
  const curve: Likelihood['curve'] = [0, 0, 0, 0, 0, 0]
  let value = 0
  for (const { risk, years, happened } of observations) {
    const log = shape * Math.log(years)
    const hazard = Math.exp(a + b * risk + log)
    const seen = happened ? 1 : 0
    value += seen * (a + b * risk + c + log - Math.log(years)) - hazard
    slope[0] += seen - hazard
    slope[1] += risk * (seen - hazard)
    slope[2] += seen * (1 + log) - hazard * log
    curve[0] -= hazard
    curve[1] -= hazard * risk
    curve[2] -= hazard * log
    curve[3] -= hazard * risk * risk
    curve[4] -= hazard * risk * log
    curve[5] += seen * log - hazard * log * log - hazard * log
  }
  prior?.forEach(({ mean, spread }, n) => {
    const off = [a, b, c][n]! - mean
    value -= (off * off) / (2 * spread * spread)
    slope[n]! -= off / (spread * spread)
    curve[[0, 3, 5][n]!]! -= 1 / (spread * spread)
  })
  return { value, slope, curve }
}

/** Solves three equations, `matrix · x = right`, by elimination; null when there is no solution. */
function solve(matrix: number[][], right: Three): Three | null {
  const rows = matrix.map((row, n) => [...row, right[n]!])
  for (let at = 0; at < 3; at++) {
    const largest = rows
      .slice(at)
      .reduce((most, row) => (Math.abs(row[at]!) > Math.abs(most[at]!) ? row : most))
    if (Math.abs(largest[at]!) < 1e-12) return null
    rows.splice(rows.indexOf(largest), 1)
    rows.splice(at, 0, largest)
    for (let n = 0; n < 3; n++) {
      if (n === at) continue
      const times = rows[n]![at]! / rows[at]![at]!
      rows[n] = rows[n]!.map((cell, i) => cell - times * rows[at]![i]!)
    }
  }
  return [0, 1, 2].map(n => rows[n]![3]! / rows[n]![n]!) as Three
}

/** The step to the top of a curve, by Newton; less steep where the curve does not bend down. */
function stepOf({ slope, curve: [aa, ab, ac, bb, bc, cc] }: Likelihood, damping: number): Three | null {
  const matrix = [
    [damping - aa, -ab, -ac],
    [-ab, damping - bb, -bc],
    [-ac, -bc, damping - cc],
  ]
  return solve(matrix, slope)
}

const ROUNDS = 100
const SURE = 1e-9

/** The likeliest model of some observations. `prior`: null for the observations alone. */
export function fit(observations: readonly Observation[], prior: Prior | null = PRIOR): Model {
  let at: Three = [prior?.[0]?.mean ?? -1, prior?.[1]?.mean ?? 0, 0]
  let here = likelihood(observations, at, prior)
  let damping = 0
  for (let round = 0; round < ROUNDS; round++) {
    const step = stepOf(here, damping)
    const there = step && ([at[0] + step[0], at[1] + step[1], at[2] + step[2]] as Three)
    const next = there && likelihood(observations, there, prior)
    // A step that leads down was too long, or the curve does not bend: shorter steps along the slope then.
    if (!there || !next || !(next.value >= here.value)) {
      damping = Math.max(1e-3, damping * 10)
      continue
    }
    const gained = next.value - here.value
    at = there
    here = next
    damping /= 10
    if (gained < SURE) break
  }
  return { a: at[0], b: at[1], shape: Math.exp(at[2]) }
}

/** The probability that it happens within some years. */
export function probability({ a, b, shape }: Model, risk: number, years = 1): number {
  return 1 - Math.exp(-Math.exp(a + b * risk) * years ** shape)
}

/** A probability that was told, and what came of it. */
export interface Told {
  said: number
  happened: boolean
}

/** The mean square of what was said less what came: 0 is best. Source: Brier 1950. */
export function brier(told: readonly Told[]): number {
  return told.reduce((sum, t) => sum + (t.said - (t.happened ? 1 : 0)) ** 2, 0) / told.length
}

export interface ReliabilityBand {
  from: number
  to: number
  count: number
  /** The mean of what was said, and how often it happened, 0 to 1. */
  said: number
  happened: number
}

const BANDS = [0, 0.05, 0.1, 0.2, 0.4, 0.6, 0.8, 1]

/** What was said against what came, in bands of what was said. */
export function reliability(told: readonly Told[]): ReliabilityBand[] {
  return BANDS.slice(1).flatMap((to, n) => {
    const from = BANDS[n]!
    const inBand = told.filter(t => t.said >= from && (t.said < to || to === 1))
    const count = inBand.length
    if (!count) return []
    return [
      {
        from,
        to,
        count,
        said: inBand.reduce((sum, t) => sum + t.said, 0) / count,
        happened: inBand.filter(t => t.happened).length / count,
      },
    ]
  })
}
