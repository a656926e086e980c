import { day, instant, key, table, text, whole } from './columns'

/** What somebody wrote on an account. */
export const note = table('note', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  text: text(2000, ''),
  on_date: day('business date'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
  pinned: whole('1: shown first'),
})
