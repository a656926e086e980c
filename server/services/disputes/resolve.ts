import { plus } from '../../db/where'
import { z } from 'zod'
import {
  decideResolve,
  disputedNow,
  DISPUTE_REASONS,
  RESOLUTIONS,
  type Resolution,
} from '../../../core/disputes'
import { toMajor } from '../../../core/money'
import type { disputes as operations, DisputeRow } from '../../../contract/disputes'
import { amount as amountSchema, id as idSchema } from '../../../contract/common'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, type By } from '../../ledger/command'
import type { Idempotency } from '../../ledger/idempotency'
import { loadState } from '../../ledger/load'
import { performOrKeep } from '../../ledger/waiting'
import { notFound } from '../common/problems'
import { sendUpheld } from '../letters/others'
import type { Actor } from '../people/scope'
import { changedMeanwhile } from './changed'
import { readDispute } from './read'

export const resolveAsk = z.object({
  id: idSchema,
  version: z.int(),
  resolution: z.enum(Object.keys(RESOLUTIONS) as [Resolution, ...Resolution[]]),
  amounts: z
    .array(z.object({ itemId: idSchema, amount: amountSchema }))
    .max(200)
    .default([]),
  text: z.string().max(500).default(''),
  letter: z.boolean().default(false),
})

/** Whose dispute it is, for the lock. */
async function customerOf(db: Handle, id: number): Promise<number> {
  const [row] = await db.find('dispute', { id }, { columns: { id: 'customer_id' } })
  if (!row) throw notFound(`dispute ${id}`)
  return row.id
}

/** Ends a dispute; a credit note or write-off goes to a second person above the threshold of the house. */
export const resolveCommand = command({
  name: 'disputes.resolve',
  ability: 'chase.keep',
  input: resolveAsk,
  locks: async (db, input) => ({ customers: [await customerOf(db, input.id)] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const row = await readDispute(db, input.id, {})
    const ledger = await loadState(
      db,
      { customerIds: [await customerOf(db, input.id)], itemIds: row.items.map(i => i.id) },
      settings,
    )
    return {
      row,
      ledger,
      settings,
      dispute: {
        id: row.id,
        version: row.version,
        items: row.items.map(i => ({ itemId: i.id, amount: i.amount })),
        resolution: row.resolution,
      },
    }
  },
  decide: decideResolve,
  stake: ({ row, ledger, dispute }, input) => {
    if (input.resolution === 'upheld') return null
    const amounts = input.amounts.length ? input.amounts : dispute.items
    const given = amounts.map(i => {
      const item = ledger.items.get(i.itemId)
      const amount = disputedNow(i.amount, item?.open ?? 0)
      return { amount, base: item && item.open > 0 ? Math.round((item.baseOpen * amount) / item.open) : 0 }
    })
    return {
      kind: input.resolution === 'written-off' ? ('write-off' as const) : ('credit' as const),
      amount: given.reduce((sum, g) => sum + g.amount, 0),
      currency: row.currency,
      baseAmount: given.reduce((sum, g) => sum + g.base, 0),
      customerId: [...ledger.items.values()][0]?.customerId ?? null,
    }
  },
  changes: ({ row, ledger }, input) => {
    const given = input.amounts.length
      ? input.amounts
      : row.items.map(i => ({ itemId: i.id, amount: disputedNow(i.amount, i.open) }))
    return given.map(({ itemId, amount }) => {
      const item = ledger.items.get(itemId)
      return {
        field: `${item?.number ?? itemId}, ${DISPUTE_REASONS[row.reason].toLowerCase()}`,
        before: `${toMajor(item?.open ?? 0, row.currency)} ${row.currency} open`,
        after: `${RESOLUTIONS[input.resolution].toLowerCase()}: ${toMajor(amount, row.currency)} ${row.currency}`,
      }
    })
  },
  after: async ({ db, input, state, actor, written }) => {
    const done = await db.update(
      'dispute',
      {
        resolution: input.resolution,
        resolved_on: state.ledger.today,
        resolved_by: actor.id,
        resolution_text: input.text,
        entry_id: written[0]?.entryId ?? null,
        version: plus('version', 1),
      },
      { id: input.id, resolution: '', version: input.version },
    )
    if (!done) throw changedMeanwhile(input.id)
    if (input.letter && input.resolution === 'upheld') await sendUpheld(db, actor, input.id, state.settings)
    return { id: input.id }
  },
  about: input => `dispute ${input.id}`,
})

/** Resolves a dispute, or lets a resolution that gives money up wait for a second person. */
export async function resolveDispute(
  database: Handle,
  actor: Actor,
  id: number,
  body: z.output<NonNullable<(typeof operations.resolve)['body']>>,
  idempotency?: Idempotency,
): Promise<{ dispute: DisputeRow; waiting: number | null }> {
  const { waiting } = await performOrKeep(database, actor, resolveCommand, { ...body, id }, idempotency)
  return { dispute: await readDispute(database, id, {}), waiting: waiting?.id ?? null }
}
