import {
  addBankWorkingDays,
  addDays,
  addMonths,
  isBankWorkingDay,
  onBankWorkingDay,
  weekday,
  type IsoDate,
} from '../calendar'
import type { Scheme } from './mandate'

/*
 * When a collection may be, and when its money is final. SEPA direct debit rulebooks (from memory); the days
 * on which banks work are those of TARGET.
 */

/** Bank working days that a file is with the bank before the collection: one since 2016, for both schemes. */
export const LEAD_DAYS = 1
/** Days of notice unless something else was agreed. */
export const NOTICE_DAYS = 14
/** The debtor gets its money back for no reason within so many days of a core collection. */
export const AUTHORISED_DAYS = 56
/** And for a collection without a valid mandate within so many months. */
export const UNAUTHORISED_MONTHS = 13
/** Of a collection between businesses only its bank may send it back, so many bank working days. */
export const B2B_RETURN_DAYS = 3

/** The last day on which a file may go to the bank. */
export const sendBy = (collectOn: IsoDate): IsoDate => addBankWorkingDays(collectOn, -LEAD_DAYS)

/** The first day on which may be collected what is announced on a day. */
export function earliestCollection(announcedOn: IsoDate, noticeDays: number): IsoDate {
  const byNotice = onBankWorkingDay(addDays(announcedOn, noticeDays))
  const byLead = addBankWorkingDays(announcedOn, LEAD_DAYS)
  return byNotice > byLead ? byNotice : byLead
}

export const isCollectionDay = isBankWorkingDay

/** The last day on which money that was collected may come back without a reason. */
export function finalAfter(collectedOn: IsoDate, scheme: Scheme): IsoDate {
  return scheme === 'B2B'
    ? addBankWorkingDays(collectedOn, B2B_RETURN_DAYS)
    : addDays(collectedOn, AUTHORISED_DAYS)
}

/** The last day on which it may come back because the mandate was not valid. */
export const unauthorisedUntil = (collectedOn: IsoDate): IsoDate =>
  addMonths(collectedOn, UNAUTHORISED_MONTHS)

/** Whether a return of a day can still be, by its reason: MD01 is that of a mandate that was none. */
export function isWithinWindow(collectedOn: IsoDate, scheme: Scheme, code: string, day: IsoDate): boolean {
  if (scheme === 'B2B') return day <= finalAfter(collectedOn, scheme)
  return day <= (code === 'MD01' ? unauthorisedUntil(collectedOn) : finalAfter(collectedOn, scheme))
}

/**
 * The day on which a returned collection is presented again: the next of the house's weekday (0 Sunday … 6
 * Saturday; null: any), on which banks work, with the lead of the scheme.
 */
export function presentAgainOn(today: IsoDate, onWeekday: number | null): IsoDate {
  let day = addBankWorkingDays(today, LEAD_DAYS + 1)
  if (onWeekday === null) return day
  while (weekday(day) !== onWeekday) day = addDays(day, 1)
  return onBankWorkingDay(day)
}

/** Whether a file for a day of collection may still go to the bank. */
export const isWithinLead = (collectOn: IsoDate, today: IsoDate): boolean => today <= sendBy(collectOn)
