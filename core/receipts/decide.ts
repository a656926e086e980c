import type { IsoDate } from '../calendar'
import { deductionRefusals, deductionsOf, type ShortPaid } from '../disputes'
import { decided, refuse, refused } from '../ledger/rules'
import { afterPosting, mergePostings, narrowTo } from '../ledger/state'
import type { Decided, LedgerState, Line, Means, Posting, RestUse } from '../ledger/types'
import { convert } from '../money'
import { rateOf, rateRefusals } from '../rates'
import { allocate, unallocate, type AllocateIntent } from './allocations'
import { linesWhereMoneyIs, type Banked } from './money'
import { byItem, partRefusals, postParts, type PaidPart } from './parts'
import { postReceipt } from './receipts'
import { reverse } from './reversal'

/*
 * What the Commands of receipts decide: from the state that was loaded behind the locks and what somebody
 * asks for, to postings or refusals. Amounts are minor units.
 */

export interface ReceiptAsk {
  currency?: string
  date: IsoDate
  text: string
  means: { means: Means; amount: number; reference: string }[]
  allocations: (ShortPaid & { paid?: number })[]
  advance: boolean
  rest?: RestUse
  lateDiscount: boolean
  onAccount: number
}

export interface AccountState {
  ledger: LedgerState
  customer: { id: number; name: string; currency: string; keepsOnItem: boolean }
}

/** A deduction that a receipt claims; its receipt is the first item of the posting. */
export type ClaimedDeduction = ReturnType<typeof deductionsOf>[number]

export function decideReceipt(state: AccountState, ask: ReceiptAsk): Decided<ClaimedDeduction[]> {
  const { ledger, customer } = state
  const currency = ask.currency ?? customer.currency
  const refusals = [
    ...deductionRefusals(ledger, ask.allocations),
    ...rateRefusals(ledger, currency, ask.date, 'currency'),
  ]
  if (ask.rest?.use === 'item' && !customer.keepsOnItem) {
    const message = 'customers of this class keep an overpayment on account, not on an item'
    refusals.push(refuse('receipt.rest', 'rest.use', message, 'allow it for the class under Setup'))
  }
  if (refusals.length) return refused(refusals)
  const rate = rateOf(ledger, currency, ask.date)!
  const decision = postReceipt(ledger, { ...ask, customerId: customer.id, currency, rate })
  if (!decision.ok) return decision
  return { ok: true, postings: [decision.posting], facts: deductionsOf(ledger, ask.allocations) }
}

export const decideAllocate = (state: { ledger: LedgerState }, ask: AllocateIntent): Decided =>
  decided(allocate(state.ledger, ask))

export const decideUnallocate = (
  state: { ledger: LedgerState },
  ask: { date: IsoDate; allocationIds: number[]; reason: string },
): Decided => decided(unallocate(state.ledger, ask))

export interface ReverseState {
  ledger: LedgerState
  /** The lines the receipt was posted with, and what of its money is no longer where they say. */
  lines: readonly Line[]
  banked: readonly Banked[]
  bankAccounts: ReadonlySet<string>
}

/** `fee`: a bank fee charged on, in the currency of the receipt. */
export interface ReverseAsk {
  itemId: number
  date: IsoDate
  reason: string
  fee: number
}

export function decideReverse(state: ReverseState, ask: ReverseAsk): Decided {
  const { ledger, bankAccounts, banked } = state
  const item = ledger.items.get(ask.itemId)
  if (item && ask.fee) {
    const refusals = rateRefusals(ledger, item.currency, ask.date, 'fee')
    if (refusals.length) return refused(refusals)
  }
  const rate = item && rateOf(ledger, item.currency, ask.date)
  const fee =
    item && ask.fee && rate
      ? { amount: ask.fee, baseAmount: convert(ask.fee, item.currency, ledger.base, rate) }
      : undefined
  const lines = linesWhereMoneyIs(ledger.chart, bankAccounts, banked, state.lines)
  return decided(reverse(ledger, { itemId: ask.itemId, date: ask.date, reason: ask.reason, fee, lines }))
}

