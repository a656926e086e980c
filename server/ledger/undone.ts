import type { Posting } from '../../core/ledger'
import type { Handle } from '../db/handle'

/**
 * What stands on a link falls with it, whoever takes it back and why: a receipt that is returned, put right
 * or unmatched. An invoice closed by what a factor paid less its commission is not paid any more.
 */
export async function followUndone(db: Handle, postings: readonly Posting[]): Promise<void> {
  const links = postings.flatMap(p => p.allocations.flatMap(a => (a.undoesId === null ? [] : [a.undoesId])))
  if (!links.length) return
  await db.update(
    'factor_item',
    { state: 'accepted', collected: 0, collected_on: null, closing_link_id: null },
    { closing_link_id: links },
  )
}
