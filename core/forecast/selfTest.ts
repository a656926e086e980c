import { baseParts } from './fromLedger'
import type { Learnt } from './learnt'
import { naiveDays, type NaiveRule } from './naive'
import { pinball } from './score'
import { bandsOf, noTrials, simulateItems } from './simulate'

/*
 * The forecast held against what came: made as of past days with what the ledger held then, for what was open
 * then, and compared week by week. Base currency at the rates of the books.
 */

export interface TestedWeek {
  asOf: number
  /** The first is 1. */
  week: number
  p10: number
  p50: number
  p90: number
  mean: number
  came: number
  /** What the plain rules said. */
  plain: Record<NaiveRule, number>
}

const RULES: readonly NaiveRule[] = ['due', 'house', 'customer']
const TRIALS = 200

/**
 * A forecast of a past day with its weeks, held against what came; only weeks that are over count. The ledger
 * knows what became of it (`after`).
 */
export function testedWeeks(
  { known, model }: Learnt,
  ask: { weeks: number; today: number; seed: string },
): TestedWeek[] {
  const { past, asOf, after } = known
  if (!after) throw new Error('what became of the ledger was not asked for')
  const days = ask.weeks * 7
  const trials = noTrials(asOf, days, TRIALS)
  const part = baseParts(known)
  const then = { ...past, part }
  simulateItems(model, then, { days, trials: TRIALS, seed: `${ask.seed} ${asOf}` }, () => trials)
  const plain = RULES.map(rule => naiveDays(rule, then, known.house.customers, asOf, days, model.calendar))
  const sum = (list: ArrayLike<number>, week: number): number => {
    let total = 0
    for (let day = week * 7; day < week * 7 + 7; day++) total += list[day] ?? 0
    return Math.round(total)
  }
  return bandsOf(trials, 7).flatMap((band, week): TestedWeek[] => {
    if (asOf + band.to > ask.today) return []
    const [due, house, customer] = plain.map(list => sum(list, week)) as [number, number, number]
    return [
      {
        asOf,
        week: week + 1,
        p10: Math.round(band.p10),
        p50: Math.round(band.p50),
        p90: Math.round(band.p90),
        mean: Math.round(band.mean),
        came: sum(after.openByDay, week),
        plain: { due, house, customer },
      },
    ]
  })
}

export interface TestSummary {
  /** Weeks ahead: 1, 4, 8, 13, or 0 for all. */
  week: number
  count: number
  /** Mean of what was missed: by the forecast, and by the plain rules. */
  error: number
  plain: Record<NaiveRule, number>
  /** Share of weeks within their band of 80 %. */
  covered: number
  pinball: number
}

/** Told by how far ahead. */
export function summaryOf(weeks: readonly TestedWeek[], ahead: readonly number[]): TestSummary[] {
  return ahead.flatMap((week): TestSummary[] => {
    const own = weeks.filter(w => week === 0 || w.week === week)
    if (!own.length) return []
    const mean = (of: (w: TestedWeek) => number): number =>
      own.reduce((sum, w) => sum + of(w), 0) / own.length
    const rule = (r: NaiveRule): number => Math.round(mean(w => Math.abs(w.came - w.plain[r])))
    return [
      {
        week,
        count: own.length,
        error: Math.round(mean(w => Math.abs(w.came - w.p50))),
        plain: { due: rule('due'), house: rule('house'), customer: rule('customer') },
        covered: mean(w => (w.came >= w.p10 && w.came <= w.p90 ? 1 : 0)),
        pinball: Math.round(
          mean(
            w =>
              (pinball(0.1, w.p10, w.came) + pinball(0.5, w.p50, w.came) + pinball(0.9, w.p90, w.came)) / 3,
          ),
        ),
      },
    ]
  })
}
