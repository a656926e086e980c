import { day, instant, key, longText, optional, table, text, whole } from './columns'

/** Mail that came back. */
export const inbox = table('inbox', ['id'], {
  id: key(''),
  customer_id: optional(whole('whose it is, as far as it is known')),
  found_by: text(12, 'reply, address, number, domain, hand; empty: nobody knows'),
  outbox_id: optional(whole('the letter that it answers')),
  message_id: text(200, 'RFC 5322, one of each'),
  sender: text(200, ''),
  subject: text(300, ''),
  text: longText('plain text'),
  kind: text(12, 'what it seems to be: see core/inbox'),
  found: longText('values read from it, as JSON'),
  on_date: day('business date'),
  state: text(8, 'new or done'),
  done_by: optional(whole('')),
  done_as: text(40, 'what was made of it'),
  at: instant('UTC'),
})