export interface TickedAsk {
  date: IsoDate
  currency: string
  means: Means
  reference: string
  text: string
  mode: 'item' | 'customer'
  lateDiscount: boolean
  total?: number
}

/** One payment for items of one or many customers, ticked off against an advice. */
export function decideTicked(
  state: { ledger: LedgerState; parts: readonly PaidPart[] },
  ask: TickedAsk,
): Decided {
  const { ledger, parts } = state
  const refusals = [
    ...rateRefusals(ledger, ask.currency, ask.date, 'currency'),
    ...(ask.total === undefined ? [] : partRefusals(parts, ask.total)),
  ]
  if (new Set(parts.map(p => p.customerId)).size !== parts.length)
    refusals.push(refuse('payment.parts', 'parts', 'a customer is named twice', 'put its items together'))
  if (refusals.length) return refused(refusals)
  const payment = { ...ask, rate: rateOf(ledger, ask.currency, ask.date)! }
  const done = postParts(ledger, payment, ask.mode === 'item' ? byItem(parts) : parts)
  if (done.refusals.length) return refused(done.refusals)
  const text = ask.text || `Ticked off ${ask.reference}`.trim()
  return {
    ok: true,
    postings: [mergePostings('receipt', ask.date, text, done.postings)],
    facts: null,
  }
}

export interface BatchState {
  ledger: LedgerState
  controlTotal: number | null
  controlCount: number | null
  receipts: readonly { customer: AccountState['customer']; ask: ReceiptAsk }[]
}

/** Why a batch does not close: what was keyed is not what was counted. */
function controlRefusals(state: BatchState) {
  const { controlTotal, controlCount, receipts } = state
  const total = receipts.reduce((a, r) => a + r.ask.means.reduce((b, m) => b + m.amount, 0), 0)
  const refusals = []
  if (!receipts.length)
    refusals.push(
      refuse('batch.empty', 'receipts', 'there is nothing in this batch', 'key its receipts, or delete it'),
    )
  if (receipts.length && controlTotal !== null && controlTotal !== total) {
    const message = `the receipts make ${total} minor units, the control total is ${controlTotal}`
    const what = controlTotal > total ? 'key what is missing' : 'take out what is too much'
    refusals.push(refuse('batch.total', 'controlTotal', message, `${what}, or correct the control total`))
  }
  if (receipts.length && controlCount !== null && controlCount !== receipts.length) {
    const message = `${receipts.length} receipts are keyed, the control count is ${controlCount}`
    const satisfy = 'key what is missing, or correct the control count'
    refusals.push(refuse('batch.count', 'controlCount', message, satisfy))
  }
  return refusals
}

/** All receipts of a batch, each decided after those before it, or none: with the deductions of each. */
export function decideBatch(state: BatchState): Decided<ClaimedDeduction[][]> {
  const refusals = controlRefusals(state)
  if (refusals.length) return refused(refusals)
  return decideInTurn(state.ledger, state.receipts)
}

/** Receipts one after the other: each sees what those before it left. Stops at the first that is refused. */
export function decideInTurn(
  ledger: LedgerState,
  receipts: BatchState['receipts'],
): Decided<ClaimedDeduction[][]> {
  const postings: Posting[] = []
  const facts: ClaimedDeduction[][] = []
  let now = ledger
  for (const { customer, ask } of receipts) {
    const wanted = [...ask.allocations.map(a => a.itemId), ...(ask.rest?.itemId ? [ask.rest.itemId] : [])]
    const own = narrowTo(now, wanted)
    const one = decideReceipt({ ledger: own, customer }, ask)
    if (!one.ok) return refused(one.refusals.map(r => ({ ...r, message: `${customer.name}: ${r.message}` })))
    postings.push(...one.postings)
    facts.push(one.facts)
    for (const p of one.postings) now = afterPosting(now, p)
  }
  return { ok: true, postings, facts }
}
