import { instant, key, table, text } from './columns'

/** Failed sign-ins, for the rate limit. */
export const signInFailure = table('sign_in_failure', ['id'], {
  id: key(''),
  email: text(190, ''),
  address: text(64, 'of the caller'),
  at: instant('when, UTC'),
})
