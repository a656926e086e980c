import { z } from 'zod'
import { cell } from '../../db/rows'
import { refuse, type Refusal } from '../../../core/ledger'
import { OUTCOMES } from '../../../core/callList'
import { callBody, type Call, type callList as operations } from '../../../contract/callList'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, type By } from '../../ledger/command'
import { findCustomer, idOfCustomer } from '../accounts/customers'
import { disputeCommand } from '../disputes/open'
import type { Scope } from '../people/scope'
import { promiseCommand } from '../promises/promises'

/**
 * A call with all that came of it: what was promised or disputed is kept in the same transaction, or nothing
 * is.
 */
export const callCommand = command({
  name: 'callList.log',
  ability: 'chase.keep',
  input: callBody,
  locks: async (db, input) => ({ customers: [await idOfCustomer(db, input.customer)] }),
  load: async (db, input, behind: { settings: Settings; actor: By }) => {
    const { customer } = input
    const promise = input.promise && (await promiseCommand.load(db, { ...input.promise, customer }, behind))
    const dispute = input.dispute && (await disputeCommand.load(db, { ...input.dispute, customer }, behind))
    const ledger = (promise ?? dispute ?? (await bare(db, customer, behind.settings))).ledger
    return {
      customer: await findCustomer(db, customer, {}),
      ledger,
      promise,
      dispute,
      settings: behind.settings,
    }
  },
  decide: (state, input) => {
    const { customer } = input
    const refusals: Refusal[] = []
    if (input.nextDate !== null && input.nextDate < state.settings.today)
      refusals.push(
        refuse('call.next', 'nextDate', `${input.nextDate} is over`, `a day from ${state.settings.today} on`),
      )
    if (input.outcome === 'promised' && input.promise === null)
      refusals.push(
        refuse('call.promise', 'promise', 'what was promised is missing', 'say when and how much'),
      )
    if (input.outcome === 'disputed' && input.dispute === null)
      refusals.push(refuse('call.dispute', 'dispute', 'what is disputed is missing', 'choose the items'))
    const promised = state.promise && promiseCommand.decide(state.promise, { ...input.promise!, customer })
    const disputed = state.dispute && disputeCommand.decide(state.dispute, { ...input.dispute!, customer })
    const under = (path: string) => (r: Refusal) => ({ ...r, path: `${path}.${r.path}` })
    if (promised && !promised.ok) refusals.push(...promised.refusals.map(under('promise')))
    if (disputed && !disputed.ok) refusals.push(...disputed.refusals.map(under('dispute')))
    if (refusals.length) return { ok: false, refusals }
    return { ok: true, postings: [], facts: disputed?.ok ? disputed.facts : null }
  },
  after: async done => {
    const { db, input, state, facts, actor } = done
    const { customer } = input
    const rest = { db, actor, postings: [], written: [] }
    const promise =
      state.promise &&
      (await promiseCommand.after({
        ...rest,
        input: { ...input.promise!, customer },
        state: state.promise,
        facts: null,
      }))
    const dispute =
      state.dispute &&
      (await disputeCommand.after({
        ...rest,
        input: { ...input.dispute!, customer },
        state: state.dispute,
        facts: facts!,
      }))
    const [id] = await db.insert('call_log', [
      {
        customer_id: state.customer.id,
        on_date: state.settings.today,
        outcome: input.outcome,
        spoke_with: input.spokeWith,
        text: input.text,
        next_date: input.nextDate,
        promise_id: promise?.id ?? null,
        dispute_id: dispute?.id ?? null,
        person_id: actor.id,
      },
    ])
    return { id: id!, promise: promise?.id ?? null, dispute: dispute?.id ?? null }
  },
  about: input => input.customer,
})

/** A call that promises and disputes nothing needs no ledger but its day. */
async function bare(db: Handle, customer: string, settings: Settings) {
  const behind = { settings, actor: { id: 0, name: '', role: '' } }
  const input = { customer, currency: settings.base, items: null, parts: [], text: '' }
  return promiseCommand.load(db, input, behind)
}

const rowCells = z.object({
  id: cell.whole,
  on: cell.text,
  outcome: z.enum(['disputed', 'promised', 'reached', 'not-reached', 'wrong-contact', 'copies']),
  by: cell.text,
  text: cell.text,
  spokeWith: cell.text,
  nextDate: cell.text.nullable(),
  promise: cell.whole.nullable(),
  dispute: cell.whole.nullable(),
})
/** Calls with a customer, the newest first. */
export async function listCalls(
  database: Handle,
  q: z.output<NonNullable<(typeof operations.calls)['query']>>,
  scope: Scope,
): Promise<{ items: Call[]; next: number | null }> {
  const { id } = await findCustomer(database, q.customer, scope)
  const rows = await database.rows(
    rowCells,
    `SELECT l.id, l.on_date AS \`on\`, l.outcome, p.name AS \`by\`, l.text, l.spoke_with AS spokeWith,
      l.next_date AS nextDate, l.promise_id AS promise, l.dispute_id AS dispute
      FROM call_log l JOIN person p ON p.id = l.person_id WHERE l.customer_id = :id
      ${q.before ? 'AND l.id < :before' : ''} ORDER BY l.id DESC LIMIT ${q.limit + 1}`,
    { id, before: q.before ?? 0 },
  )
  const items = rows.slice(0, q.limit).map(row => ({ ...row, label: OUTCOMES[row.outcome].label }))
  return { items, next: rows.length > q.limit ? items.at(-1)!.id : null }
}
