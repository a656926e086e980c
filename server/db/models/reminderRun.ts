import { day, instant, key, longText, optional, table, text, whole } from './columns'

/** A proposal of notices, confirmed or not. */
export const reminderRun = table('reminder_run', ['id'], {
  id: key(''),
  as_of: day(''),
  policy: text(24, ''),
  state: text(12, 'proposed, confirmed or discarded'),
  proposal: longText('JSON'),
  version: whole('goes up with each change: a stale edit is refused'),
  confirmed_by: optional(whole('')),
  confirmed_at: optional(instant('UTC')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
