import { longText, table, text, whole } from './columns'

/** A proposed notice of a run. */
export const runNotice = table('run_notice', ['run_id', 'key_text'], {
  run_id: whole('of reminder_run'),
  key_text: text(64, 'customer, currency, and what tells letters apart'),
  customer_id: whole('the account'),
  currency: text(3, 'ISO 4217'),
  level: whole('0: an interest note'),
  total: whole('overdue, minor units'),
  fee: whole('minor units'),
  interest: whole('minor units'),
  channel: text(8, 'email or print'),
  included: whole('0: a person left it out'),
  notice: longText('JSON, see core/reminders/notice'),
  warnings: whole('how many it has'),
})
