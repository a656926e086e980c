import type { ReferenceRate } from '../../../core/interest'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'

/** The table of reference rates, whole: a few rows for each half year. */
export async function referenceRates(database: Handle): Promise<(ReferenceRate & { source: string })[]> {
  return database.find(
    'reference_rate',
    {},
    {
      columns: { code: 'code', from: 'valid_from', percent: 'percent', source: 'source' },
      order: [['valid_from', 'DESC'], 'code'],
    },
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
    const [before] = await tx.find(
      'reference_rate',
      { code, valid_from: from },
      { columns: ['percent'], lock: true },
    )
    await tx.put(
      'reference_rate',
      [{ code, valid_from: from, percent, source, person_id: personId }],
      ['percent', 'source', 'person_id'],
    )
    await audit(tx, personId, 'reference rate', `${code} ${from}`, before?.percent ?? null, percent)
  })
  return { code, from, percent }
}
