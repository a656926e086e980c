import { performance } from 'node:perf_hooks'
import {
  bandsOf,
  coverage,
  learn,
  naiveDays,
  noTrials,
  simulateItems,
  type NaiveRule,
} from '../../core/forecast'
import { HABIT_HOUSES, knownOn, LAST_DAY, oracle, type HabitHouse } from '../../simulators/habits'

const WEEKS = 8
const DAYS = WEEKS * 7
const TRIALS = 120
/** Of the weeks, so many tell the error of what is open: later ones hold little of it. */
const JUDGED = 4
const RULES: NaiveRule[] = ['due', 'house', 'customer']

const weekly = (days: ArrayLike<number>, week: number): number => {
  let sum = 0
  for (let d = week * 7; d < week * 7 + 7; d++) sum += days[d]!
  return sum
}

export interface Judged {
  errors: Record<NaiveRule | 'model' | 'oracle', number>
  bands: { low: number; high: number; came: number }[]
  /** Those of who knows the habits. */
  known: { low: number; high: number; came: number }[]
}

/** A house judged from past days, a month apart. */
export function judge(house: HabitHouse, days: readonly number[]): Judged {
  const errors = { due: 0, house: 0, customer: 0, model: 0, oracle: 0 }
  const bands: Judged['bands'] = []
  const knownBands: Judged['bands'] = []
  for (const day of days) {
    const { past, rows } = knownOn(house, day)
    const truth = new Float64Array(DAYS)
    for (const item of rows)
      if (item.paid > day && item.paid <= day + DAYS) truth[item.paid - day - 1]! += item.amount * item.share
    const model = learn(past, house.house, day)
    const trials = noTrials(day, DAYS, TRIALS)
    simulateItems(model, past, { days: DAYS, trials: TRIALS, seed: 'judged' }, () => trials)
    const mine = bandsOf(trials, 7)
    const known = bandsOf({ ...trials, came: oracle(house, day, DAYS, TRIALS) }, 7)
    for (let week = 0; week < WEEKS; week++) {
      const came = weekly(truth, week)
      bands.push({ low: mine[week]!.p10, high: mine[week]!.p90, came })
      knownBands.push({ low: known[week]!.p10, high: known[week]!.p90, came })
      if (week >= JUDGED) continue
      errors.model += Math.abs(came - mine[week]!.p50)
      errors.oracle += Math.abs(came - known[week]!.p50)
      for (const rule of RULES) {
        const said = naiveDays(rule, past, house.house.customers, day, DAYS, model.calendar)
        errors[rule] += Math.abs(came - weekly(said, week))
      }
    }
  }
  return { errors, bands, known: knownBands }
}

/** How far from the better plain rule to who knows the habits: 1 is all the way. */
export function wayToOracle({ errors }: Judged): number {
  const plain = Math.min(errors.due, errors.house)
  return (plain - errors.model) / (plain - errors.oracle)
}

export const judgedDays = (count: number): number[] =>
  Array.from({ length: count }, (_, n) => LAST_DAY - DAYS - 5 - 31 * n).reverse()

export function houses(): void {
  const pooled: Judged['bands'] = []
  for (const make of Object.values(HABIT_HOUSES)) {
    const house = make()
    const begun = performance.now()
    const judged = judge(house, judgedDays(6))
    pooled.push(...judged.bands)
    const { errors } = judged
    const share = (e: number) => (e / Math.min(errors.due, errors.house)).toFixed(2)
    console.log(
      `${house.name.padEnd(13)} ${house.items.length} items: model ${share(errors.model)}, oracle ${share(errors.oracle)}, customer mean ` +
        `${share(errors.customer)}, way ${wayToOracle(judged).toFixed(2)}, band ${(coverage(judged.bands) * 100).toFixed(0)} % (known ${(coverage(judged.known) * 100).toFixed(0)}), ` +
        `${((performance.now() - begun) / 1000).toFixed(1)} s`,
    )
  }
  console.log(`all bands ${(coverage(pooled) * 100).toFixed(1)} % (goal 75 to 85)`)
}
