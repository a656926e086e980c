import { day, key, longText, optional, table, text, whole } from './columns'

/** A reminder that went out. */
export const notice = table('notice', ['id'], {
  id: key(''),
  number: text(32, ''),
  run_id: whole(''),
  customer_id: whole('the account'),
  level: whole('highest of its items'),
  on_date: day(''),
  deadline: day(''),
  currency: text(3, 'ISO 4217'),
  total: whole('claimed, minor units'),
  fee: whole('minor units'),
  fee_item_id: optional(whole('the fee as an item')),
  channel: text(8, 'email or print'),
  letter: longText('all that the PDF shows, JSON'),
  key_text: text(64, 'of run_notice'),
  policy: text(24, 'by which it was made'),
  interest: whole('minor units'),
  interest_item_id: optional(whole('the interest as an item')),
  holds: whole('1: orders are held while an item of it is open'),
  hands_over: whole('1: to be handed over when it is not paid'),
  withdrawn_on: optional(day('it does not count any more')),
  withdrawn_by: optional(whole('')),
  withdrawn_why: text(200, ''),
})
