import { day, instant, key, longText, optional, table, text, whole } from './columns'

/** A what-if about the forecast that is kept by a name. Rows are never changed, only ended. */
export const whatIf = table('what_if', ['id'], {
  id: key(''),
  name: text(80, ''),
  body: longText('what is otherwise, JSON; see contract/forecast whatIf'),
  on_date: day('kept, by the business date'),
  ended_on: optional(day('kept no more')),
  person_id: whole('who kept it'),
  at: instant('when, UTC'),
})
