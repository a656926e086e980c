import { cell } from '../../db/rows'
import { now } from '../../db/where'
import { z } from 'zod'
import {
  HOLD_CAUSES,
  holdChanges,
  lastingHolds,
  ruleHolds,
  type HoldCause,
  type KeptHold,
  type LastingHold,
} from '../../../core/exposure'
import { toMajor } from '../../../core/money'
import { refuse } from '../../../core/ledger'
import { isoDate } from '../../../contract/common'
import type { Handle } from '../../db/handle'
import { audit, readSettings, type Settings } from '../../db/settings'
import { command, type By } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { findCustomer, idOfCustomer } from '../accounts/customers'
import { ProblemError } from '../common/problems'
import type { Actor, Scope } from '../people/scope'
import { standingsOf, type AccountStanding, type Of } from './standing'

type KeptRow = KeptHold & { customerId: number }

const keptHoldsRow = z.object({
  id: cell.whole,
  cause: cell.word<HoldCause>(),
  reason: cell.text,
  endedAt: cell.text.nullable(),
  releasedUntil: cell.day.nullable(),
  customerId: cell.whole,
})

/** Holds that last, and those that were released and may come back. */
async function keptHolds(db: Handle, of: Of): Promise<Map<number, KeptRow[]>> {
  const rows = await db.rows(
    keptHoldsRow,
    `SELECT id, customer_id AS customerId, cause, reason, ended_at AS endedAt, released_until AS releasedUntil
      FROM hold WHERE (ended_at IS NULL OR released_until IS NOT NULL)
      AND ${of === null ? '1 = 1' : 'customer_id IN (:ids)'} ORDER BY id`,
    { ids: of ?? [] },
  )
  const byCustomer = new Map<number, KeptRow[]>()
  for (const row of rows) byCustomer.set(row.customerId, [...(byCustomer.get(row.customerId) ?? []), row])
  return byCustomer
}

/** Why an account is held, in words. */
export function holdWords(hold: LastingHold, standing: AccountStanding, settings: Settings): string {
  const { base, holdRules: rules } = settings
  const { facts, limit } = standing
  const money = (amount: number) => `${toMajor(amount, base)} ${base}`
  switch (hold.cause) {
    case 'hand':
      return hold.reason
    case 'limit':
      return `exposure ${money(facts.exposure)} against a limit of ${money(limit ?? 0)}, more than ${rules.overLimitPercent} % over`
    case 'overdue':
      return `${money(facts.longOverdue)} overdue by more than ${rules.overdueDays} days`
    case 'reminder':
      return `reminded at level ${facts.level}`
    case 'expired':
      return 'its limit is out of its dates'
    case 'promise':
      return `${money(facts.brokenPromises)} promised and not paid`
    case 'insured':
      return `${money(facts.unsecured)} against ${money(facts.insured)} insured`
  }
}

export interface HeldAccount {
  standing: AccountStanding
  holds: (LastingHold & { words: string })[]
}

/**
 * The holds that last at this moment, by customer; accounts without one are left out. `standings`: how they
 * stand.
 */
export async function heldOf(
  db: Handle,
  settings: Settings,
  standings: ReadonlyMap<number, AccountStanding>,
  of: Of,
): Promise<Map<number, HeldAccount>> {
  const kept = await keptHolds(db, of)
  const held = new Map<number, HeldAccount>()
  for (const [customerId, standing] of standings) {
    const found = ruleHolds(settings.holdRules, standing.facts)
    const holds = lastingHolds(found, kept.get(customerId) ?? [], settings.today)
    if (holds.length)
      held.set(customerId, {
        standing,
        holds: holds.map(h => ({ ...h, words: holdWords(h, standing, settings) })),
      })
  }
  return held
}

/** Keeps what began and what ended since the last time: the history of holds. Answers how many changed. */
export async function keepHolds(database: Handle, of: Of = null): Promise<number> {
  const settings = await readSettings(database)
  const [standings, kept] = await Promise.all([standingsOf(database, settings, of), keptHolds(database, of)])
  let changed = 0
  for (const [customerId, standing] of standings) {
    const found = ruleHolds(settings.holdRules, standing.facts)
    const { begin, end } = holdChanges(found, kept.get(customerId) ?? [], settings.today)
    for (const { cause, toPay, reason } of begin) {
      const words = holdWords({ id: null, cause, toPay, reason }, standing, settings)
      // Another process may have kept it meanwhile: one hold of a cause at a time.
      await database.insert(
        'hold',
        [{ customer_id: customerId, cause, reason: words.slice(0, 200), on_date: settings.today }],
        {
          ignore: true,
        },
      )
      changed++
    }
    for (const id of end) {
      await database.update(
        'hold',
        { ended_at: now(), ended_on: settings.today, end_reason: 'its cause went' },
        { id, ended_at: null },
      )
      changed++
    }
  }
  return changed
}

