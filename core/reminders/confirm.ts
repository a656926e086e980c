import type { IsoDate } from '../calendar'
import { postDocument } from '../documents'
import { refuse, refused } from '../ledger/rules'
import type { Decided, LedgerState, Posting, Refusal } from '../ledger/types'
import { rateOf, rateRefusals } from '../rates'
import type { Notice } from './index'

export interface ConfirmState {
  ledger: LedgerState
  state: 'proposed' | 'confirmed' | 'discarded'
  version: number
  asOf: IsoDate
  /** The notices as they were proposed, and as they would be now. */
  proposed: readonly Notice[]
  now: readonly Notice[]
  /** Ids of the customers by number. */
  customerIds: ReadonlyMap<string, number>
}

export interface ConfirmAsk {
  version: number
  /** Keys of notices that are left out. */
  exclude: readonly string[]
}

/** The notices to send; each with which of the postings is its fee, null when it has none. */
export interface Sending {
  notices: { notice: Notice; posting: number | null }[]
}

const isSame = (a: Notice, b: Notice | undefined): boolean =>
  b !== undefined && JSON.stringify(a) === JSON.stringify(b)

/**
 * A run is confirmed only as proposed: what was paid, paused or reminded meanwhile refuses it. A run that was
 * confirmed before posts nothing more. Each fee is a document of its own, numbered with its notice.
 */
export function decideConfirm(state: ConfirmState, ask: ConfirmAsk): Decided<Sending> {
  if (state.state === 'confirmed') return { ok: true, postings: [], facts: { notices: [] } }
  const exclude = new Set(ask.exclude)
  const chosen = state.proposed.filter(n => !exclude.has(n.key))
  const refusals = runRefusals(state, ask, chosen)
  if (refusals.length) return refused(refusals)
  const postings: Posting[] = []
  const notices: Sending['notices'] = []
  for (const notice of chosen) {
    if (!notice.fee) {
      notices.push({ notice, posting: null })
      continue
    }
    const fee = feeOf(state, notice)
    if (!fee.ok) {
      refusals.push(...fee.refusals.map(r => ({ ...r, path: notice.key })))
      continue
    }
    notices.push({ notice, posting: postings.length })
    postings.push(...fee.postings)
  }
  return refusals.length ? refused(refusals) : { ok: true, postings, facts: { notices } }
}

function runRefusals(state: ConfirmState, ask: ConfirmAsk, chosen: readonly Notice[]): Refusal[] {
  if (state.state === 'discarded')
    return [refuse('run.open', 'run', 'this run was discarded', 'propose a new one')]
  if (state.version !== ask.version)
    return [refuse('run.changed', 'version', 'someone else changed this run meanwhile', 'reload it')]
  if (!chosen.length)
    return [refuse('run.some', 'exclude', 'every notice is left out', 'include at least one notice')]
  const byKey = new Map(state.now.map(n => [n.key, n]))
  return chosen
    .filter(n => !isSame(n, byKey.get(n.key)))
    .map(n =>
      refuse(
        'run.moved-on',
        n.key,
        `${n.customer.name} was paid, paused or reminded since the proposal`,
        'propose the run again',
      ),
    )
}

function feeOf(state: ConfirmState, notice: Notice): Decided {
  const { ledger, asOf } = state
  const refusals = rateRefusals(ledger, notice.currency, asOf, notice.key)
  if (refusals.length) return refused(refusals)
  const decision = postDocument(ledger, {
    customerId: state.customerIds.get(notice.customer.number)!,
    kind: 'fee',
    number: '',
    series: 'fee',
    currency: notice.currency,
    amount: notice.fee,
    tax: 0,
    documentDate: asOf,
    parts: [{ dueDate: notice.deadline, amount: notice.fee }],
    discounts: [],
    rate: rateOf(ledger, notice.currency, asOf)!,
    order: '',
    text: `Reminder fee, level ${notice.level},`,
  })
  if (!decision.ok) return decision
  return { ok: true, postings: [{ ...decision.posting, series: 'notice' }], facts: null }
}
