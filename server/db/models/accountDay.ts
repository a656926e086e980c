import { day, table, text, whole } from './columns'

/**
 * Projection: what each ledger account moved by on a day, so that balances of any date need not read the
 * journal.
 */
export const accountDay = table('account_day', ['account', 'date', 'currency'], {
  account: text(16, 'ledger account'),
  date: day('day of the entries'),
  currency: text(3, 'ISO 4217'),
  amount: whole('document currency, debit positive'),
  base_amount: whole('base currency, debit positive'),
})
