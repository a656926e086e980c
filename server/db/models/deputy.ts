import { day, instant, key, table, whole } from './columns'

/** Somebody who signs in the place of another for some days. */
export const deputy = table('deputy', ['id'], {
  id: key(''),
  absent_id: whole('who is away'),
  deputy_id: whole('who stands in'),
  from_date: day('first day'),
  until_date: day('last day'),
  person_id: whole('who said so'),
  at: instant('when, UTC'),
})
