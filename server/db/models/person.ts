import type { Role } from '../../../core/people'
import { instant, key, table, text, whole, wordOf } from './columns'

/** Who may sign in. */
export const person = table('person', ['id'], {
  id: key(''),
  email: text(190, ''),
  name: text(120, ''),
  role: wordOf<Role>(20, 'see core/people'),
  password_hash: text(100, 'bcrypt'),
  active: whole('1 may sign in'),
  at: instant('when, UTC'),
  must_change: whole('1: the password was given by somebody else, and must be changed first'),
})
