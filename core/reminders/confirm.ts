import type { IsoDate } from '../calendar'
import { postDocument, type DocumentIntent } from '../documents'
import { refuse, refused } from '../ledger/rules'
import type { Decided, LedgerState, Posting, Refusal } from '../ledger/types'
import { rateOf, rateRefusals } from '../rates'
import type { Notice } from './notice'

/** What becomes of a run: `withdrawn` when all its notices were. */
export type RunState = 'preparing' | 'proposed' | 'confirmed' | 'withdrawn' | 'discarded'

export interface ConfirmState {
  ledger: LedgerState
  state: RunState
  version: number
  asOf: IsoDate
  /** The notices as they were proposed and changed by people. */
  proposed: readonly NoticeHead[]
  /** Those that would be others now. */
  movedOn: readonly NoticeHead[]
  /** Ids of the customers by number. */
  customerIds: ReadonlyMap<string, number>
}

export interface ConfirmAsk {
  version: number
}

/** What of a notice is posted: its items stay where they are kept, a large run has many. */
export type NoticeHead = Pick<
  Notice,
  'key' | 'customer' | 'currency' | 'level' | 'fee' | 'feeTax' | 'interest' | 'deadline' | 'consequence'
>

/** A notice to send: which of the postings is its own, null when nothing is posted for it. */
export interface SendingNotice {
  notice: NoticeHead
  posting: number | null
  /** Which of the items of the posting is the fee, and which the interest. */
  fee: number | null
  interest: number | null
}
export interface Sending {
  notices: SendingNotice[]
}

/** Whether a notice would be the same now, to the last figure and word. */
export const isSameNotice = (proposed: Notice, now: Notice | undefined): boolean =>
  now !== undefined && JSON.stringify(proposed) === JSON.stringify(now)

/**
 * A run is confirmed only as proposed: what was paid, paused or reminded meanwhile refuses it. A run that was
 * confirmed before posts nothing more. Fee and interest are documents of their own; the entry bears the
 * number of the notice.
 */
export function decideConfirm(state: ConfirmState, ask: ConfirmAsk): Decided<Sending> {
  if (state.state === 'confirmed' || state.state === 'withdrawn')
    return { ok: true, postings: [], facts: { notices: [] } }
  const refusals = runRefusals(state, ask)
  if (refusals.length) return refused(refusals)
  const postings: Posting[] = []
  const notices: SendingNotice[] = []
  for (const notice of state.proposed) {
    const charges = chargesOf(state, notice)
    if (!charges.ok) {
      refusals.push(...charges.refusals.map(r => ({ ...r, path: notice.key })))
      continue
    }
    const [posting] = charges.postings
    notices.push({ notice, posting: posting ? postings.length : null, ...charges.facts })
    if (posting) postings.push(posting)
  }
  return refusals.length ? refused(refusals) : { ok: true, postings, facts: { notices } }
}

function runRefusals(state: ConfirmState, ask: ConfirmAsk): Refusal[] {
  if (state.state === 'discarded')
    return [refuse('run.open', 'run', 'this run was discarded', 'propose a new one')]
  if (state.state === 'preparing')
    return [refuse('run.open', 'run', 'this run is still being worked out', 'wait until it is proposed')]
  if (state.version !== ask.version)
    return [refuse('run.changed', 'version', 'someone else changed this run meanwhile', 'reload it')]
  if (!state.proposed.length)
    return [refuse('run.some', 'run', 'every notice is left out', 'include at least one notice')]
  return state.movedOn.map(n =>
    refuse(
      'run.moved-on',
      n.key,
      `${n.customer.name} was paid, paused or reminded since the proposal`,
      'propose the run again',
    ),
  )
}

/** The documents of a notice, in one entry that bears its number. */
function chargesOf(
  state: ConfirmState,
  notice: NoticeHead,
): Decided<{ fee: number | null; interest: number | null }> {
  const none = { fee: null, interest: null }
  if (!notice.fee && !notice.interest) return { ok: true, postings: [], facts: none }
  const { ledger, asOf } = state
  const refusals = rateRefusals(ledger, notice.currency, asOf, notice.key)
  if (refusals.length) return refused(refusals)
  const fee = notice.fee ? documentOf(state, notice, 'fee', -1) : null
  const interest = notice.interest ? documentOf(state, notice, 'interest', -1 - (fee ? 1 : 0)) : null
  const decisions = [fee, interest].filter(d => d !== null)
  const parts: Posting[] = []
  for (const d of decisions) {
    if (d.ok) parts.push(d.posting)
    else refusals.push(...d.refusals)
  }
  if (refusals.length) return refused(refusals)
  const posting: Posting = {
    ...parts[0]!,
    text: fee ? parts[0]!.text : `Late interest to ${asOf},`,
    series: 'notice',
    items: parts.flatMap(p => p.items),
    lines: parts.flatMap(p => p.lines),
  }
  const facts = { fee: fee ? 0 : null, interest: interest ? (fee ? 1 : 0) : null }
  return { ok: true, postings: [posting], facts }
}

function documentOf(state: ConfirmState, notice: NoticeHead, kind: 'fee' | 'interest', firstKey: number) {
  const { ledger, asOf } = state
  const amount = kind === 'fee' ? notice.fee : notice.interest
  const intent: DocumentIntent = {
    customerId: state.customerIds.get(notice.customer.number)!,
    kind,
    number: '',
    series: kind,
    currency: notice.currency,
    amount,
    tax: kind === 'fee' ? notice.feeTax : 0,
    documentDate: asOf,
    parts: [{ dueDate: notice.deadline, amount }],
    discounts: [],
    rate: rateOf(ledger, notice.currency, asOf)!,
    order: '',
    text: kind === 'fee' ? `Reminder fee, level ${notice.level},` : `Late interest to ${asOf}`,
  }
  return postDocument(ledger, intent, firstKey)
}
