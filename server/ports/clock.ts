import type { IsoDate } from '../../core/calendar'

/** A slip that was handed over at the bank's counter. Minor units. */
export interface Deposit {
  number: string
  currency: string
  total: number
  date: IsoDate
  cheques: { reference: string; amount: number; receipt: string }[]
}

/**
 * The passing of days. In a real company the calendar does it and nobody need be told; in the demo the Clock
 * is advanced by hand, and what is outside answers.
 */
export interface PassingDays {
  /** A day is over: what is outside does what it does by its end. Answers the bank files that came. */
  dayPassed: (day: IsoDate, deposits: readonly Deposit[]) => string[]
}

/** The calendar: nothing waits to be told. */
export const calendarDays: PassingDays = { dayPassed: () => [] }
