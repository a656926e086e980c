import { now } from '../db/where'
import type { Refusal } from '../../core/ledger'
import { can, type Role } from '../../core/people'
import { needsSecond } from '../../core/signOff'
import type { Handle } from '../db/handle'
import { audit, type Settings } from '../db/settings'
import { LedgerRefused, perform, wouldDecide } from './command'
import type { AnyCommand, By, Change, WithCustomer } from './command'
import { firstResult, once, type Idempotency } from './idempotency'

/*
 * Commands that wait for a second person. What is kept is what was asked for, not what would be posted: it is
 * decided again when it is signed, against the ledger of that moment, so that nothing is posted that no
 * longer holds.
 */

export type WaitingState = 'waiting' | 'signed' | 'declined' | 'returned' | 'withdrawn'

export interface Waiting {
  id: number
  name: string
  ask: unknown
  about: string
  state: WaitingState
  personId: number
}

const refusal = (rule: string, message: string, satisfy: string): LedgerRefused =>
  new LedgerRefused([{ rule, path: 'waiting', message, satisfy } satisfies Refusal])

/** Either it was done, or it waits for a second person. */
export type DoneOrWaiting<Result> = { done: Result; waiting: null } | { done: null; waiting: { id: number } }

/**
 * What is at stake in what was asked for, and what it would change; refused at once when it does not hold
 * now.
 */
interface Weighed {
  stake: WithCustomer | null
  told: Change[]
  about: string
  settings: Settings
}

async function weigh(database: Handle, actor: By, what: AnyCommand, ask: unknown): Promise<Weighed> {
  const { decided, state, settings } = await wouldDecide(database, actor, what, ask)
  if (!decided.ok) throw new LedgerRefused(decided.refusals)
  const input: unknown = what.input.parse(ask)
  return {
    stake: what.stake?.(state, input, settings) ?? null,
    told: what.changes?.(state, input) ?? [],
    about: what.about(input).slice(0, 64),
    settings,
  }
}

async function keep(
  database: Handle,
  actor: By,
  what: AnyCommand,
  ask: unknown,
  { stake, told, about, settings }: Weighed,
): Promise<{ id: number }> {
  const [id] = await database.insert('waiting_command', [
    {
      name: what.name,
      ask: JSON.stringify(ask),
      about,
      kind: stake?.kind ?? '',
      amount: stake?.amount ?? null,
      currency: stake?.currency ?? '',
      customer_id: stake?.customerId ?? null,
      told: JSON.stringify(told),
      on_date: settings.today,
      person_id: actor.id,
    },
  ])
  await audit(database, actor.id, 'sign-off', about, null, `asked for ${what.name}`)
  return { id: id! }
}

/** Keeps a Command for a second signature, whatever is at stake. */
export async function keepWaiting(
  database: Handle,
  actor: By,
  what: AnyCommand,
  ask: unknown,
): Promise<{ id: number }> {
  return keep(database, actor, what, ask, await weigh(database, actor, what, ask))
}

/** How a request that waits stands under its idempotency key, apart from the results of Commands. */
interface KeptForSigning {
  waitsForSigning: { id: number }
}
const isKept = (result: unknown): result is KeptForSigning =>
  typeof result === 'object' && result !== null && 'waitsForSigning' in result

/**
 * Does a Command, or keeps it for a second person when what is at stake is above what one person may do. A
 * repeated key is answered as the first was, before anything is weighed: what it asked for is done.
 */
export async function performOrKeep<Result>(
  database: Handle,
  actor: By,
  what: AnyCommand,
  ask: unknown,
  idempotency?: Idempotency,
): Promise<DoneOrWaiting<Result>> {
  const first = idempotency && (await firstResult(database, actor, idempotency))
  if (first && isKept(first.result)) return { done: null, waiting: first.result.waitsForSigning }
  if (first) return { done: first.result as Result, waiting: null }
  const weighed = await weigh(database, actor, what, ask)
  const { stake, settings } = weighed
  if (stake && needsSecond(stake, settings.signOff, settings.base)) {
    const kept = await once<KeptForSigning>(database, actor, idempotency, async tx => ({
      waitsForSigning: await keep(tx, actor, what, ask, weighed),
    }))
    return { done: null, waiting: kept.waitsForSigning }
  }
  return { done: (await perform(database, actor, what, ask, idempotency)) as Result, waiting: null }
}

