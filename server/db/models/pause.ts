import { day, instant, key, optional, table, text, whole } from './columns'

/** A stop of reminders. */
export const pause = table('pause', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  item_id: optional(whole('null: the whole account')),
  reason: text(200, ''),
  until_date: day('last day'),
  ended: whole('1: ended early'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
