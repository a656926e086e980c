import { table, text, whole } from './columns'

/** Projection: what is open on an account now, by currency. */
export const accountTotal = table('account_total', ['customer_id', 'currency'], {
  customer_id: whole('the account'),
  currency: text(3, 'ISO 4217'),
  debit: whole('open debits, document currency'),
  credit: whole('open credits, document currency'),
  base_debit: whole('the same in base currency'),
  base_credit: whole('the same in base currency'),
})
