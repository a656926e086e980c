import { fromDayNumber } from '../calendar'

/*
 * How a customer pays by itself: how many days after the due date, how much that varies, and whether on one
 * day of the month. From what it paid, weighted by amount.
 */

export interface PaidOnce {
  /** Days since 1970. */
  day: number
  /** Days after the due date; negative: before it. */
  late: number
  amount: number
}

export interface Pattern {
  /** Days late that half of the money came by. */
  usual: number
  /** Half of the money came within so many days of that. */
  spread: number
  /** The day of the month on which it pays; 31 stands for the last; null: on any. */
  payDay: number | null
}

/** Of what was paid in the last year, so many payments tell a pattern. Ours. */
const FEWEST = 4
const YEAR = 365
/** A customer pays on one day of the month when three in four of its payments come within a day of it. */
const ON_ONE_DAY = 0.75
const LAST_OF_MONTH = 31

function weightedMedian(list: readonly { value: number; weight: number }[]): number {
  const sorted = [...list].sort((a, b) => a.value - b.value)
  const half = sorted.reduce((sum, x) => sum + x.weight, 0) / 2
  let before = 0
  for (const { value, weight } of sorted) {
    before += weight
    if (before >= half) return value
  }
  return sorted.at(-1)!.value
}

/** The day of the month, with the last two days of every month as one. */
function dayOfMonth(day: number): number {
  const date = fromDayNumber(day)
  const isLast = fromDayNumber(day + 1).slice(8) === '01' || fromDayNumber(day + 2).slice(8) === '01'
  return isLast ? LAST_OF_MONTH : Number(date.slice(8))
}

/** The day of the month that payments come on, a weekend later at most; null when there is none. */
function payDayOf(payments: readonly PaidOnce[]): number | null {
  // Several items paid at once are one payment.
  const days = [...new Set(payments.map(p => p.day))].map(dayOfMonth)
  if (days.length < FEWEST) return null
  let best = { day: 0, count: 0 }
  for (let day = 1; day <= LAST_OF_MONTH; day++) {
    const count = days.filter(d => d >= day && d <= day + 2).length
    if (count > best.count) best = { day, count }
  }
  return best.count / days.length >= ON_ONE_DAY ? best.day : null
}

/** The pattern of an account as of a day; null when it paid too seldom to tell. */
export function patternOf(payments: readonly PaidOnce[], today: number): Pattern | null {
  const recent = payments.filter(p => p.day > today - YEAR && p.day <= today && p.amount > 0)
  if (recent.length < FEWEST) return null
  const usual = weightedMedian(recent.map(p => ({ value: p.late, weight: p.amount })))
  const spread = weightedMedian(recent.map(p => ({ value: Math.abs(p.late - usual), weight: p.amount })))
  return { usual, spread, payDay: payDayOf(recent) }
}

/** The day of the last payment; null without one. */
export const lastPaidOn = (payments: readonly PaidOnce[], today: number): number | null =>
  payments.reduce<number | null>(
    (last, p) => (p.day <= today && (last === null || p.day > last) ? p.day : last),
    null,
  )

/** The first day from one on that is a pay day. */
export function nextPayDay(from: number, payDay: number): number {
  for (let day = from; day < from + 62; day++) {
    const isLast = fromDayNumber(day + 1).slice(8) === '01'
    const ofMonth = Number(fromDayNumber(day).slice(8))
    if (ofMonth === payDay || (isLast && ofMonth < payDay)) return day
  }
  return from
}
