import { instant, table, text } from './columns'

/** What is outside and cannot be reached at present. */
export const portFault = table('port_fault', ['port'], {
  port: text(16, ''),
  says: text(300, 'what it answered'),
  since: instant('since when, UTC'),
})
