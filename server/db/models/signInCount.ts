import { instant, optional, table, text, whole } from './columns'

/** Wrong passwords, counted by name, by network and by both. */
export const signInCount = table('sign_in_count', ['about'], {
  about: text(64, 'SHA-256 of what is counted: no name and no address is kept'),
  tries: whole('since the last right one'),
  barred_until: optional(instant('no try is let through before, UTC')),
  right_at: optional(instant('last right password, UTC')),
  last_at: instant('last try, UTC'),
})
