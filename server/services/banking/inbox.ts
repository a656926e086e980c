import { z } from 'zod'
import { cell } from '../../db/rows'
import { createHash } from 'node:crypto'
import type { StatementResult } from '../../../contract/banking/lines'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'
import { bankInbox } from '../../wiring'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { isAnswer } from '../../../formats/payments'
import { collectDue } from '../collections/collect'
import { takeAnswer } from '../payments/answers'
import { takeStatement, type Progress } from './statements'

export interface SetAside {
  id: number
  name: string
  reason: string
  at: string
}

/** Files that could not be taken in, and why; they stay where they are and do not hold up the others. */
export function setAside(database: Handle): Promise<SetAside[]> {
  return database.find(
    'inbox_fault',
    { dismissed: 0 },
    { columns: { id: 'id', name: 'file_name', reason: 'reason', at: 'at' }, order: ['id'] },
  )
}

/**
 * The file is tried again with the next load: what was wrong, such as a bank account not yet set up, may be
 * mended.
 */
export async function tryAgain(database: Handle, actor: Actor, id: number): Promise<void> {
  const done = await database.remove('inbox_fault', { id })
  if (!done) throw notFound(`file set aside ${id}`)
  await audit(database, actor.id, 'bank file', String(id), 'set aside', 'to be tried again')
}

const hashOf = (data: Uint8Array) => createHash('sha256').update(data).digest('hex')

const waitingFilesRow = z.object({
  hash: cell.text,
})

/** Files of the inbox that were neither taken in nor set aside. */
export async function waitingFiles(
  database: Handle,
): Promise<{ name: string; bytes: number; hash: string }[]> {
  const box = bankInbox()
  const files = box.files().map(name => ({ name, data: box.read(name) }))
  if (!files.length) return []
  const done = await database.rows(
    waitingFilesRow,
    `SELECT file_hash AS hash FROM bank_statement UNION SELECT file_hash FROM inbox_fault
      UNION SELECT file_hash FROM payment_answer`,
  )
  const known = new Set(done.map(r => r.hash))
  return files
    .map(f => ({ name: f.name, bytes: f.data.length, hash: hashOf(f.data) }))
    .filter(f => !known.has(f.hash))
}

/**
 * Takes in all that waits. A file that cannot be taken is set aside with its reason, and the next is taken.
 */
export async function takeInbox(
  database: Handle,
  actor: Actor,
  progress?: Progress,
): Promise<StatementResult & { setAside: { name: string; reason: string }[] }> {
  const all: StatementResult = { statements: [], fresh: 0, known: 0, applied: 0, left: 0, warnings: [] }
  const aside: { name: string; reason: string }[] = []
  // What the bank collected by now is posted first: its statement settles it.
  await collectDue(database)
  for (const { name, hash } of await waitingFiles(database)) {
    try {
      const data = bankInbox().read(name)
      if (isAnswer(Buffer.from(data.subarray(0, 4000)).toString('latin1'))) {
        const answer = await takeAnswer(database, actor, data, name)
        if (!answer.known)
          all.warnings.push(
            answer.refused
              ? `${name}: the bank refuses ${answer.refused} of file ${answer.file}`
              : `${name}: the bank took file ${answer.file}`,
          )
        continue
      }
      const one = await takeStatement(database, actor, data, { name }, progress)
      all.statements.push(...one.statements)
      all.warnings.push(...one.warnings)
      for (const k of ['fresh', 'known', 'applied', 'left'] as const) all[k] += one[k]
    } catch (error) {
      if (!(error instanceof ProblemError)) throw error
      const reason = error.message.slice(0, 500)
      aside.push({ name, reason })
      await database.insert('inbox_fault', [{ file_hash: hash, file_name: name.slice(0, 120), reason }], {
        ignore: true,
      })
    }
  }
  return { ...all, setAside: aside }
}
