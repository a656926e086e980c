import { fromDayNumber, isBankWorkingDay, weekday } from '../calendar'

/*
 * The days on which a customer pays: any bank working day, or the days of its payment run. A run that
 * falls on a closed day goes on the next open one.
 */

/**
 * Which days: 0 any working day; 1 to 30 weekdays as bits, Monday the lowest; then by day of the month, see
 * `monthly`.
 */
export type Run = number
export const ANY_DAY: Run = 0
const MONTHLY = 32
/** Runs on days of the month; 31 stands for its last day. One day, or two. */
const MONTH_DAYS: readonly (readonly number[])[] = [
  [31],
  [15, 31],
  ...Array.from({ length: 28 }, (_, n) => [n + 1]),
]
/** The same with the open day before a closed one. */
const EARLY = MONTH_DAYS.length
export const MONTHLY_RUNS: readonly Run[] = Array.from({ length: 2 * EARLY }, (_, n) => MONTHLY + n)
const monthDays = (run: Run): readonly number[] => MONTH_DAYS[(run - MONTHLY) % EARLY]!
const isEarly = (run: Run): boolean => run >= MONTHLY + EARLY
export const isMonthly = (run: Run): boolean => run >= MONTHLY

const isWeekday = (date: string): boolean => weekday(date) >= 1 && weekday(date) <= 5
const NAMES = ['Mondays', 'Tuesdays', 'Wednesdays', 'Thursdays', 'Fridays']
/** As a person says it: "Fridays", "at month end", "on the 15th and at month end"; empty for any day. */
export function runWords(run: Run): string {
  if (run === ANY_DAY) return ''
  if (!isMonthly(run)) return NAMES.filter((_, bit) => run & (1 << bit)).join(' and ')
  return monthDays(run)
    .map(d => (d === 31 ? 'at month end' : `on day ${d} of the month`))
    .join(' and ')
}

/** Run days between two days, answered by arrays. */
export class PayDays {
  private readonly open: Uint8Array
  private readonly runs = new Map<Run, { next: Int32Array; before: Int32Array }>()

  /** Days outside `from` to `to` are answered by the nearest within. */
  constructor(
    readonly from: number,
    readonly to: number,
  ) {
    this.open = new Uint8Array(to - from + 1)
    for (let day = from; day <= to; day++)
      this.open[day - from] = isBankWorkingDay(fromDayNumber(day)) ? 1 : 0
  }

  /** The first day of the run from a day on. */
  next(run: Run, day: number): number {
    return this.of(run).next[this.place(day)]!
  }

  /** The last day of the run before a day. */
  before(run: Run, day: number): number {
    return this.of(run).before[this.place(day)]!
  }

  private place(day: number): number {
    return Math.min(this.to, Math.max(this.from, day)) - this.from
  }

  /** Both arrays of a run: looked up once where many days are asked. */
  of(run: Run): { next: Int32Array; before: Int32Array } {
    const known = this.runs.get(run)
    if (known) return known
    const isRun = this.daysOf(run)
    const size = isRun.length
    const next = new Int32Array(size)
    const before = new Int32Array(size)
    let last = this.from - 1
    for (let n = 0; n < size; n++) {
      before[n] = last
      if (isRun[n]) last = this.from + n
    }
    let coming = this.to + 1
    for (let n = size - 1; n >= 0; n--) {
      if (isRun[n]) coming = this.from + n
      next[n] = coming
    }
    const made = { next, before }
    this.runs.set(run, made)
    return made
  }

  private daysOf(run: Run): Uint8Array {
    if (run === ANY_DAY) return this.open
    const days = new Uint8Array(this.open.length)
    for (let n = 0; n < days.length; n++) {
      const date = fromDayNumber(this.from + n)
      if (!this.isNamed(run, date, this.from + n)) continue
      let at = n
      while (at < days.length && !this.open[at]) at++
      // A month end on a closed day is the open day before it (common practice).
      const isNextMonth = fromDayNumber(this.from + at).slice(0, 7) !== date.slice(0, 7)
      if (isMonthly(run) && (isEarly(run) || isNextMonth)) {
        at = n
        while (at > 0 && !this.open[at]) at--
      }
      if (at < days.length) days[at] = 1
    }
    return days
  }

  private isNamed(run: Run, date: string, day: number): boolean {
    if (!isMonthly(run)) return isWeekday(date) && (run & (1 << (weekday(date) - 1))) !== 0
    const isLast = fromDayNumber(day + 1).slice(8) === '01'
    const ofMonth = Number(date.slice(8))
    return monthDays(run).some(d => (d === 31 ? isLast : d === ofMonth))
  }
}

/** So many days of payment tell a run, and so large a share of them must lie on its days. Ours. */
const FEWEST = 5
const ON_RUN = 0.85

/**
 * The run of a customer by its days of payment, each once, rising: the one with the fewest days among those
 * that nearly all of its payments fit. A payment on the working day after a run fits too: banks take a day.
 */
export function runOf(days: ArrayLike<number>, calendar: PayDays): Run {
  const count = days.length
  if (count < FEWEST) return ANY_DAY
  const fit = (run: Run): number => {
    let on = 0
    let off = 0
    // On the day itself tells more than on the day after. Most runs are out of the question after few days.
    for (let i = 0; i < count && off <= count * (1 - ON_RUN); i++)
      if (calendar.next(run, days[i]!) === days[i]) on += 1.02
      else if (isOnRun(run, days[i]!, calendar)) on += 1
      else off++
    return off <= count * (1 - ON_RUN) ? on / count : 0
  }
  let monthly = { run: ANY_DAY, fit: 0 }
  for (const run of MONTHLY_RUNS) {
    const own = fit(run)
    if (own > monthly.fit + 1e-9) monthly = { run, fit: own }
  }
  if (monthly.fit >= ON_RUN) return monthly.run
  const byDay = [0, 0, 0, 0, 0]
  for (let i = 0; i < count; i++) {
    const day = weekday(fromDayNumber(days[i]!))
    if (day >= 1 && day <= 5) byDay[day - 1]!++
  }
  const order = [0, 1, 2, 3, 4].sort((a, b) => byDay[b]! - byDay[a]!)
  let mask = 0
  let on = 0
  for (const [n, bit] of order.slice(0, 2).entries()) {
    mask |= 1 << bit
    on += byDay[bit]!
    // Two days of five hold two in five by chance: more payments are asked for.
    if (on / count >= ON_RUN + n * 0.05 && count >= FEWEST + n * 5) return mask
  }
  return ANY_DAY
}

/** Whether money that came on a day was paid by the run. */
export function isOnRun(run: Run, day: number, calendar: PayDays): boolean {
  if (run === ANY_DAY) return true
  if (calendar.next(run, day) === day) return true
  return isMonthly(run) && calendar.next(run, calendar.before(ANY_DAY, day)) === calendar.before(ANY_DAY, day)
}
