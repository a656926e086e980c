import type { Refusal } from '../../core/ledger'
import { can, type Role } from '../../core/people'
import type { Handle } from '../db/handle'
import { audit } from '../db/settings'
import { LedgerRefused, perform, wouldDecide, type AnyCommand, type By } from './command'

/*
 * Commands that wait for a second person. What is kept is what was asked for, not what would be posted: it is
 * decided again when it is signed, against the ledger of that moment, so that nothing is posted that no
 * longer holds.
 */

export interface Waiting {
  id: number
  name: string
  ask: unknown
  about: string
  state: 'waiting' | 'posted' | 'declined'
  personId: number
}

const refuse = (rule: string, message: string, satisfy: string): LedgerRefused =>
  new LedgerRefused([{ rule, path: 'waiting', message, satisfy } satisfies Refusal])

/** Keeps a Command for a second signature. It must hold now: what would be refused is refused at once. */
export async function keepWaiting(
  database: Handle,
  actor: By,
  what: AnyCommand,
  ask: unknown,
): Promise<{ id: number }> {
  const { decided } = await wouldDecide(database, actor, what, ask)
  if (!decided.ok) throw new LedgerRefused(decided.refusals)
  const about = what.about(what.input.parse(ask)).slice(0, 64)
  const [id] = await database.insert('waiting_command', [
    { name: what.name, ask: JSON.stringify(ask), about, person_id: actor.id },
  ])
  return { id: id! }
}

async function held(tx: Handle, id: number): Promise<Waiting> {
  const [row] = await tx.select<Omit<Waiting, 'ask'> & { ask: string }>(
    `SELECT id, name, ask, about, state, person_id AS personId FROM waiting_command WHERE id = :id FOR
      UPDATE`,
    { id },
  )
  if (!row) throw refuse('waiting.known', `nothing ${id} waits for a signature`, 'reload the list')
  if (row.state !== 'waiting')
    throw refuse('waiting.once', `this was ${row.state} meanwhile`, 'reload the list')
  return { ...row, ask: JSON.parse(row.ask) as unknown }
}

/**
 * Signs a waiting Command: decided again, and posted in the name of who asked for it. The signature and the
 * posting are one transaction. Nobody signs their own, nor what they could not ask for themselves.
 */
export async function sign(
  database: Handle,
  signer: By,
  author: (personId: number) => Promise<By>,
  commandOf: (name: string) => AnyCommand,
  id: number,
): Promise<unknown> {
  const waiting = await database.transaction(tx => held(tx, id))
  const what = commandOf(waiting.name)
  if (waiting.personId === signer.id)
    throw refuse('waiting.own', 'nobody signs what they asked for themselves', 'ask a second person')
  if (!can(signer.role as Role, what.ability))
    throw refuse('waiting.ability', `a ${signer.role} may not sign this`, 'ask somebody who may')
  const by = await author(waiting.personId)
  const signed: AnyCommand = {
    ...what,
    after: async done => {
      // Locked here again: two who sign at once post once.
      await held(done.db, id)
      const result: unknown = await what.after(done)
      await done.db.run(
        `UPDATE waiting_command SET state = 'posted', decided_by = :by, decided_at = CURRENT_TIMESTAMP(3),
          result = :result WHERE id = :id`,
        { id, by: signer.id, result: JSON.stringify(result) },
      )
      await audit(done.db, signer.id, 'signed', waiting.about, null, what.name)
      return result
    },
  }
  return perform(database, by, signed, waiting.ask)
}

/** Declines a waiting Command, with a reason. */
export async function decline(database: Handle, signer: By, id: number, reason: string): Promise<void> {
  await database.transaction(async tx => {
    const waiting = await held(tx, id)
    await tx.run(
      `UPDATE waiting_command SET state = 'declined', decided_by = :by, decided_at = CURRENT_TIMESTAMP(3),
        reason = :reason WHERE id = :id`,
      { id, by: signer.id, reason: reason.slice(0, 200) },
    )
    await audit(tx, signer.id, 'declined', waiting.about, null, reason)
  })
}
