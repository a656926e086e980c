import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Covered, CoveredTarget } from '../../../core/banking/matching'
import { blockId } from '../../../formats/payments/types'
import type { Handle } from '../../db/handle'
import type { CoveredRow } from './world'

/*
 * Payments that a bank makes or collects on our word, as its statement shows them: one by one, or each file
 * or block of a file as one sum.
 */

/** What belongs together because it went to the bank together. */
export interface SentTogether {
  label: string
  targets: CoveredTarget[]
}

const filePartRow = z.object({
  number: cell.text,
  kind: z.enum(['means', 'slip', 'refund', 'reversal']),
  id: cell.whole,
  /** The block within its file: day and sequence. */
  block: cell.text,
})
type FilePart = z.output<typeof filePartRow>

/** Refunds and collections of a currency that the bank has not shown, by file and block. */
const PARTS = `
  SELECT p.number, 'refund' AS kind, f.item_id AS id, '' AS block FROM refund f
    JOIN payment_file p ON p.id = f.file_id WHERE p.currency = :currency
    AND NOT EXISTS (SELECT 1 FROM bank_match_target t WHERE t.kind = 'refund' AND t.ref_id = f.item_id
      AND t.live IS NOT NULL)
  UNION ALL
  SELECT p.number, 'means', m.id, CONCAT(k.collect_on, ' ', k.sequence) FROM collection k
    JOIN payment_file p ON p.id = k.file_id JOIN receipt_means m ON m.item_id = k.receipt_item_id
    WHERE p.currency = :currency AND m.met = 0`

/** Files whose payments are awaited, whole and block by block. */
export async function paymentFiles(database: Handle, currency: string): Promise<SentTogether[]> {
  const rows = await database.rows(filePartRow, `${PARTS} ORDER BY number, block, id`, { currency })
  const together = new Map<string, SentTogether>()
  const add = (label: string, { kind, id }: FilePart): void => {
    const own = together.get(label) ?? { label, targets: [] }
    together.set(label, own)
    own.targets.push({ kind, id })
  }
  for (const [number, parts] of groupBy(rows, r => r.number)) {
    const blocks = [...groupBy(parts, r => r.block).values()]
    for (const part of parts) add(number, part)
    if (blocks.length > 1)
      blocks.forEach((own, place) => own.forEach(part => add(blockId(number, place), part)))
  }
  return [...together.values()]
}

function groupBy<T>(list: readonly T[], key: (t: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>()
  for (const one of list) {
    const own = groups.get(key(one)) ?? []
    groups.set(key(one), own)
    own.push(one)
  }
  return groups
}

/**
 * Each file as one sum: with what came back meanwhile, as a bank books it that tells returns apart, and
 * without it, as one does that takes them off the sum.
 */
export function lumpsOf(files: readonly SentTogether[], awaited: readonly CoveredRow[]): Covered[] {
  const byTarget = new Map(awaited.map(a => [`${a.kind} ${a.id}`, a]))
  return files.flatMap(({ label, targets }): Covered[] => {
    const all = targets.flatMap(t => byTarget.get(`${t.kind} ${t.id}`) ?? [])
    const kept = all.filter(r => !r.returned)
    const lump = (rows: readonly CoveredRow[], told: string): Covered => ({
      kind: 'file',
      id: 0,
      label: `${label}${told}`,
      customerId: null,
      amount: rows.reduce((a, r) => a + r.amount, 0),
      date: rows[0]!.date,
      references: [label],
      targets: rows.map(r => ({ kind: r.kind, id: r.id })),
    })
    const whole = all.length > 1 ? [lump(all, ` of ${all.length} payments`)] : []
    const back = all.length - kept.length
    const net = back > 0 && kept.length > 0 ? [lump(kept, ` less ${back} that came back`)] : []
    return [...whole, ...net]
  })
}
