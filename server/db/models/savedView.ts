import { instant, key, longText, table, text, whole } from './columns'

/** How a list is to be shown, under a name. */
export const savedView = table('saved_view', ['id'], {
  id: key(''),
  screen: text(24, 'of which list'),
  name: text(60, ''),
  query: longText('what is asked, JSON'),
  shared: whole('1: others see it too'),
  person_id: whole('whose it is'),
  at: instant('when, UTC'),
})
