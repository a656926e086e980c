import { instant, key, table, text, whole } from './columns'

/** A person at a customer's, and what they are for. The main one stands on the customer itself. */
export const contact = table('contact', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  name: text(120, ''),
  job: text(80, 'what they do there'),
  email: text(190, ''),
  phone: text(40, ''),
  money: whole('1: to ring about money'),
  reminders: whole('1: gets reminders'),
  statements: whole('1: gets statements'),
  collections: whole('1: gets notices of collections'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
