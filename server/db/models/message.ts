import { day, instant, key, optional, table, text, whole } from './columns'

/** A word to a colleague about an account, or an answer to one. */
export const message = table('message', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  about: text(12, 'account, item, receipt or order'),
  about_id: optional(whole('id of what it is about')),
  first_id: optional(whole('the message that it answers; null: it begins')),
  to_id: whole('for whom'),
  text: text(1000, ''),
  on_date: day('business date'),
  due: optional(day('a task: until when')),
  read_at: optional(instant('UTC')),
  done_at: optional(instant('a task: when it was done, UTC')),
  done_by: optional(whole('')),
  person_id: whole('from whom'),
  at: instant('UTC'),
})
