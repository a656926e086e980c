import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Handle } from '../../db/handle'
import { ProblemError } from '../common/problems'

/** A state of the books: its last entry. */
const knownToRow = z.object({
  entryId: cell.whole,
  entry: cell.whole,
  at: cell.text,
})
export type KnownTo = z.output<typeof knownToRow>

/**
 * The state of the books that a question about knowledge means: an entry number, or an instant in UTC. `null`
 * asks for now, and the answer tells the entry all the same, so that what is printed today can be asked for
 * again.
 */
export async function knownTo(database: Handle, known: string | undefined): Promise<KnownTo> {
  const by = known === undefined ? '1 = 1' : /^\d+$/.test(known) ? 'number <= :known' : 'at <= :known'
  const [row] = await database.rows(
    knownToRow,
    `SELECT id AS entryId, number AS entry, at FROM entry WHERE ${by} ORDER BY id DESC LIMIT 1`,
    { known: known?.replace('T', ' ').replace(/Z$/, '') },
  )
  if (row) return row
  if (known === undefined) return { entryId: 0, entry: 0, at: '' }
  throw new ProblemError(422, 'Nothing was known', `there was no entry yet at ${known}`, [
    { path: 'known', message: 'before the first entry', satisfy: 'name a later entry or instant' },
  ])
}
