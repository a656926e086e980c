import { plus } from '../../db/where'
import type { z } from 'zod'
import { addDays } from '../../../core/calendar'
import { DEADLINE_DAYS, disputeRefusals } from '../../../core/disputes'
import { disputeBody, type disputes as operations, type DisputeRow } from '../../../contract/disputes'
import type { Handle } from '../../db/handle'
import { audit, type Settings } from '../../db/settings'
import { command, type By } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { findCustomer, idOfCustomer } from '../accounts/customers'
import { ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { changedMeanwhile } from './changed'
import { disputesOfItems } from './live'
import { openDebits } from './openDebits'
import { readDispute } from './read'

/** The person with an address, who must be somebody here. */
async function personOf(db: Handle, email: string): Promise<number> {
  const [row] = await db.find('person', { email, active: 1 }, { columns: ['id'] })
  if (!row)
    throw new ProblemError(422, 'Nobody', `nobody here has the address ${email}`, [
      { path: 'owner', message: 'nobody with this address', satisfy: 'choose one of the people of Setup' },
    ])
  return row.id
}

/** A dispute over items of one customer. It posts nothing. */
export const disputeCommand = command({
  name: 'disputes.open',
  ability: 'chase.keep',
  input: disputeBody,
  locks: async (db, input) => ({ customers: [await idOfCustomer(db, input.customer)] }),
  load: async (db, input, { settings, actor }: { settings: Settings; actor: By }) => {
    const customer = await findCustomer(db, input.customer, {})
    const ledger = await loadState(db, { customerIds: [customer.id] }, settings)
    const ownerId = input.owner ? await personOf(db, input.owner) : actor.id
    const disputed = await disputesOfItems(
      db,
      input.items.map(i => i.itemId),
    )
    return { customer, ledger, ownerId, disputed, debits: await openDebits(db, customer.id) }
  },
  decide: ({ ledger, debits, disputed }, input) => {
    const open = debits.map(i => ({ ...i, disputed: disputed.get(i.itemId)?.amount ?? 0 }))
    const deadline = input.deadline ?? addDays(ledger.today, DEADLINE_DAYS)
    const refusals = disputeRefusals({ today: ledger.today, open }, { items: input.items, deadline })
    return refusals.length ? { ok: false, refusals } : { ok: true, postings: [], facts: { deadline } }
  },
  after: async ({ db, input, state, facts, actor }): Promise<{ id: number }> => {
    const { customer, ledger, ownerId, debits } = state
    const [first] = input.items
    const [id] = await db.insert('dispute', [
      {
        customer_id: customer.id,
        currency: debits.find(i => i.itemId === first!.itemId)!.currency,
        reason: input.reason,
        fault: input.fault,
        text: input.text,
        owner_id: ownerId,
        deadline: facts.deadline,
        opened_on: ledger.today,
        person_id: actor.id,
      },
    ])
    await db.insert(
      'dispute_item',
      input.items.map(i => ({ dispute_id: id!, item_id: i.itemId, amount: i.amount })),
    )
    return { id: id! }
  },
  about: input => input.customer,
})

/** Changes what is said of an open dispute. Refused when somebody changed it meanwhile. */
export async function changeDispute(
  database: Handle,
  actor: Actor,
  id: number,
  body: z.output<NonNullable<(typeof operations.change)['body']>>,
): Promise<DisputeRow> {
  const before = await readDispute(database, id, {})
  const ownerId = await personOf(database, body.owner)
  await database.transaction(async tx => {
    const done = await tx.update(
      'dispute',
      {
        reason: body.reason,
        fault: body.fault,
        text: body.text,
        owner_id: ownerId,
        deadline: body.deadline,
        version: plus('version', 1),
      },
      { id, version: body.version, resolution: '' },
    )
    if (!done) throw changedMeanwhile(id)
    const told = ({
      reason,
      fault,
      text,
      owner,
      deadline,
    }: Pick<DisputeRow, 'reason' | 'fault' | 'text' | 'deadline'> & { owner: string }) =>
      JSON.stringify({ reason, fault, text, owner, deadline })
    await audit(
      tx,
      actor.id,
      'dispute',
      before.customer.number,
      told({ ...before, owner: before.owner.email }),
      told(body),
    )
  })
  return readDispute(database, id, {})
}

/** Hands a person's open disputes to somebody else. Answers how many. */
export async function handOverDisputes(tx: Handle, fromId: number, toId: number): Promise<number> {
  const done = await tx.update(
    'dispute',
    { owner_id: toId, version: plus('version', 1) },
    { owner_id: fromId, resolution: '' },
  )
  return done
}
