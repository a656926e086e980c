import type { Handle } from '../../db/handle'

/**
 * Brings `met` of payment means to what the bank lines matched to them say; after every change of such a
 * match.
 */
export async function markMet(database: Handle, meansIds: readonly number[]): Promise<void> {
  if (!meansIds.length) return
  await database.run(
    `UPDATE receipt_means m SET m.met = EXISTS (SELECT 1 FROM bank_match_target t
      JOIN bank_match b ON b.id = t.match_id WHERE t.kind = 'means' AND t.ref_id = m.id
      AND b.undone_entry_id IS NULL) WHERE m.id IN (:meansIds)`,
    { meansIds },
  )
}
