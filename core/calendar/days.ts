/** A calendar date as `YYYY-MM-DD`. */
export type IsoDate = string

const DAY = 86_400_000

/** True for a date that exists, from 1900 to 2199. */
export function isIsoDate(text: string): boolean {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) return false
  const time = Date.parse(`${text}T00:00:00Z`)
  return (
    !Number.isNaN(time) &&
    new Date(time).toISOString().startsWith(text) &&
    text >= '1900-01-01' &&
    text < '2200-01-01'
  )
}

/**
 * A ledger of years knows a few thousand dates, and asks for each a thousand times: what was worked out once
 * is kept. Begun anew when there are more than that.
 */
const MOST_KEPT = 20_000

function kept<Key, Value>(workOut: (key: Key) => Value): (key: Key) => Value {
  const known = new Map<Key, Value>()
  return key => {
    const found = known.get(key)
    if (found !== undefined) return found
    const value = workOut(key)
    if (known.size >= MOST_KEPT) known.clear()
    known.set(key, value)
    return value
  }
}

/** Days since 1 January 1970. */
export const dayNumber: (date: IsoDate) => number = kept(date =>
  Math.round(Date.parse(`${date}T00:00:00Z`) / DAY),
)

export const fromDayNumber: (day: number) => IsoDate = kept(day =>
  new Date(day * DAY).toISOString().slice(0, 10),
)

export function addDays(date: IsoDate, days: number): IsoDate {
  return fromDayNumber(dayNumber(date) + days)
}

/** b − a in days. */
export function daysBetween(a: IsoDate, b: IsoDate): number {
  return dayNumber(b) - dayNumber(a)
}

/** As-of date − due date; due today is not late (0), not yet due is negative. */
export function daysLate(dueDate: IsoDate, asOf: IsoDate): number {
  return daysBetween(dueDate, asOf)
}

export function endOfMonth(date: IsoDate): IsoDate {
  const [y, m] = date.split('-').map(Number) as [number, number]
  return new Date(Date.UTC(y, m, 0)).toISOString().slice(0, 10)
}

/** Same day n months on, or the month's last day where that day does not exist. */
export function addMonths(date: IsoDate, months: number): IsoDate {
  const [y, m, d] = date.split('-').map(Number) as [number, number, number]
  const last = new Date(Date.UTC(y, m + months, 0)).getUTCDate()
  return new Date(Date.UTC(y, m - 1 + months, Math.min(d, last))).toISOString().slice(0, 10)
}

/** Last day of the month before. */
export function lastMonthEnd(date: IsoDate): IsoDate {
  return endOfMonth(addMonths(date, -1))
}

/** 0 Sunday … 6 Saturday. */
export function weekday(date: IsoDate): number {
  return (((dayNumber(date) + 4) % 7) + 7) % 7
}
