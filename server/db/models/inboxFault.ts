import { instant, key, table, text, whole } from './columns'

/** A bank file set aside because it could not be taken. */
export const inboxFault = table('inbox_fault', ['id'], {
  id: key(''),
  file_hash: text(64, 'SHA-256'),
  file_name: text(120, ''),
  reason: text(500, 'why'),
  dismissed: whole('1: no longer told'),
  at: instant('when, UTC'),
})