/** Holds an account by hand. */
export async function setHold(
  database: Handle,
  actor: Actor,
  body: { customer: string; reason: string },
  scope: Scope,
): Promise<{ id: number }> {
  const { today } = await readSettings(database)
  const customer = await findCustomer(database, body.customer, scope)
  const [there] = await database.find(
    'hold',
    { customer_id: customer.id, open_cause: 'hand' },
    { columns: ['reason'] },
  )
  if (there)
    throw new ProblemError(409, 'Held already', `${customer.name} is held by hand already: ${there.reason}`)
  return database.transaction(async tx => {
    const [id] = await tx.insert('hold', [
      { customer_id: customer.id, cause: 'hand', reason: body.reason, person_id: actor.id, on_date: today },
    ])
    await audit(tx, actor.id, 'hold', customer.number, null, body.reason)
    return { id: id! }
  })
}

const releaseAsk = z.object({
  customer: z.string().min(1).max(32),
  cause: z.enum(Object.keys(HOLD_CAUSES) as [HoldCause, ...HoldCause[]]),
  reason: z.string().trim().min(1, { error: 'say why' }).max(200),
  until: isoDate
    .nullable()
    .describe('last day of the release; null only for a hold by hand, which ends for good'),
})

/** Lets goods go to a held account until a day, for a reason; above a threshold a second person signs. */
export const releaseCommand = command({
  name: 'exposure.release',
  ability: 'holds.set',
  input: releaseAsk,
  locks: async (db, input) => ({ customers: [await idOfCustomer(db, input.customer)] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const customer = await findCustomer(db, input.customer, {})
    const standings = await standingsOf(db, settings, [customer.id])
    const held = (await heldOf(db, settings, standings, [customer.id])).get(customer.id)
    const standing = standings.get(customer.id)!
    const ledger = await loadState(db, { customerIds: [customer.id] }, settings)
    return { customer, standing, ledger, hold: held?.holds.find(h => h.cause === input.cause) ?? null }
  },
  decide: ({ hold, ledger }, { cause, until }) => {
    const refusals = []
    if (hold === null)
      refusals.push(
        refuse(
          'hold.lasts',
          'cause',
          'the account is not held for this any more',
          'nothing is to be released',
        ),
      )
    if (until === null && cause !== 'hand')
      refusals.push(refuse('hold.until', 'until', 'a rule would hold it again at once', 'say until when'))
    if (until !== null && until < ledger.today)
      refusals.push(refuse('hold.until', 'until', `${until} is over`, `choose a day from ${ledger.today} on`))
    return refusals.length ? { ok: false, refusals } : { ok: true, postings: [], facts: null }
  },
  stake: ({ customer, standing, ledger }) => {
    const amount = Math.max(0, standing.exposure.total)
    return {
      kind: 'hold' as const,
      amount,
      currency: ledger.base,
      baseAmount: amount,
      customerId: customer.id,
    }
  },
  changes: ({ hold }, { cause, until }) => [
    {
      field: `Held: ${HOLD_CAUSES[cause]}`,
      before: hold?.words ?? '',
      after: until === null ? 'released for good' : `released until ${until}`,
    },
  ],
  after: async ({ db, input, state, actor }) => {
    const { customer, hold } = state
    const released = {
      ended_by: actor.id,
      end_reason: input.reason,
      released_until: input.until,
      today: state.ledger.today,
    }
    if (hold!.id === null)
      await db.run(
        `INSERT INTO hold (customer_id, cause, reason, on_date, ended_at, ended_on, ended_by, end_reason,
            released_until)
          VALUES (:customerId, :cause, :words, :today, UTC_TIMESTAMP(3), :today, :ended_by, :end_reason, :released_until)`,
        { ...released, customerId: customer.id, cause: input.cause, words: hold!.words.slice(0, 200) },
      )
    else
      await db.update(
        'hold',
        {
          ended_at: now(),
          ended_on: released.today,
          ended_by: released.ended_by,
          end_reason: released.end_reason,
          released_until: released.released_until,
        },
        { id: hold!.id },
      )
    await audit(db, actor.id, 'hold', customer.number, hold!.words, `released: ${input.reason}`)
    return { customer: customer.number }
  },
  about: input => input.customer,
})
