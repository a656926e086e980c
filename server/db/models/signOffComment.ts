import { instant, key, table, text, whole } from './columns'

/** Something said about what waits for a second signature. */
export const signOffComment = table('sign_off_comment', ['id'], {
  id: key(''),
  waiting_id: whole('what it is about'),
  text: text(500, ''),
  person_id: whole('who said it'),
  at: instant('when, UTC'),
})
