import { day, decimal, instant, optional, table, text, whole } from './columns'

/** Exchange rates: base units for one unit of the currency. */
export const rate = table('rate', ['currency', 'date'], {
  currency: text(3, 'ISO 4217'),
  date: day('first day in force'),
  rate: decimal('decimal'),
  source: text(12, 'entered, imported or simulated'),
  person_id: optional(whole('who did it')),
  at: instant('when, UTC'),
})
