import type { IsoDate } from '../calendar'
import { convert, share } from '../money'
import { allocate } from './allocations'
import { postReceipt } from './receipts'
import { dateRefusals, decide, refuse } from './rules'
import { afterPosting, mergePostings } from './state'
import type { Decision, LedgerState, Line, Posting, Refusal } from './types'

/** One bank line, as far as a posting needs it. Amount signed: money in positive. */
export interface BankMovement { date: IsoDate, currency: string, amount: number, account: string, text: string, reference: string, rate: string, paidOn?: IsoDate }

/** What of a movement belongs to one customer. */
export interface BankPart {
  customerId: number
  amount: number
  allocations: { itemId: number, amount: number, discount?: number, difference?: number, paid?: number }[]
  credits: { creditItemId: number, debitItemId: number, amount: number }[]
  onAccount: number
}

/**
 * Money of customers that the bank shows: a receipt for each, at once in the bank account, with the credits that were taken off.
 * `paidOn` is the day of payment by which discount is judged; the posting is dated by the bank's booking.
 */
export function postBankReceipt(state: LedgerState, movement: BankMovement, parts: readonly BankPart[], lateDiscount = false): Decision {
  const refusals: Refusal[] = []
  if (movement.amount <= 0) refusals.push(refuse('bank.direction', 'parts', 'money that went out is no receipt', 'choose a ledger account or what it takes back'))
  const sum = parts.reduce((a, p) => a + p.amount, 0)
  if (sum !== movement.amount) refusals.push(refuse('bank.assigned', 'parts', `the parts make ${sum} minor units, the bank line is ${movement.amount}`, 'let them add up'))
  if (new Set(parts.map(p => p.customerId)).size !== parts.length) refusals.push(refuse('bank.parts', 'parts', 'a customer is named twice', 'put its items together'))
  const postings: Posting[] = []
  let now = state
  for (const [i, part] of parts.entries()) {
    const receipt = postReceipt(now, {
      customerId: part.customerId, currency: movement.currency, date: movement.date, paidOn: movement.paidOn, text: movement.text, rate: movement.rate, lateDiscount, allocations: part.allocations, onAccount: part.onAccount,
      means: [{ means: 'transfer', amount: part.amount, reference: movement.reference, account: movement.account }],
    })
    if (!receipt.ok) { refusals.push(...receipt.refusals.map(r => ({ ...r, path: `parts.${i}.${r.path}` }))); continue }
    postings.push(receipt.posting)
    now = afterPosting(now, receipt.posting)
    if (!part.credits.length) continue
    const credits = allocate(now, { date: movement.date, pairs: part.credits })
    if (!credits.ok) { refusals.push(...credits.refusals.map(r => ({ ...r, path: `parts.${i}.${r.path}` }))); continue }
    postings.push(credits.posting)
    now = afterPosting(now, credits.posting)
  }
  return decide(refusals, () => mergePostings('receipt', movement.date, movement.text || 'Receipt', postings))
}

/** Money that was posted before and waits in clearing: the bank shows it now. Base amounts are those it was posted with. */
export interface Awaited { label: string, amount: number, baseAmount: number, date: IsoDate, settled: boolean }

/** Covered becomes settled: out of clearing into the bank account. What the bank kept back goes to `restAccount`. */
export function settle(state: LedgerState, movement: BankMovement, awaited: readonly Awaited[], restAccount: string | null): Decision {
  const refusals = dateRefusals(state, movement.date, 'date')
  if (!awaited.length) refusals.push(refuse('bank.some', 'targets', 'nothing was chosen', 'choose what the bank line settles'))
  for (const [i, a] of awaited.entries()) {
    if (a.settled) refusals.push(refuse('bank.settled', `targets.${i}`, `${a.label} was settled by another bank line`, 'reload and choose another'))
  }
  const sum = awaited.reduce((a, x) => a + x.amount, 0)
  const rest = movement.amount - sum
  if (rest !== 0 && !restAccount) refusals.push(refuse('bank.rest', 'targets', `what was chosen makes ${sum} minor units, the bank line is ${movement.amount}`, 'choose what makes it, or say where the difference goes'))
  return decide(refusals, () => {
    const base = awaited.reduce((a, x) => a + x.baseAmount, 0)
    const line = { currency: movement.currency, customerId: null, item: null, allocation: null }
    const restBase = rest === 0 ? 0 : sum === 0 ? convert(rest, movement.currency, state.base, movement.rate) : share(base, rest, sum)
    const lines: Line[] = [{ ...line, account: movement.account, amount: movement.amount, baseAmount: base + restBase }, { ...line, account: state.chart.clearing, amount: -sum, baseAmount: -base }]
    if (rest !== 0) lines.push({ ...line, account: restAccount!, amount: -rest, baseAmount: -restBase })
    return { kind: 'bank', date: movement.date, text: `Settled: ${awaited.map(a => a.label).join(', ')}`, items: [], allocations: [], lines }
  })
}

/** Money that is no customer's: charges, interest, a supplier's refund, a transfer between own accounts. */
export function postToLedger(state: LedgerState, movement: BankMovement, account: string, accounts: ReadonlySet<string>): Decision {
  const refusals = dateRefusals(state, movement.date, 'date')
  if (!accounts.has(account)) refusals.push(refuse('bank.account', 'account', `there is no ledger account ${account}`, 'choose one of the chart'))
  if ([state.chart.receivables, state.chart.advances, state.chart['on-hand'], movement.account].includes(account)) refusals.push(refuse('bank.account', 'account', `${account} is kept by its own register`, 'choose an income, expense or balance account'))
  return decide(refusals, () => {
    const base = convert(movement.amount, movement.currency, state.base, movement.rate)
    const line = { currency: movement.currency, customerId: null, item: null, allocation: null }
    return {
      kind: 'bank', date: movement.date, text: movement.text, items: [], allocations: [],
      lines: [{ ...line, account: movement.account, amount: movement.amount, baseAmount: base }, { ...line, account, amount: -movement.amount, baseAmount: -base }],
    }
  })
}

/** The same lines with the signs turned: what a bank line posted without items is taken back. */
export function takeBack(state: LedgerState, date: IsoDate, text: string, lines: readonly Line[]): Decision {
  return decide(dateRefusals(state, date, 'date'), () => ({ kind: 'bank', date, text, items: [], allocations: [], lines: lines.map(l => ({ ...l, amount: -l.amount, baseAmount: -l.baseAmount })) }))
}
