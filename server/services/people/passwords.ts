import bcrypt from 'bcryptjs'
import { Semaphore } from 'async-mutex'
import { dictionary } from '@zxcvbn-ts/language-common'
import { ProblemError } from '../common/problems'

const ROUNDS = 10
/** Compared against when the e-mail is unknown, so that both answers take the same time. */
export const NOBODY = bcrypt.hashSync('nobody has this password', ROUNDS)

/** Hashing is heavy on purpose: a crowd at the sign-in must leave room for those who work. */
const turns = new Semaphore(2)

/** bcrypt looks at no more bytes than these. */
const MOST_BYTES = 72
const COMMON = new Set<string>(dictionary['passwords-common'])

export const hashPassword = (password: string): Promise<string> =>
  turns.runExclusive(() => bcrypt.hash(password, ROUNDS))

export const isRight = (password: string, hash: string): Promise<boolean> =>
  turns.runExclusive(() => bcrypt.compare(password, hash))

/**
 * A password that many people use, or that says who its owner is, is guessed first (NIST SP 800-63B, 3.1.1.2;
 * the list is that of zxcvbn). Its length is checked by the contract.
 */
export function checkPassword(password: string, person: { email: string; name: string }): void {
  const refuse = (message: string) => {
    throw new ProblemError(422, 'Not a good password', message, [{ path: 'password', message }])
  }
  if (Buffer.byteLength(password) > MOST_BYTES)
    refuse(`at most ${MOST_BYTES} bytes: letters beyond plain ones take two or more`)
  const plain = password.toLowerCase()
  if (COMMON.has(plain)) refuse('many people use this password: choose another, three words do well')
  if (/^(.)\1*$/.test(plain)) refuse('one letter again and again is guessed at once: choose another')
  const own = [person.email, person.email.split('@')[0]!, person.name, 'bilancio'].map(o => o.toLowerCase())
  if (own.some(o => o.length > 3 && plain.replace(o, '').length < 4))
    refuse('this says who you are: choose another, three words do well')
}
