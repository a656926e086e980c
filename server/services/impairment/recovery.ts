import { z } from 'zod'
import { cell } from '../../db/rows'
import { recoveryBody, type RecoveryBody } from '../../../contract/impairment'
import { decideRecovery, type WrittenOff } from '../../../core/impairment'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, perform, type By, type Idempotency } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { findCustomer } from '../accounts/customers'
import { notFound } from '../common/problems'
import { prove } from '../books/proof'
import type { Actor } from '../people/scope'

const ownerOfRow = z.object({
  id: cell.whole,
  number: cell.text,
})

async function ownerOf(db: Handle, itemId: number): Promise<{ id: number; number: string }> {
  const [row] = await db.rows(
    ownerOfRow,
    'SELECT c.id, c.number FROM item i JOIN customer c ON c.id = i.customer_id WHERE i.id = :itemId',
    { itemId },
  )
  if (!row) throw notFound(`credit ${itemId}`)
  return row
}

const writtenOffRow = z.object({
  writeOffId: cell.whole,
  number: cell.text,
  customerId: cell.whole,
  currency: cell.text,
  amount: cell.whole,
  recovered: cell.sum,
  taxClaimed: cell.whole,
})

/** Write-offs that still stand, with what of them came back. */
async function writtenOff(db: Handle, ids: readonly number[]): Promise<Map<number, WrittenOff>> {
  const rows = await db.rows(
    writtenOffRow,
    `SELECT w.item_id AS writeOffId, i.number, w.customer_id AS customerId, i.currency, i.amount,
      IF(w.relief = 'claimed', w.tax, 0) AS taxClaimed,
      (SELECT COALESCE(SUM(q.amount), 0) FROM recovery r JOIN item q ON q.id = r.item_id
        WHERE r.write_off_id = w.item_id
        AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = q.id)) AS recovered
      FROM write_off w JOIN item i ON i.id = w.item_id WHERE w.item_id IN (:ids)
      AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = w.item_id)`,
    { ids },
  )
  return new Map(
    rows.map(r => [r.writeOffId, { ...r, recovered: Number(r.recovered), taxClaimed: Number(r.taxClaimed) }]),
  )
}

/** Money on an account is what was written off, come back after all. */
export const recoverCommand = command({
  name: 'impairment.recover',
  ability: 'impairment.post',
  input: recoveryBody,
  locks: async (db, input) => ({ customers: [(await ownerOf(db, input.creditItemId)).id] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const owner = await ownerOf(db, input.creditItemId)
    return {
      ledger: await loadState(db, { customerIds: [owner.id], itemIds: [input.creditItemId] }, settings),
      writtenOff: await writtenOff(
        db,
        input.parts.map(p => p.writeOffId),
      ),
      customer: await findCustomer(db, owner.number, {}),
    }
  },
  decide: decideRecovery,
  after: async ({ db, input, written }) => {
    const items = written[0]!.items
    await db.insert(
      'recovery',
      input.parts.map((p, n) => ({ item_id: items[n]!.id, write_off_id: p.writeOffId })),
    )
    return { numbers: items.map(i => i.number) }
  },
  about: input => `credit ${input.creditItemId}`,
})

export const postRecovery = (
  database: Handle,
  actor: Actor,
  body: RecoveryBody,
  idempotency?: Idempotency,
): Promise<{ numbers: string[] }> => perform(database, actor, recoverCommand, body, idempotency)

export const proveRecovery = (database: Handle, actor: Actor, body: RecoveryBody) =>
  prove(database, actor, recoverCommand, body)
