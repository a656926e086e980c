import { addDays, dayNumber, daysBetween, type IsoDate } from '../calendar'

/**
 * How days become a share of a year. `actual/actual`: days of leap years over 366, others over 365.
 * `30E/360`: every month has thirty days, a 31st counts as the 30th. ISDA definitions (from memory); the bond
 * basis of 30/360 is not among them, because it cannot be split where a rate changes.
 */
export const CONVENTIONS = {
  'actual/360': 'Actual days over 360',
  'actual/365': 'Actual days over 365',
  'actual/actual': 'Actual days over the days of their year',
  '30E/360': 'Months of thirty days over 360',
} as const
export type Convention = keyof typeof CONVENTIONS
export const CONVENTION_CODES = Object.keys(CONVENTIONS) as Convention[]

/** A share of a year, exact: `numerator ÷ denominator`; `days` as the convention counts them. */
export interface YearShare {
  days: number
  numerator: number
  denominator: number
}

const isLeap = (year: number): boolean => (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0

/** Days since a first day that never was, in months of thirty days: differences of it are 30E days. */
function thirty(day: IsoDate): number {
  const [year, month, date] = day.split('-').map(Number) as [number, number, number]
  return year * 360 + month * 30 + Math.min(date, 30)
}

/** Days of leap years and of others, of the days after `from` up to `until`. */
function byYear(from: IsoDate, until: IsoDate): { leap: number; common: number } {
  const days = { leap: 0, common: 0 }
  let at = from
  while (at < until) {
    const first = addDays(at, 1)
    const year = Number(first.slice(0, 4))
    const last = `${year}-12-31`
    const end = last < until ? last : until
    days[isLeap(year) ? 'leap' : 'common'] += daysBetween(at, end)
    at = end
  }
  return days
}

/**
 * The share of a year of the days `first` to `last`, both counted. Interest from the day after a due date
 * through the day of payment has exactly these days. Shares of neighbouring periods add up to that of both.
 */
export function yearShare(convention: Convention, first: IsoDate, last: IsoDate): YearShare {
  const before = addDays(first, -1)
  const actual = Math.max(0, dayNumber(last) - dayNumber(before))
  switch (convention) {
    case 'actual/360':
      return { days: actual, numerator: actual, denominator: 360 }
    case 'actual/365':
      return { days: actual, numerator: actual, denominator: 365 }
    case '30E/360': {
      const days = Math.max(0, thirty(last) - thirty(before))
      return { days, numerator: days, denominator: 360 }
    }
    case 'actual/actual': {
      const { leap, common } = byYear(before, last)
      return { days: actual, numerator: leap * 365 + common * 366, denominator: 365 * 366 }
    }
  }
}
