import { instant, key, longText, table, text, whole } from './columns'

/** A list as somebody wants to see it again: filters, order, columns. */
export const savedView = table('saved_view', ['id'], {
  id: key(''),
  screen: text(24, 'aging, accounts'),
  name: text(60, 'one of a name for a person and screen'),
  shared: whole('1: all may use it'),
  state: longText('what the screen keeps, as JSON'),
  person_id: whole('whose it is'),
  at: instant('UTC'),
})
