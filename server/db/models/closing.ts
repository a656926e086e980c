import { day, instant, key, optional, table, whole } from './columns'

/** Up to which day the books were closed, from which entry on: a row for each time it changed. */
export const closing = table('closing', ['id'], {
  id: key(''),
  until: optional(day('the last closed day; null: none')),
  after_entry: whole('the last entry there was when it changed'),
  person_id: optional(whole('who did it')),
  at: instant('when, UTC'),
})
