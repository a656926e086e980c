import { instant, longText, table, text, whole } from './columns'

/** How a table of another program is laid out, as somebody said it. */
export const importLayout = table('import_layout', ['signature'], {
  signature: text(64, 'SHA-256 of the names of its columns'),
  map: longText('what its columns hold, JSON'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
