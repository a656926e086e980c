import { day, instant, key, optional, table, whole } from './columns'

/**
 * So much of a credit item against so much of a debit item. Append-only: nothing else changes what is open.
 */
export const allocation = table('allocation', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  entry_id: whole('the journal entry that wrote it'),
  debit_item_id: whole('what is paid'),
  credit_item_id: whole('what pays'),
  amount: whole('currency of both items; negative when it undoes another'),
  debit_base: whole('what leaves the debit item, base currency'),
  credit_base: whole('what leaves the credit item; the difference is the exchange result'),
  effective: day('the day it takes effect'),
  undoes_id: optional(whole('the allocation it takes back')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
