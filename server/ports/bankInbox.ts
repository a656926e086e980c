import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'

/** Where bank files come from. */
export interface BankInbox {
  /** Names of the files that lie there, oldest first. */
  files: () => string[]
  read: (name: string) => Buffer
}

const STATEMENT = /\.(xml|sta|940|mt940|ofx|csv)$/i

/** The real form: a folder that the bank's file service (EBICS, SFTP) fills. Its files lie under `inbox/`. */
export const folderInbox = (folder: string): BankInbox => {
  const inbox = join(folder, 'inbox')
  return {
    files: () =>
      existsSync(inbox)
        ? readdirSync(inbox)
            .filter(f => STATEMENT.test(f))
            .sort()
        : [],
    read: name => readFileSync(join(inbox, name)),
  }
}
