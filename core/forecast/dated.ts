import { fromDayNumber, type IsoDate } from '../calendar'
import type { Forecast } from './forecast'
import type { Band } from './simulate'
import type { Source } from './sources'

/* A forecast as it is told: by dates, in whole minor units, with the day that endangers the floor. */

export interface DatedBand {
  from: IsoDate
  to: IsoDate
  p10: number
  p50: number
  p90: number
  mean: number
}

/** A day of the balance at the bank, with the chance that it has been below the floor by then. */
export interface DatedBalance {
  date: IsoDate
  p10: number
  p50: number
  p90: number
  below: number
}

export interface DatedForecast {
  weeks: DatedBand[]
  bySource: { source: Source; weeks: DatedBand[] }[]
  /** Empty unless asked for. */
  days: DatedBand[]
  daysBySource: { source: Source; days: DatedBand[] }[]
  balance: DatedBalance[]
  /** The first day by which the floor is likelier crossed than the alert, and the chance by the end. */
  crossing: { date: IsoDate; chance: number } | null
}

const bandOf =
  (asOf: number) =>
  ({ from, to, p10, p50, p90, mean }: Band): DatedBand => ({
    from: fromDayNumber(asOf + from),
    to: fromDayNumber(asOf + to),
    p10: Math.round(p10),
    p50: Math.round(p50),
    p90: Math.round(p90),
    mean: Math.round(mean),
  })

/** `alert`: per cent from which somebody is told. */
export function dated(
  f: Pick<Forecast, 'asOf' | 'weeks' | 'bySource' | 'days' | 'daysBySource' | 'balance'>,
  by: 'week' | 'day',
  alert: number,
): DatedForecast {
  const band = bandOf(f.asOf)
  const first = f.balance.find(b => b.below * 100 >= alert)
  const isDaily = by === 'day'
  return {
    weeks: f.weeks.map(band),
    bySource: f.bySource.map(({ source, weeks }) => ({ source, weeks: weeks.map(band) })),
    days: isDaily ? f.days.map(band) : [],
    daysBySource: isDaily ? f.daysBySource.map(({ source, days }) => ({ source, days: days.map(band) })) : [],
    balance: f.balance.map(({ day, ...b }) => ({ date: fromDayNumber(f.asOf + day), ...b })),
    crossing: first ? { date: fromDayNumber(f.asOf + first.day), chance: f.balance.at(-1)!.below } : null,
  }
}

/** The balance of a day as a range from a first day; its middle stands for the mean, which is not kept. */
export const bandUntil = (from: IsoDate, { date, p10, p50, p90 }: DatedBalance) => ({
  from,
  to: date,
  p10,
  p50,
  p90,
  mean: p50,
})
