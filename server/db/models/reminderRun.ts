import { day, instant, key, longText, optional, table, text, whole } from './columns'

/** A proposal of notices, confirmed or not; its notices lie in rows. */
export const reminderRun = table('reminder_run', ['id'], {
  id: key(''),
  as_of: day(''),
  policy: text(24, 'empty: each customer by its own'),
  state: text(12, 'preparing, proposed, confirmed, withdrawn or discarded'),
  version: whole('goes up with each change: a stale edit is refused'),
  confirmed_by: optional(whole('')),
  confirmed_at: optional(instant('UTC')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
  kind: text(8, 'reminder or interest'),
  scope: longText('JSON: whom it looks at'),
  edits: longText('JSON: what people changed, by key of the notice'),
  job_id: optional(whole('at work on it')),
  prepared: text(12, 'empty: by a person; else by the schedule'),
})
