import { table, text, whole } from './columns'

/** A reminder policy; what it says stands in its versions. */
export const reminderPolicy = table('reminder_policy', ['code'], {
  code: text(24, ''),
  name: text(80, ''),
  version: whole('goes up with each change: a stale edit is refused'),
})
