import { existsSync, mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

/** Files to and from a factor, by the code of its facility. */
export interface FactorPort {
  /** Hands a schedule over, whole or not at all. The same again does no harm. */
  give: (code: string, name: string, content: string) => void
  /** Names of the files that it left, oldest first. */
  files: (code: string) => string[]
  read: (code: string, name: string) => string
}

/** The real form: a folder for each factor, that a file service fills and empties. */
export const folderFactor = (folder: string): FactorPort => ({
  give: (code, name, content) => {
    const outbox = join(folder, code, 'outbox')
    mkdirSync(outbox, { recursive: true })
    const file = join(outbox, name)
    if (existsSync(file)) return
    writeFileSync(`${file}.part`, content)
    renameSync(`${file}.part`, file)
  },
  files: code => {
    const inbox = join(folder, code, 'inbox')
    return existsSync(inbox)
      ? readdirSync(inbox)
          .filter(f => f.endsWith('.csv'))
          .sort()
      : []
  },
  read: (code, name) => readFileSync(join(folder, code, 'inbox', name), 'utf8'),
})
