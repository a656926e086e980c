import { dayNumber, type IsoDate } from '../core/calendar'

/** Where exchange rates come from. A bank's or central bank's feed would stand behind the same port. */
export interface RateSource {
  /** Base units for one unit of a currency, as decimal text; undefined when the source does not quote it. */
  rate: (base: string, currency: string, date: IsoDate) => string | undefined
}

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

/** A stand-in that swings smoothly and always the same around an invented level. */
export const simulatedRates: RateSource = {
  rate(base, currency, date) {
    const of = (code: string): number | undefined => {
      const level = LEVEL[code]
      if (level === undefined || code === 'EUR') return level
      const phase = code.charCodeAt(0) * 7 + code.charCodeAt(1)
      return (
        level *
        (1 +
          0.02 * Math.sin((dayNumber(date) + phase) / 60) +
          0.004 * Math.sin((dayNumber(date) + phase) / 9))
      )
    }
    const a = of(currency)
    const b = of(base)
    return a === undefined || b === undefined ? undefined : (a / b).toFixed(8)
  },
}
