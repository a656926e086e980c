import { longText, table, text, whole } from './columns'

/** Levels of reminding. */
export const reminderPolicy = table('reminder_policy', ['code'], {
  code: text(24, ''),
  name: text(80, ''),
  levels: longText('JSON, see contract/reminders'),
  version: whole('goes up with each change: a stale edit is refused'),
})
