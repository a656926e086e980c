import { z } from 'zod'
import type { Handle } from '../../db/handle'
import type { Difference } from './check'
import { LEDGER_CHECKS } from './ledger'
import { MONEY_CHECKS } from './money'

export type { Difference } from './check'

/** A key, a number or a text: what differs may be any. */
const differs = z.union([z.string(), z.number()])
const rowCells = z.object({ k: differs, expected: differs.nullable(), found: differs.nullable() })

/**
 * Recomputes every projection, the tie-out and where all money lies from what was posted, and names each
 * difference. What it finds is a fault of ours: it changes nothing.
 */
export async function verifyLedger(database: Handle): Promise<Difference[]> {
  const differences: Difference[] = []
  for (const [what, sql] of [...LEDGER_CHECKS, ...MONEY_CHECKS]) {
    for (const { k, expected, found } of await database.rows(rowCells, sql))
      differences.push({ what, row: String(k), expected: String(expected), found: String(found) })
  }
  return differences
}
