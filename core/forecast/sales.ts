import { ENDED, type Past } from './past'

/** Weeks whose sales tell those to come, and the weeks of a year ago that tell their season. */
const RECENT_WEEKS = 26
const LONGEST_DELAY = 182

export interface Sales {
  /** Base amount invoiced in each of the last weeks, the newest last. */
  weeks: number[]
  /** Of what was invoiced, the share that came so many days after. */
  delay: Float64Array
}

/** What was invoiced lately, and how long after its invoice money came: for sales that are not made yet. */
export function salesOf(past: Past, asOf: number, counts: (customer: number) => boolean = () => true): Sales {
  const weeks = new Array<number>(RECENT_WEEKS).fill(0)
  const came = new Float64Array(LONGEST_DELAY)
  let whole = 0
  for (let i = 0; i < past.count; i++) {
    const week = Math.floor((asOf - past.written[i]!) / 7)
    if (week >= 0 && week < RECENT_WEEKS && counts(past.customer[i]!))
      weeks[RECENT_WEEKS - 1 - week]! += past.amount[i]!
    // Of items old enough to have ended: what never came is part of the whole.
    if (asOf - past.written[i]! < LONGEST_DELAY || asOf - past.written[i]! > 3 * LONGEST_DELAY) continue
    whole += past.amount[i]!
    const days = past.end[i]! - past.written[i]!
    if (past.ended[i] === ENDED.paid && days >= 0 && days < LONGEST_DELAY) came[days]! += past.part[i]!
  }
  return { weeks, delay: came.map(c => (whole ? c / whole : 0)) }
}
