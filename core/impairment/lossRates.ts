import { share, WHOLE } from '../money'

/*
 * Rates of loss from the ledger's own past. Two ways, each with all that it is made of: how much of a band
 * rolls on into the next month by month, and what became of all that stood in a band on a past day.
 */

/** Roll rates (common practice of credit risk): one for each band but the last. Basis points. */
export interface RollRates {
  /** Share of a band that stands in the next band a month later. */
  rolls: number[]
  /** Share of the last band that is lost. */
  lastLost: number
  /** Rate of loss of each band: the product of all rolls from there on and of the last loss. */
  rates: number[]
}

/**
 * Roll rates of months on end. `open`: month by month, what stood in each band of thirty days, the oldest
 * month first, minor units of base. `lost`: what was written off net in those months.
 * Example: bands 1,000 / 400 / 100, then 1,000 / 500 / 200: rolls 50 % and 50 %; of 300 in the last band 60
 * lost make 20 %; rates 5 %, 10 %, 20 %.
 */
export function rollRates(open: readonly (readonly number[])[], lost: number): RollRates {
  const bands = open[0]?.length ?? 0
  const rolls: number[] = []
  for (let band = 0; band + 1 < bands; band++) {
    let stood = 0
    let rolled = 0
    for (let month = 0; month + 1 < open.length; month++) {
      stood += open[month]![band]!
      rolled += open[month + 1]![band + 1]!
    }
    rolls.push(stood > 0 ? Math.min(WHOLE, share(rolled, WHOLE, stood)) : 0)
  }
  const last = open.reduce((sum, month) => sum + (month[bands - 1] ?? 0), 0)
  const lastLost = last > 0 ? Math.min(WHOLE, Math.max(0, share(lost, WHOLE, last))) : 0
  const rates = Array.from({ length: bands }, (_, band) =>
    Math.round(rolls.slice(band).reduce((rate, roll) => (rate * roll) / WHOLE, lastLost)),
  )
  return { rolls, lastLost, rates }
}

/** All that stood in a band on a past day, and what of it was lost since, less what came back. */
export interface Cohort {
  band: number
  stood: number
  lost: number
}

/** Rate of net loss of each band over several past days; basis points, 0 where nothing stood. */
export function cohortRates(cohorts: readonly Cohort[], bands: number): number[] {
  return Array.from({ length: bands }, (_, band) => {
    const own = cohorts.filter(c => c.band === band)
    const stood = own.reduce((sum, c) => sum + c.stood, 0)
    const lost = own.reduce((sum, c) => sum + c.lost, 0)
    return stood > 0 ? Math.min(WHOLE, Math.max(0, share(lost, WHOLE, stood))) : 0
  })
}
