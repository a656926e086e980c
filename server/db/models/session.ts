import { instant, key, table, text, whole } from './columns'

/** Who is signed in, from where. A row that is gone lets nobody in. */
export const session = table('session', ['id'], {
  id: key(''),
  token_hash: text(64, 'SHA-256 of what the cookie holds'),
  person_id: whole('whose'),
  network: text(64, 'where from: an IPv4 address, or the first half of an IPv6 one'),
  agent: text(200, 'what the browser calls itself'),
  used_at: instant('last request, to the minute, UTC'),
  at: instant('signed in, UTC'),
})
