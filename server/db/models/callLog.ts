import { day, instant, key, optional, table, text, whole } from './columns'

/** Somebody rang a customer, or tried to. */
export const callLog = table('call_log', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  on_date: day('business date'),
  outcome: text(16, 'see core/callList'),
  spoke_with: text(80, ''),
  text: text(500, ''),
  next_date: optional(day('when to ring again')),
  promise_id: optional(whole('what was promised in it')),
  dispute_id: optional(whole('what was disputed in it')),
  person_id: whole('who rang'),
  at: instant('UTC'),
})
