import { existsSync } from 'node:fs'
import { mkdir, readdir, readFile, rename, stat } from 'node:fs/promises'
import { join } from 'node:path'

/** Where mail to us arrives. Each of these may fail when a server is away: then nothing was taken. */
export interface MailIn {
  /** Names of the messages that wait, oldest first; null: not looked again yet. */
  waiting: () => Promise<string[] | null>
  /** The bytes of one (RFC 5322); null when it is larger than we read, undefined when it is gone. */
  read: (name: string) => Promise<Buffer | null | undefined>
  /** It was taken: it does not wait any more, and is kept. */
  taken: (name: string) => Promise<void>
  close: () => Promise<void>
}

/** Larger ones are told of, not read. */
export const MOST_MAIL_BYTES = 25 * 1024 * 1024

/**
 * A Maildir folder that a mail server on this machine delivers to, or the simulated customers fill. New
 * messages lie under `new`; what was taken is moved to `cur`, marked as seen.
 */
export function maildir(folder: string): MailIn {
  const [fresh, seen] = [join(folder, 'new'), join(folder, 'cur')]
  return {
    waiting: async () => (existsSync(fresh) ? (await readdir(fresh)).sort() : []),
    read: async name => {
      const file = join(fresh, name)
      return (await stat(file)).size > MOST_MAIL_BYTES ? null : readFile(file)
    },
    taken: async name => {
      await mkdir(seen, { recursive: true })
      await rename(join(fresh, name), join(seen, `${name}:2,S`))
    },
    close: () => Promise.resolve(),
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
