import type { IsoDate } from '../calendar'
import { refuse } from '../ledger/rules'
import type { LedgerState, Refusal } from '../ledger/types'

/** An exchange rate: base units for one unit of the currency, a decimal text, in force from its date on. */
export interface Rate {
  currency: string
  date: IsoDate
  rate: string
}

/**
 * After so many days without a new one a rate is out of date: nothing is posted with it. Ours; weekends and
 * holidays fit in.
 */
export const RATE_DAYS = 10

export const rateKey = (currency: string, date: IsoDate): string => `${currency} ${date}`

type Known = Pick<LedgerState, 'base' | 'rates'>

/** The rate of a currency on a date, "1" for the base currency; undefined when none is known. */
export function rateOf(state: Known, currency: string, date: IsoDate): string | undefined {
  return currency === state.base ? '1' : state.rates.get(rateKey(currency, date))
}

/** Why a posting in a currency cannot be made on a date: there is no rate for it, and none is invented. */
export function rateRefusals(state: Known, currency: string, date: IsoDate, path: string): Refusal[] {
  if (rateOf(state, currency, date) !== undefined) return []
  const message = `there is no exchange rate of ${currency} for ${date}, nor for the ${RATE_DAYS} days before`
  return [
    refuse('rate.missing', path, message, `enter or import the rate of ${currency} under Exchange rates`),
  ]
}

/** Whether a text is a rate: more than zero, a decimal point, at most eight digits on either side. */
export const isRate = (text: string): boolean => /^\d{1,8}(\.\d{1,8})?$/.test(text) && Number(text) > 0
