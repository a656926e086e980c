import { addDays, addMonths, dayNumber, onBankWorkingDay, type IsoDate } from '../calendar'

/*
 * Payments out that are planned: once, or by a rule that repeats. Amounts are positive minor units.
 */

export const EVERY = {
  once: 'Once',
  week: 'Every week',
  month: 'Every month',
  quarter: 'Every quarter',
  year: 'Every year',
} as const
export type Every = keyof typeof EVERY

export const PLANNED_KINDS = {
  supplier: 'Suppliers',
  wages: 'Wages',
  tax: 'Tax',
  rent: 'Rent and leases',
  loan: 'Loans',
  transfer: 'Transfer',
  other: 'Other',
} as const
export type PlannedKind = keyof typeof PLANNED_KINDS

export interface PlannedRule {
  amount: number
  currency: string
  /** The first day, and the last that it may fall on; null: for good. */
  from: IsoDate
  until: IsoDate | null
  every: Every
}

const MONTHS: Partial<Record<Every, number>> = { month: 1, quarter: 3, year: 12 }

/**
 * The days of a rule after one day and up to another, rising. A month that is too short has its last day
 * instead: from 31 January, every month, gives 28 February and 31 March.
 */
export function daysOfRule(rule: PlannedRule, after: IsoDate, upTo: IsoDate): IsoDate[] {
  const days: IsoDate[] = []
  const last = rule.until !== null && rule.until < upTo ? rule.until : upTo
  const months = MONTHS[rule.every]
  const step = (n: number): IsoDate =>
    months === undefined ? addDays(rule.from, 7 * n) : addMonths(rule.from, months * n)
  // Rules may be years old: begin near the day.
  const between = Math.max(0, dayNumber(after) - dayNumber(rule.from))
  const length = months === undefined ? 7 : 31 * months
  for (let n = rule.every === 'once' ? 0 : Math.floor(between / length); ; n++) {
    const day = step(n)
    if (day > last) return days
    if (day > after) days.push(day)
    if (rule.every === 'once') return days
  }
}

/** More days than banks are ever closed in a row. */
const CLOSED = 7

/**
 * The days after one and up to another on which the bank carries a rule out: a day of the rule on which banks
 * are closed is carried out on the next that they work (Directive (EU) 2015/2366, article 78; from memory).
 */
export function bankDaysOfRule(rule: PlannedRule, after: IsoDate, upTo: IsoDate): IsoDate[] {
  return daysOfRule(rule, addDays(after, -CLOSED), upTo)
    .map(onBankWorkingDay)
    .filter(day => day > after && day <= upTo)
}
