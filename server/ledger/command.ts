import type { z } from 'zod'
import type { Decided, LedgerState, Posting } from '../../core/ledger'
import type { Ability } from '../../core/people'
import type { Stake } from '../../core/signOff'
import type { Handle } from '../db/handle'
import { audit, readSettings, type Settings } from '../db/settings'
import { Busy } from '../db/patience'
import { backOff, TRIES } from '../db/retry'
import { requireRoom } from '../db/room'
import { firstResult, isTwin, keepResult, type Idempotency } from './idempotency'
import { covers, takeLocks, type Locks } from './locks'
import { LedgerRefused } from './refused'
import { requireAbility, type Need } from './rights'
import { followUndone } from './undone'
import { writePostings, type Written } from './write'

export { LedgerRefused, type Idempotency }

/** Who asks. */
export interface By {
  id: number
  name: string
  role: string
}

/** What a Command loads: the part of the ledger it decides on, beside whatever else it needs. */
export interface WithLedger {
  ledger: LedgerState
}

export interface Behind<Actor extends By> {
  settings: Settings
  actor: Actor
}

/** What `after` is told: all that was decided and written, in the same transaction. */
export interface Done<Input, State, Facts, Actor extends By> {
  db: Handle
  input: Input
  state: State
  actor: Actor
  postings: readonly Posting[]
  written: readonly Written[]
  facts: Facts
}

/**
 * Everything that posts is a Command. Preview, posting, idempotency, audit, and waiting for a second
 * signature are derived from it and written nowhere else. `Input` is plain JSON, so that a Command can be
 * stored and decided again later, against the ledger of that moment.
 */
export interface Command<
  Schema extends z.ZodType,
  State extends WithLedger,
  Result,
  Facts,
  Actor extends By = By,
> {
  /** As the audit trail names it: `receipts.post`. */
  name: string
  ability: Ability
  /** What parts of the request need beside that, such as a late discount. */
  needs?: (input: z.output<Schema>) => Need[]
  input: Schema
  /**
   * What must hold still. Asked before the locks are taken and again behind them: if it grew, all begins
   * anew.
   */
  locks: (db: Handle, input: z.output<Schema>) => Promise<Locks>
  /** The rows to lock follow from the input alone: they need not be asked for again behind the locks. */
  steady?: true
  /** Reads, behind the locks, all that the decision needs. */
  load: (db: Handle, input: z.output<Schema>, behind: Behind<Actor>) => Promise<State>
  /** Pure: what is there and what is wanted give postings, or refusals. */
  decide: (state: State, input: z.output<Schema>) => Decided<Facts>
  /** What else is written with the postings. Its answer is plain JSON, kept under the idempotency key. */
  after: (done: Done<z.output<Schema>, State, Facts, Actor>) => Promise<Result>
  /** What is allowed but worth a second look; shown with the Proof. */
  warnings?: (db: Handle, input: z.output<Schema>) => Promise<string[]>
  /** What the audit trail keeps of it, when that is not what was asked for. */
  tell?: (decided: { input: z.output<Schema>; state: State; facts: Facts }) => unknown
  /** Told on the way of a long posting; throws to stop it, and then nothing of it stays. */
  written?: (done: number, total: number) => Promise<void>
  /** What the audit trail says it is about. */
  about: (input: z.output<Schema>) => string
  /** What is at stake, when it may need a second person; null when it does not. */
  stake?: (state: State, input: z.output<Schema>, settings: Settings) => WithCustomer | null
  /** What would change of what is no posting, before and after, for who signs it. */
  changes?: (state: State, input: z.output<Schema>) => Change[]
}

export interface WithCustomer extends Stake {
  customerId: number | null
}

/** A field, as a person reads it, before and after. */
export interface Change {
  field: string
  before: string
  after: string
}

// eslint-disable-next-line @typescript-eslint/no-explicit-any
export type AnyCommand = Command<any, any, any, any, any>

/** A Command as it stands, with its types read off it. */
export function command<Schema extends z.ZodType, State extends WithLedger, Result, Facts, Actor extends By>(
  c: Command<Schema, State, Result, Facts, Actor>,
): Command<Schema, State, Result, Facts, Actor> {
  return c
}

