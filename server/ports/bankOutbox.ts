import { existsSync, mkdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

/** Where files for the bank are put. */
export interface BankOutbox {
  /**
   * Hands a file over, whole or not at all. The same file again does no harm; another one of that name
   * throws: a message id is used once.
   */
  put: (name: string, content: string) => void
}

/** The real form: a folder from which a file service (EBICS, SFTP) takes them. They lie under `outbox/`. */
export const folderOutbox = (folder: string): BankOutbox => {
  const outbox = join(folder, 'outbox')
  return {
    put: (name, content) => {
      mkdirSync(outbox, { recursive: true })
      const file = join(outbox, name)
      if (existsSync(file)) {
        if (readFileSync(file, 'utf8') === content) return
        throw new Error(`there is another file ${name} in the bank's outbox`)
      }
      writeFileSync(`${file}.part`, content)
      renameSync(`${file}.part`, file)
    },
  }
}
