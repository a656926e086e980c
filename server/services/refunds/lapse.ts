import { z } from 'zod'
import { cell } from '../../db/rows'
import { decideLapse } from '../../../core/refunds'
import { amountWords } from '../../../core/money'
import { lapseBody } from '../../../contract/refunds'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, type By } from '../../ledger/command'
import type { Idempotency } from '../../ledger/idempotency'
import { loadState } from '../../ledger/load'
import { performOrKeep } from '../../ledger/waiting'
import type { Actor } from '../people/scope'
import type { Asked } from './post'

const ownersOfRow = z.object({
  id: cell.whole,
  country: cell.text,
})

const ownersOf = (db: Handle, itemIds: readonly number[]) =>
  db.rows(
    ownersOfRow,
    `SELECT DISTINCT c.id, c.country FROM item i JOIN customer c ON c.id = i.customer_id WHERE i.id IN (:itemIds)`,
    { itemIds },
  )

/** Takes unclaimed credits off their accounts. */
export const lapseCommand = command({
  name: 'refunds.lapse',
  ability: 'refunds.post',
  input: lapseBody,
  locks: async (db, input) => ({ customers: (await ownersOf(db, input.itemIds)).map(o => o.id) }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const owners = await ownersOf(db, input.itemIds)
    const customerIds = owners.map(o => o.id)
    return {
      ledger: await loadState(db, { customerIds, itemIds: input.itemIds }, settings),
      terms: settings.paymentPolicy.lapse,
      countries: new Map(owners.map(o => [o.id, o.country])),
    }
  },
  decide: decideLapse,
  stake: ({ ledger }, { itemIds }) => {
    const items = itemIds.flatMap(id => ledger.items.get(id) ?? [])
    const base = items.reduce((sum, i) => sum + i.baseOpen, 0)
    const [first] = items
    return {
      kind: 'lapse' as const,
      amount: base,
      currency: ledger.base,
      baseAmount: base,
      customerId: items.length === 1 ? first!.customerId : null,
    }
  },
  changes: ({ ledger }, { itemIds, to }) =>
    itemIds.slice(0, 30).map(id => {
      const item = ledger.items.get(id)
      return {
        field: item?.number ?? String(id),
        before: item ? `${amountWords(item.open, item.currency)} of credit` : 'gone',
        after: to === 'income' ? 'taken to income' : 'owed outside the account',
      }
    }),
  after: async ({ written }) => ({ numbers: written.map(w => w.items[0]!.number) }),
  about: ({ itemIds }) => (itemIds.length === 1 ? `item ${itemIds[0]}` : `${itemIds.length} credits`),
})

export async function postLapse(
  database: Handle,
  actor: Actor,
  body: z.input<typeof lapseBody>,
  idempotency?: Idempotency,
): Promise<Asked> {
  const done = await performOrKeep<{ numbers: string[] }>(database, actor, lapseCommand, body, idempotency)
  return { numbers: done.done?.numbers ?? [], waiting: done.waiting?.id ?? null }
}
