import { day, instant, key, table, text, whole } from './columns'

/** A journal entry. Append-only; its numbers follow the order of commits. */
export const entry = table('entry', ['id'], {
  id: key(''),
  number: whole('without gaps'),
  date: day('day of the books'),
  kind: text(16, 'what caused it'),
  text: text(200, ''),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
