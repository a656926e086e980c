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
})
