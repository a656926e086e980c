import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, statSync } from 'node:fs'
import { join } from 'node:path'

/** Where mail to us arrives. */
export interface MailIn {
  /** Names of the messages that wait, oldest first. */
  waiting: () => string[]
  /** The bytes of one (RFC 5322); null when it is larger than we read. */
  read: (name: string) => Buffer | null
  /** It was taken: it does not wait any more, and is kept. */
  taken: (name: string) => void
}

/** Larger ones are told of, not read. */
export const MOST_MAIL_BYTES = 25 * 1024 * 1024

/**
 * The real form: a Maildir folder that a mail server delivers to, or that a program fills from IMAP. New
 * messages lie under `new`; what was taken is moved to `cur`, marked as seen.
 */
export function maildir(folder: string): MailIn {
  const [fresh, seen] = [join(folder, 'new'), join(folder, 'cur')]
  return {
    waiting: () => (existsSync(fresh) ? readdirSync(fresh).sort() : []),
    read: name => {
      const file = join(fresh, name)
      return statSync(file).size > MOST_MAIL_BYTES ? null : readFileSync(file)
    },
    taken: name => {
      mkdirSync(seen, { recursive: true })
      renameSync(join(fresh, name), join(seen, `${name}:2,S`))
    },
  }
}

/** A letter that reached a customer, and what its recipient sees. */
export interface Answerable {
  messageId: string
  subject: string
  to: string
  from: string
  contact: string
  customer: string
  language: string
  /** Numbers and open amounts, minor units, of what it asks for. */
  items: { number: string; open: number; currency: string }[]
}
