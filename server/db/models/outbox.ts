import { instant, key, longText, optional, table, text, whole } from './columns'

/** A letter to be sent. */
export const outbox = table('outbox', ['id'], {
  id: key(''),
  notice_id: optional(whole('')),
  customer_id: whole('the account'),
  recipient: text(190, 'address'),
  subject: text(200, ''),
  text: longText(''),
  message_id: text(120, 'RFC 5322, the same for every try'),
  state: text(8, 'queued, waiting, sent, failed or print'),
  tries: whole(''),
  reply: text(300, 'what the mail server said'),
  sent_at: optional(instant('UTC')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
  next_try: optional(instant('when a waiting one is due, UTC')),
  letter_id: optional(whole('of sent_letter')),
})