/** The rows that had to be locked were not the ones that were: begun anew with the right ones. */
class LocksGrew extends Error {}

/** Rights belong to the Command: whatever road leads here, a person does what their role may. */
function checkRights<Schema extends z.ZodType, State extends WithLedger, Result, Facts, Actor extends By>(
  actor: By,
  what: Command<Schema, State, Result, Facts, Actor>,
  input: z.output<Schema>,
): void {
  requireAbility(actor, what.ability)
  for (const { ability, path } of what.needs?.(input) ?? []) requireAbility(actor, ability, path)
}

/** So many postings are written at a time. */
const CHUNK = 2000

/** Whether all must begin anew: other rows are to be locked, or the twin of this very request came first. */
const isWorthAnother = (error: unknown, idempotency: Idempotency | undefined): boolean =>
  error instanceof LocksGrew || isTwin(error, idempotency)

/**
 * The one door to the ledger. In one transaction: everything named is locked, then read, then decided, then
 * written. So it is right under READ COMMITTED and REPEATABLE READ alike: nothing is read before the locks
 * are held. Throws LedgerRefused, or whatever `load` throws.
 */
export async function perform<
  Schema extends z.ZodType,
  State extends WithLedger,
  Result,
  Facts,
  Actor extends By,
>(
  database: Handle,
  actor: Actor,
  what: Command<Schema, State, Result, Facts, Actor>,
  ask: z.input<Schema>,
  idempotency?: Idempotency,
): Promise<Result> {
  const input = what.input.parse(ask)
  checkRights(actor, what, input)
  const lastWait = database.patience.lastWait()
  for (let attempt = 1; ; attempt++) {
    try {
      const known = idempotency && (await firstResult<Result>(database, actor, idempotency))
      if (known) return known.result
      const locks = await what.locks(database, input)
      return await database.transaction(async tx => {
        const settings = await takeLocks(tx, locks)
        const first = idempotency && (await firstResult<Result>(tx, actor, idempotency))
        if (first) return first.result
        if (!what.steady && !covers(locks, await what.locks(tx, input))) throw new LocksGrew()
        const state = await what.load(tx, input, { settings, actor })
        const decided = what.decide(state, input)
        if (!decided.ok) throw new LedgerRefused(decided.refusals)
        const { postings, facts } = decided
        const kept = told(what.tell ? what.tell({ input, state, facts }) : input)
        await audit(tx, actor.id, what.name, what.about(input).slice(0, 64), null, kept)
        const written: Written[] = []
        for (let at = 0; at < postings.length; at += CHUNK) {
          await what.written?.(at, postings.length)
          requireRoom()
          const chunk = postings.slice(at, at + CHUNK)
          written.push(...(await writePostings(tx, actor.id, state.ledger, chunk)))
        }
        await followUndone(tx, postings)
        const done = { db: tx, input, state, actor, postings, written, facts }
        const result = await what.after(done)
        if (idempotency) keepResult(tx, actor, idempotency, result)
        return result
      })
    } catch (error) {
      if (!isWorthAnother(error, idempotency)) throw error
      if (Date.now() > lastWait) throw new Busy('others are working on the same at this moment')
      if (attempt >= TRIES) throw error
      await backOff(attempt)
    }
  }
}

/** What was asked for, as the audit trail keeps it: whole when it is short, cut when it is a file. */
const told = (input: unknown) => JSON.stringify(input).slice(0, 4000)

/** What a Command would decide now: the same postings, not written. */
export async function wouldDecide<
  Schema extends z.ZodType,
  State extends WithLedger,
  Result,
  Facts,
  Actor extends By,
>(
  database: Handle,
  actor: Actor,
  what: Command<Schema, State, Result, Facts, Actor>,
  ask: z.input<Schema>,
): Promise<{ settings: Settings; state: State; decided: Decided<Facts>; warnings: string[] }> {
  const input = what.input.parse(ask)
  checkRights(actor, what, input)
  const settings = await readSettings(database)
  const state = await what.load(database, input, { settings, actor })
  const decided = what.decide(state, input)
  return { settings, state, decided, warnings: (await what.warnings?.(database, input)) ?? [] }
}
