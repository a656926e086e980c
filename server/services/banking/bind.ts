import { z } from 'zod'
import { cell } from '../../db/rows'
import { plus } from '../../db/where'
import type { Posting } from '../../../core/ledger'
import { NO_REASON } from '../../../core/payments'
import type { Handle } from '../../db/handle'
import type { Written } from '../../ledger/write'
import { noteReturnedReceipts } from '../collections/returns'
import { markMet } from './met'
import type { LineRow } from './lines'
import type { ActionIn } from './resolve'

/** A line that was posted, with all that is kept of it. */
export interface Bound {
  row: LineRow
  action: ActionIn
  posting: Posting
  written: Written
  /** What it was taken for and why, in a sentence or two. */
  told: string
  /** How sure the proposal was that was taken; null: chosen by hand. */
  confidence: number | null
}

interface Target {
  kind: 'means' | 'slip' | 'reversal' | 'refund' | 'receipt' | 'return'
  id: number
}

/** What a line is bound to: what it settled, the receipts it made, or the receipt it sent back. */
function targetsOf({ action, posting, written }: Bound): Target[] {
  if (action.kind === 'covered') return action.targets
  if (action.kind === 'return') return [{ kind: 'return', id: action.itemId }]
  if (action.kind === 'ledger') return []
  return posting.items.flatMap((item, n) =>
    item.kind === 'receipt' ? [{ kind: 'receipt' as const, id: written.items[n]!.id }] : [],
  )
}

/** Writes what lines were matched to, and marks them settled. */
export async function bind(
  db: Handle,
  personId: number,
  bound: readonly Bound[],
  automatic: boolean,
): Promise<void> {
  if (!bound.length) return
  const ids = await db.insert(
    'bank_match',
    bound.map(b => ({
      line_id: b.row.id,
      kind: b.action.kind,
      entry_id: b.written.entryId,
      told: b.told.slice(0, 500),
      confidence: b.confidence,
      automatic: automatic ? 1 : 0,
      person_id: personId,
    })),
  )
  const targets = bound.flatMap((b, i) =>
    targetsOf(b).map(t => ({ match_id: ids[i]!, kind: t.kind, ref_id: t.id })),
  )
  await db.insert('bank_match_target', targets)
  await markMet(
    db,
    targets.flatMap(t => (t.kind === 'means' ? [t.ref_id] : [])),
  )
  await noteReturnedReceipts(
    db,
    personId,
    bound.flatMap(({ action, row }) =>
      action.kind === 'return'
        ? [
            {
              itemId: action.itemId,
              code: row.returnReason || NO_REASON,
              on: row.bookingDate,
              text: 'told by the bank statement',
            },
          ]
        : [],
    ),
  )
  await countHabits(db, bound)
  await db.update(
    'bank_line',
    { state: 'settled', version: plus('version', 1), held: '' },
    { id: bound.map(b => b.row.id) },
  )
}

const countHabitsRow = z.object({
  customerId: cell.whole,
})

/**
 * Counts how customers were seen to pay: whether the oldest items first, and what they kept back. Who leaves
 * an item open that fell due before what is paid passed it over. Rows in the order of their key, as in
 * `learn`.
 */
async function countHabits(db: Handle, bound: readonly Bound[]): Promise<void> {
  const allocations = bound.flatMap(({ action }) =>
    action.kind === 'receipt' ? action.parts.flatMap(p => p.allocations) : [],
  )
  if (!allocations.length) return
  const paid = await db.find(
    'item',
    { id: allocations.map(a => a.itemId) },
    { columns: { id: 'id', customerId: 'customer_id' } },
  )
  const passedOver = await db.rows(
    countHabitsRow,
    `SELECT DISTINCT t.customer_id AS customerId FROM (SELECT customer_id, currency, MAX(due_date) AS latest
      FROM item WHERE id IN (:ids) GROUP BY customer_id, currency) t
      JOIN open_item o ON o.customer_id = t.customer_id AND o.currency = t.currency
      JOIN item i ON i.id = o.item_id AND i.side = 'debit' AND i.due_date < t.latest
      WHERE i.id NOT IN (:ids)`,
    { ids: allocations.map(a => a.itemId) },
  )
  const passes = new Set(passedOver.map(p => p.customerId))
  const rows = new Map<string, [number, string, number]>()
  for (const { id, customerId } of paid) {
    const kind = passes.has(customerId) ? 'other' : 'oldest'
    rows.set(`${customerId} ${kind}`, [customerId, kind, 0])
    const kept = allocations.find(a => a.itemId === id)?.difference ?? 0
    if (kept) rows.set(`${customerId} short ${kept}`, [customerId, 'short', kept])
  }
  const sorted = [...rows.values()].sort(([a, k, x], [b, l, y]) => a - b || (k < l ? -1 : k > l ? 1 : x - y))
  await db.run(
    `INSERT INTO payer_habit (customer_id, kind, amount, times)
      VALUES ${sorted.map(() => '(?, ?, ?, 1)').join(', ')} ON DUPLICATE KEY UPDATE times = times + 1`,
    sorted.flat(),
  )
}

/** The customers a line says paid, remembered by its bank account and name. */
export interface Lesson {
  iban: string
  name: string
  customerIds: number[]
}

/**
 * Remembers who paid for whom; rows in the order of their key, so that two who learn at once do not wait for
 * each other in a ring.
 */
export async function learn(db: Handle, personId: number, lessons: readonly Lesson[]): Promise<void> {
  const rows = lessons.flatMap(({ iban, name, customerIds }) =>
    iban || name ? customerIds.map(id => [iban.replace(/\s/g, '').toUpperCase(), name, id, personId]) : [],
  )
  if (!rows.length) return
  rows.sort((a, b) => (String(a) < String(b) ? -1 : 1))
  await db.run(
    `INSERT INTO payer_learnt (iban, name, customer_id, person_id)
      VALUES ${rows.map(() => '(?, ?, ?, ?)').join(', ')}
      ON DUPLICATE KEY UPDATE times = times + 1`,
    rows.flat(),
  )
}
