import type { ReferenceRate } from '../../../core/interest'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'

/** The table of reference rates, whole: a few rows for each half year. */
export async function referenceRates(database: Handle): Promise<(ReferenceRate & { source: string })[]> {
  return database.select(
    'SELECT code, valid_from AS `from`, percent, source FROM reference_rate ORDER BY valid_from DESC, code',
  )
}

/** Enters a rate from a day on; one of the same day is replaced, and the trail keeps both. */
export async function setReferenceRate(
  database: Handle,
  personId: number,
  rate: ReferenceRate & { source: string },
): Promise<ReferenceRate> {
  const { code, from, percent, source } = rate
  await database.transaction(async tx => {
    const [before] = await tx.select<{ percent: string }>(
      'SELECT percent FROM reference_rate WHERE code = :code AND valid_from = :from FOR UPDATE',
      { code, from },
    )
    await tx.run(
      `INSERT INTO reference_rate (code, valid_from, percent, source, person_id)
        VALUES (:code, :from, :percent, :source, :personId) ON DUPLICATE KEY
        UPDATE percent = :percent, source = :source, person_id = :personId`,
      { code, from, percent, source, personId },
    )
    await audit(tx, personId, 'reference rate', `${code} ${from}`, before?.percent ?? null, percent)
  })
  return { code, from, percent }
}
