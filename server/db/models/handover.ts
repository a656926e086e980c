import { day, instant, key, longText, optional, table, text, whole } from './columns'

/** An account that was handed over to an agency or lawyer. */
export const handover = table('handover', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  agency: text(120, 'to whom'),
  on_date: day(''),
  reason: text(300, ''),
  items: longText('JSON: what was open then'),
  amount: whole('open then, base minor units'),
  ended_on: optional(day('taken back, or settled')),
  ended_why: text(200, ''),
  after_entry: whole('receipts of later entries came after it'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
