import { day, instant, key, optional, table, text, whole } from './columns'

/** What an agency or lawyer costs. */
export const handoverCost = table('handover_cost', ['id'], {
  id: key(''),
  handover_id: whole('of handover'),
  on_date: day(''),
  currency: text(3, 'ISO 4217'),
  amount: whole('minor units'),
  text: text(200, ''),
  item_id: optional(whole('the debit by which it is charged on')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
