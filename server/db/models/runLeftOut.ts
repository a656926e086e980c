import { key, optional, table, text, whole } from './columns'

/** What a run leaves out, with the reason. */
export const runLeftOut = table('run_left_out', ['id'], {
  id: key(''),
  run_id: whole('of reminder_run'),
  customer_id: whole('the account'),
  item: optional(text(40, 'number; null: all of the account in this currency')),
  currency: text(3, 'ISO 4217'),
  open: whole('minor units'),
  rule: text(16, 'see LEFT_OUT_RULES'),
  reason: text(300, 'in words'),
})
