import type { IsoDate } from '../../core/calendar'
import type { Facility } from '../../core/factoring'

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
  /** The same for factors, before the bank's day is over: what they pay is on its statement. */
  factored: (day: IsoDate, factors: readonly (Facility & { iban: string })[]) => void
  /**
   * What the house invoiced up to a day, as its invoicing hands it over: a table in columns of the import,
   * of the last days after `after`, so that nothing is lost when taking it was cut short. Empty for nothing.
   */
  invoiced: (day: IsoDate, after: IsoDate | null) => string
}

/** The calendar: nothing waits to be told. */
export const calendarDays: PassingDays = { dayPassed: () => [], factored: () => {}, invoiced: () => '' }
