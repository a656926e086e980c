// The package brings no types.
// eslint-disable-next-line @typescript-eslint/triple-slash-reference
/// <reference path="./xirr.d.ts" />
import xirr from 'xirr'
import type { IsoDate } from '../calendar'

/*
 * What money from a factor costs in a year. The year has 365 days.
 */

const YEAR = 365

/** One invoice: what was advanced, for how many days, and what that cost without tax. Minor units. */
export interface Advanced {
  advance: number
  days: number
  cost: number
}

/**
 * Yearly cost in per cent, not compounded: cost ÷ advance × 365 ÷ days. Null where nothing was advanced, or
 * for no day. Example: 2 lost of 100 to have 98 twenty days sooner is 37.24 % (terms 2/10 net 30).
 */
export function nominalCost({ advance, days, cost }: Advanced): number | null {
  if (advance <= 0 || days <= 0) return null
  return (100 * cost * YEAR) / (advance * days)
}

/** The same compounded: the example is 44.59 %. */
export function effectiveCost({ advance, days, cost }: Advanced): number | null {
  if (advance <= 0 || days <= 0) return null
  return 100 * ((1 + cost / advance) ** (YEAR / days) - 1)
}

/** Of several together: by what was advanced, and for how long. */
export function costTogether(list: readonly Advanced[]): {
  nominal: number | null
  effective: number | null
} {
  const used = list.filter(a => a.advance > 0 && a.days > 0)
  const weight = (a: Advanced) => a.advance * a.days
  const all = used.reduce((sum, a) => sum + weight(a), 0)
  if (all === 0) return { nominal: null, effective: null }
  const weighted = (of: (a: Advanced) => number | null) =>
    used.reduce((sum, a) => sum + weight(a) * (of(a) ?? 0), 0) / all
  return { nominal: weighted(nominalCost), effective: weighted(effectiveCost) }
}

/** Money that moves on a day: positive comes to us, minor units. */
export interface Flow {
  date: IsoDate
  amount: number
}

/** Why there is no return of flows that would say something. */
export type NoReturn = 'no flows' | 'several answers' | 'not found'

/**
 * The money-weighted yearly rate of flows, in per cent, where there is one answer. Flows of a factor are an
 * advance, the invoice that is given up, and a reserve that comes later: when their sign changes twice, two
 * rates may solve them (rule of signs, Descartes), and none is told.
 */
export function moneyWeighted(flows: readonly Flow[]): { rate: number } | { none: NoReturn } {
  const byDay = new Map<string, number>()
  for (const { date, amount } of flows) byDay.set(date, (byDay.get(date) ?? 0) + amount)
  const net = [...byDay].filter(([, amount]) => amount !== 0).sort(([a], [b]) => (a < b ? -1 : 1))
  if (net.length < 2) return { none: 'no flows' }
  const turns = net.filter(([, amount], n) => n > 0 && Math.sign(amount) !== Math.sign(net[n - 1]![1])).length
  if (turns === 0) return { none: 'no flows' }
  if (turns > 1) return { none: 'several answers' }
  try {
    const rate = xirr(net.map(([day, amount]) => ({ amount, when: new Date(`${day}T00:00:00Z`) })))
    return { rate: 100 * rate }
  } catch {
    // It iterates from a guess, and says so when it finds nothing.
    return { none: 'not found' }
  }
}
