import { addDays, type IsoDate } from '../calendar'

/** A rate of percent a year, a decimal text such as `2.15`, in force from a day on. */
export interface ReferenceRate {
  /** Which: `ECB`, or any other name of the house. */
  code: string
  from: IsoDate
  percent: string
}

/** A rate table holds no longer than this without a new entry: a forgotten half year is not charged. Ours. */
export const RATE_HOLDS_DAYS = 190

/** The first day on which an entry is out of date. */
export const staleFrom = (rate: ReferenceRate): IsoDate => addDays(rate.from, RATE_HOLDS_DAYS + 1)

/** Rates count in ten-thousandths of a percent, whole. */
export const RATE_SCALE = 10_000

export const isPercent = (text: string): boolean => /^-?\d{1,3}(\.\d{1,4})?$/.test(text)

/** `8.15` is 81,500 ten-thousandths of a percent. Throws RangeError for what is no percentage. */
export function percentUnits(text: string): number {
  if (!isPercent(text)) throw new RangeError(`"${text}" is no percentage: write it as 8 or 8.15`)
  const [whole, part = ''] = text.replace('-', '').split('.')
  const units = Number(whole) * RATE_SCALE + Number(part.padEnd(4, '0'))
  return text.startsWith('-') ? -units : units
}

/** The same as a person reads it: without zeros at its end. */
export const percentText = (units: number): string => String(units / RATE_SCALE)

/** The entry in force on a day; undefined when none is, or the newest is out of date. */
export function rateOn(
  table: readonly ReferenceRate[],
  code: string,
  day: IsoDate,
): ReferenceRate | undefined {
  let found: ReferenceRate | undefined
  for (const rate of table)
    if (rate.code === code && rate.from <= day && (!found || rate.from > found.from)) found = rate
  return found && day < staleFrom(found) ? found : undefined
}
