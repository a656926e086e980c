import type { IsoDate } from '../../core/calendar'

/** Where exchange rates come from: a bank's or a central bank's feed. */
export interface RateSource {
  /** How the rates table names it. */
  name: string
  /** Base units for one unit of a currency on a date, a decimal text; undefined when it is not quoted. */
  quote: (base: string, currency: string, date: IsoDate) => string | undefined
  /** The currencies it quotes. */
  currencies: readonly string[]
}
