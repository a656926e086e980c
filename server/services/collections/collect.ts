import { cell } from '../../db/rows'
import { z } from 'zod'
import { id } from '../../../contract/common'
import { postCollections } from '../../../core/collections'
import type { Handle } from '../../db/handle'
import { chunksOf } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { command, perform, type By } from '../../ledger/command'
import { actorWho } from '../people/people'
import type { Actor } from '../people/scope'
import { collectionsOf, ledgerFor } from './confirm'

const DUE = `k.state = 'sent' AND k.collect_on <= :today`

/**
 * Posts what the bank collects: a receipt for each, on its day, with the discount and the credits that were
 * announced. What was paid otherwise meanwhile leaves the money on account.
 */
export const collectCommand = command({
  name: 'collections.collect',
  ability: 'collections.run',
  input: z.object({ ids: z.array(id).min(1) }),
  locks: async (db, input) => ({
    customers: (
      await db.find('collection', { id: input.ids }, { columns: { id: 'customer_id' }, distinct: true })
    ).map(r => r.id),
  }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    // What was posted or refused meanwhile is left as it is.
    const sent = await collectionsOf(db, `k.id IN (:ids) AND ${DUE}`, {
      ids: input.ids,
      today: settings.today,
    })
    return { ledger: await ledgerFor(db, settings, sent), sent }
  },
  decide: ({ ledger, sent }) => {
    const { closedUntil, today } = ledger
    const made = postCollections(ledger, sent, c =>
      closedUntil !== null && c.collectOn <= closedUntil ? today : c.collectOn,
    )
    return made.refusals.length
      ? { ok: false, refusals: made.refusals }
      : { ok: true, postings: made.postings, facts: made.done }
  },
  after: async ({ db, state, postings, written, facts }) => {
    for (const { id: collectionId, postings: own } of facts) {
      const n = own.find(p => postings[p]!.items.some(i => i.kind === 'receipt'))!
      const place = postings[n]!.items.findIndex(i => i.kind === 'receipt')
      await db.update(
        'collection',
        { state: 'collected', receipt_item_id: written[n]!.items[place]!.id },
        { id: collectionId },
      )
    }
    const ids = facts.map(f => f.id)
    if (ids.length)
      // The bank knows now what changed of these mandates.
      await db.run(
        `UPDATE mandate m JOIN collection k ON k.mandate_id = m.id SET m.was_reference = '', m.was_iban = '',
          m.was_creditor = '', m.state = IF(m.ends_next = 1 OR m.used_for = 'one-off', 'final', m.state)
          WHERE k.id IN (:ids)`,
        { ids },
      )
    return {
      collected: ids.length,
      amount: state.sent.filter(s => ids.includes(s.id)).reduce((a, s) => a + s.amount, 0),
    }
  },
  tell: ({ input }) => ({ collections: input.ids.length }),
  about: input => `${input.ids.length} collections`,
})

/** So many are posted in one transaction. */
const AT_ONCE = 1000

const collectDueRow = z.object({
  id: cell.whole,
  sentBy: cell.whole.nullable(),
})

/** Posts all that the bank collects by today. It knows by itself what was posted: again it does nothing. */
export async function collectDue(
  database: Handle,
  by: Actor | null = null,
): Promise<{ collected: number; amount: number }> {
  const { today } = await readSettings(database)
  const due = await database.rows(
    collectDueRow,
    `SELECT k.id, f.sent_by AS sentBy FROM collection k LEFT JOIN payment_file f ON f.id = k.file_id
      WHERE ${DUE} ORDER BY k.id`,
    { today },
  )
  const sum = { collected: 0, amount: 0 }
  if (!due.length) return sum
  const actor = by ?? (await actorWho(database, 'collections.run', due[0]!.sentBy))
  for (const some of chunksOf(due, AT_ONCE)) {
    const done = await perform(database, actor, collectCommand, { ids: some.map(d => d.id) })
    sum.collected += done.collected
    sum.amount += done.amount
  }
  return sum
}
