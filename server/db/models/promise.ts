import { day, instant, key, optional, table, text, whole } from './columns'

/**
 * What a customer promised to pay. What became of it follows from the money that came; `state` is what the
 * worker kept of that last.
 */
export const promise = table('promise', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  currency: text(3, 'ISO 4217'),
  made_on: day('business date'),
  after_entry: whole('the last entry of the ledger then: what was posted before is not its payment'),
  for_items: whole('1: for the items of promise_item; 0: for the account'),
  text: text(300, ''),
  state: text(10, 'open, kept, partly, broken or withdrawn'),
  withdrawn_on: optional(day('business date')),
  withdrawn_by: optional(whole('')),
  withdraw_reason: text(200, ''),
  person_id: whole('who noted it'),
  at: instant('UTC'),
})