/** What waits, held until the transaction ends. Throws when it does not wait any more. */
async function held(tx: Handle, id: number, states: readonly WaitingState[]): Promise<Waiting> {
  const [row] = await tx.find(
    'waiting_command',
    { id },
    {
      columns: { id: 'id', name: 'name', ask: 'ask', about: 'about', state: 'state', personId: 'person_id' },
      lock: true,
    },
  )
  if (!row) throw refusal('waiting.known', `nothing ${id} waits for a signature`, 'reload the list')
  if (!states.includes(row.state))
    throw refusal('waiting.once', `this was ${row.state} meanwhile`, 'reload the list')
  return { ...row, ask: JSON.parse(row.ask) as unknown }
}

/** Who signs: by their own right, or in the place of somebody who is away and has it. */
export interface Signer extends By {
  /** Roles of those they stand in for today, beside their own. */
  standsInFor: readonly { id: number; role: string }[]
}

/** Nobody signs their own, nor what they could not sign by any right. */
export function signerRefusal(signer: Signer, personId: number): LedgerRefused | null {
  if (personId === signer.id)
    return refusal('waiting.own', 'nobody signs what they asked for themselves', 'ask a second person')
  const rights = [signer, ...signer.standsInFor.filter(p => p.id !== personId)]
  if (!rights.some(p => can(p.role as Role, 'signOff.sign')))
    return refusal('waiting.ability', `a ${signer.role} may not sign this`, 'ask a supervisor')
  return null
}

const decide = (state: WaitingState) =>
  `UPDATE waiting_command SET state = '${state}', decided_by = :by, decided_at = CURRENT_TIMESTAMP(3),
    reason = :reason, result = :result WHERE id = :id`

/**
 * Signs a waiting Command: decided again, and posted in the name of who asked for it. The signature and the
 * posting are one transaction.
 */
export async function sign(
  database: Handle,
  signer: Signer,
  author: (personId: number) => Promise<By>,
  commandOf: (name: string) => AnyCommand,
  id: number,
): Promise<unknown> {
  const waiting = await database.transaction(tx => held(tx, id, ['waiting']))
  const what = commandOf(waiting.name)
  const refused = signerRefusal(signer, waiting.personId)
  if (refused) throw refused
  const by = await author(waiting.personId)
  const signed: AnyCommand = {
    ...what,
    after: async done => {
      // Locked here again: two who sign at once post once.
      await held(done.db, id, ['waiting'])
      const result: unknown = await what.after(done)
      const values = { id, by: signer.id, reason: '', result: JSON.stringify(result ?? null) }
      await done.db.run(decide('signed'), values)
      await audit(done.db, signer.id, 'signed', waiting.about, null, what.name)
      return result
    },
  }
  return perform(database, by, signed, waiting.ask)
}

/** Declines a waiting Command for good, or sends it back to be changed; with a reason. */
export async function turnDown(
  database: Handle,
  signer: Signer,
  id: number,
  to: 'declined' | 'returned',
  reason: string,
): Promise<void> {
  await database.transaction(async tx => {
    const waiting = await held(tx, id, ['waiting'])
    const refused = signerRefusal(signer, waiting.personId)
    if (refused) throw refused
    await tx.run(decide(to), { id, by: signer.id, reason: reason.slice(0, 200), result: null })
    await audit(tx, signer.id, to, waiting.about, null, reason)
  })
}

/** Takes back what one asked for oneself. */
export async function withdraw(database: Handle, actor: By, id: number): Promise<void> {
  await database.transaction(async tx => {
    const waiting = await held(tx, id, ['waiting', 'returned'])
    if (waiting.personId !== actor.id)
      throw refusal('waiting.author', 'only who asked for it takes it back', 'decline it instead')
    await tx.run(decide('withdrawn'), { id, by: actor.id, reason: '', result: null })
    await audit(tx, actor.id, 'withdrawn', waiting.about, null, waiting.name)
  })
}

/** Asks again for what was sent back, changed. It waits anew; what was said of it stays with it. */
export async function askAgain(
  database: Handle,
  actor: By,
  commandOf: (name: string) => AnyCommand,
  id: number,
  ask: unknown,
): Promise<void> {
  const waiting = await database.transaction(tx => held(tx, id, ['returned']))
  if (waiting.personId !== actor.id)
    throw refusal('waiting.author', 'only who asked for it changes it', 'ask for it yourself')
  const what = commandOf(waiting.name)
  const { stake, told } = await weigh(database, actor, what, ask)
  await database.transaction(async tx => {
    await held(tx, id, ['returned'])
    await tx.update(
      'waiting_command',
      {
        state: 'waiting',
        ask: JSON.stringify(ask),
        told: JSON.stringify(told),
        amount: stake?.amount ?? null,
        currency: stake?.currency ?? '',
        decided_by: null,
        decided_at: null,
        reason: '',
        at: now(),
      },
      { id },
    )
    await audit(tx, actor.id, 'sign-off', waiting.about, null, `asked again for ${what.name}`)
  })
}
