import { now, plus } from '../../db/where'
import { z } from 'zod'
import { decideBatch, type AccountState } from '../../../core/receipts'
import { id } from '../../../contract/common'
import type { BatchDetail } from '../../../contract/receipts/batches'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, perform, type Idempotency } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { takeNumbers } from '../../ledger/series'
import { findCustomers } from '../accounts/customers'
import { ProblemError } from '../common/problems'
import { openDeductions } from '../disputes/deductions'
import type { Actor } from '../people/scope'
import { bodyOf, keyedIn, ownOpen, readBatch, rowOf } from './batches'

/** Closes a batch: all its receipts are posted to receipts on hand or clearing, or none of them. */
export const closeBatchCommand = command({
  name: 'receipts.closeBatch',
  ability: 'receipts.post',
  input: z.object({ id, version: z.int() }),
  locks: async (db, input) => ({
    batches: [input.id],
    customers: (await keyedIn(db, input.id)).map(k => k.customerId),
  }),
  load: async (db, input, { settings, actor }: { settings: Settings; actor: Actor }) => {
    const row = await ownOpen(db, actor, input.id)
    if (row.version !== input.version)
      throw new ProblemError(409, 'Changed meanwhile', 'this batch was changed meanwhile: reload it')
    const keyed = await keyedIn(db, input.id)
    const bodies = keyed.map(bodyOf)
    const customers = await findCustomers(
      db,
      keyed.map(k => k.customerNumber),
    )
    const itemIds = bodies.flatMap(b => [
      ...b.allocations.map(a => a.itemId),
      ...(b.rest?.itemId ? [b.rest.itemId] : []),
    ])
    const rates = bodies.map(b => ({ currency: row.currency, date: b.date }))
    const customerIds = keyed.map(k => k.customerId)
    return {
      ledger: await loadState(db, { customerIds, itemIds, rates }, settings),
      controlTotal: row.controlTotal,
      controlCount: row.controlCount,
      keyed,
      receipts: bodies.map((ask, i) => ({
        ask,
        customer: customers.get(keyed[i]!.customerNumber) as AccountState['customer'],
      })),
    }
  },
  decide: decideBatch,
  after: async ({ db, input, state, written, facts, actor }) => {
    const number = (await takeNumbers(db, 'batch', 1))(0)
    for (const [i, k] of state.keyed.entries()) {
      const receiptItemId = written[i]!.items[0]!.id
      await db.update('batch_receipt', { item_id: receiptItemId }, { id: k.id })
      await openDeductions(
        db,
        actor.id,
        facts[i]!.map(d => ({ ...d, receiptItemId })),
      )
    }
    await db.update(
      'batch',
      { state: 'closed', number, closed_at: now(), version: plus('version', 1) },
      { id: input.id },
    )
    return { id: input.id }
  },
  about: input => String(input.id),
})

export async function closeBatch(
  database: Handle,
  actor: Actor,
  batchId: number,
  version: number,
  idempotency?: Idempotency,
): Promise<BatchDetail> {
  const before = await rowOf(database, batchId)
  if (before.state !== 'open' && !idempotency)
    throw new ProblemError(409, 'Closed', `batch ${before.number} is closed already`)
  await perform(database, actor, closeBatchCommand, { id: batchId, version }, idempotency)
  return readBatch(database, actor, batchId)
}
