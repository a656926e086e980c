import { day, instant, kept, key, optional, table, text, whole } from './columns'

/** Receipts keyed together and posted together. */
export const batch = table('batch', ['id'], {
  id: key(''),
  number: optional(text(16, 'given when it is closed')),
  state: text(8, 'open or closed'),
  currency: text(3, 'ISO 4217'),
  date: day('day of its receipts'),
  text: text(120, ''),
  control_total: optional(whole('what was counted, minor units')),
  control_count: optional(whole('how many were counted')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
  closed_at: optional(instant('when, UTC')),
  version: whole('goes up with each change: a stale edit is refused'),
  open_of: kept(whole('kept by the database from the others')),
})
