import { dayNumber, type IsoDate } from '../core/calendar'
import type { RateSource } from '../server/ports/rates'

// Invented levels of about the right size, euro for one unit: for the demo only.
const LEVEL: Record<string, number> = {
  EUR: 1,
  GBP: 1.152,
  USD: 0.871,
  NOK: 0.0858,
  JPY: 0.00572,
  SEK: 0.0911,
  DKK: 0.134,
  CHF: 1.068,
  PLN: 0.2351,
  KWD: 2.84,
  CAD: 0.621,
  AUD: 0.568,
}

/** Euro for one unit on a day: swings smoothly and always the same around the level. */
function inEuro(currency: string, date: IsoDate): number | undefined {
  const level = LEVEL[currency]
  if (level === undefined || currency === 'EUR') return level
  const phase = currency.charCodeAt(0) * 7 + currency.charCodeAt(1)
  const day = dayNumber(date) + phase
  return level * (1 + 0.02 * Math.sin(day / 60) + 0.004 * Math.sin(day / 9))
}

/** A stand-in for a bank's feed of rates. */
export const simulatedRates: RateSource = {
  name: 'simulated',
  currencies: Object.keys(LEVEL),
  quote(base, currency, date) {
    const [a, b] = [inEuro(currency, date), inEuro(base, date)]
    return a === undefined || b === undefined ? undefined : (a / b).toFixed(8)
  },
}
