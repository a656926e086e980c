import type { IsoDate } from '../calendar'
import { decided, refuse, refused } from '../ledger/rules'
import { afterPosting, mergePostings, narrowTo } from '../ledger/state'
import type { Decided, Decision, LedgerState, Line, Posting, Refusal } from '../ledger/types'
import { convert } from '../money'
import { rateOf, rateRefusals } from '../rates'
import { unallocate } from '../receipts/allocations'
import type { PaidPart } from '../receipts/parts'
import { reverse } from '../receipts/reversal'
import {
  postBankReceipt,
  postSundry,
  postToLedger,
  settle,
  takeBack,
  type Awaited,
  type BankMovement,
  type SundryIntent,
} from './lines'

/*
 * What the Commands of the bank decide: lines accepted and taken back, money of nobody's account. Amounts are
 * minor units.
 */

/** A bank line as it stands behind its lock. `version` goes up with everything that happens to it. */
export interface LineState {
  id: number
  version: number
  state: 'open' | 'settled'
  bookingDate: IsoDate
  valueDate: IsoDate
  currency: string
  /** Signed: money in positive. */
  amount: number
  /** Ledger account of its bank account. */
  account: string
  name: string
  text: string
  reference: string
}

/** What a line is said to be, with all that the decision needs of it. */
export type LineAction =
  | { kind: 'receipt'; parts: readonly PaidPart[]; lateDiscount: boolean }
  | {
      kind: 'covered'
      targets: readonly { kind: string; id: number }[]
      awaited: readonly Awaited[]
      restAccount: string | null
    }
  | { kind: 'ledger'; account: string }
  | ({
      kind: 'return'
      reason: string
      /** Charged on to the customer. */
      fee: number
      /** What the bank kept for itself within the line: our expense. */
      charge: number
    } & ReturnedMoney)

/** A receipt, or a refund, that the bank sent back. */
export interface ReturnedMoney {
  itemId: number
  lines: readonly Line[]
  /** Whether some of its money was never seen at the bank, so that the bank cannot send it back. */
  unseen: boolean
}

export const movementOf = (line: LineState, rate: string): BankMovement => ({
  date: line.bookingDate,
  currency: line.currency,
  amount: line.amount,
  account: line.account,
  text: (line.text || line.name).slice(0, 200),
  reference: (line.reference || line.text || line.name).slice(0, 80),
  rate,
})

/** One line as what it is said to be. */
export function decideLine(ledger: LedgerState, line: LineState, action: LineAction): Decision {
  if (line.state !== 'open')
    return refused([
      refuse(
        'bank.done',
        'line',
        'this line was worked meanwhile',
        'reload to see by whom, and what it became',
      ),
    ])
  const refusals = rateRefusals(ledger, line.currency, line.bookingDate, 'line')
  if (refusals.length) return refused(refusals)
  const movement = movementOf(line, rateOf(ledger, line.currency, line.bookingDate)!)
  switch (action.kind) {
    case 'receipt': {
      const paid = { ...movement, paidOn: line.valueDate }
      return postBankReceipt(ledger, paid, action.parts, action.lateDiscount)
    }
    case 'covered':
      if (action.awaited.length !== action.targets.length)
        return refused([
          refuse(
            'bank.known',
            'action.targets',
            'something that was chosen is not awaited from the bank any more',
            'reload and choose again',
          ),
        ])
      return settle(ledger, movement, action.awaited, action.restAccount)
    case 'ledger':
      return postToLedger(ledger, movement, action.account)
    case 'return':
      return decideReturn(ledger, line, action, movement)
  }
}

function decideReturn(
  ledger: LedgerState,
  line: LineState,
  action: Extract<LineAction, { kind: 'return' }>,
  movement: BankMovement,
): Decision {
  const item = ledger.items.get(action.itemId)
  const path = 'action.itemId'
  if (!item)
    return refused([
      refuse('bank.return', path, 'there is no such receipt', 'choose what the bank sent back'),
    ])
  // What came in goes out again; what went out comes in again.
  const comesBack = item.side === 'credit' ? -item.amount : item.amount
  if (comesBack - action.charge !== line.amount || item.currency !== line.currency) {
    const kept = action.charge ? ` with a charge of ${action.charge}` : ''
    const message =
      `${item.number} is of ${item.amount} ${item.currency} minor units${kept}, the bank line is ` +
      `${line.amount} ${line.currency}`
    return refused([refuse('bank.return', path, message, 'choose what has this amount')])
  }
  if (action.unseen) {
    const message = `${item.number} was never seen at the bank, so the bank cannot send it back`
    return refused([refuse('bank.return', path, message, 'settle it first, or choose another receipt')])
  }
  const { chart } = ledger
  const money = [chart['on-hand'], chart.clearing, chart['petty-cash'], chart['paying-out']]
  const decision = reverse(ledger, {
    itemId: action.itemId,
    date: line.bookingDate,
    reason: action.reason,
    lines: action.lines.map(l => (money.includes(l.account) ? { ...l, account: line.account } : l)),
    fee: action.fee
      ? {
          amount: action.fee,
          baseAmount: convert(action.fee, line.currency, ledger.base, movement.rate),
        }
      : undefined,
  })
  if (!decision.ok || action.charge === 0) return decision
  const { posting } = decision
  return {
    ok: true,
    posting: { ...posting, lines: [...posting.lines, ...keptLines(ledger, movement, action.charge)] },
  }
}

/** What the bank kept for itself of a line: an expense of ours. */
function keptLines(ledger: LedgerState, { currency, account, rate }: BankMovement, charge: number): Line[] {
  const baseAmount = convert(charge, currency, ledger.base, rate)
  const line = { currency, customerId: null, item: null, allocation: null }
  return [
    { ...line, account: ledger.chart['bank-charges'], amount: charge, baseAmount },
    { ...line, account, amount: -charge, baseAmount: -baseAmount },
  ]
}

/** A line that is to be accepted, with the version somebody saw. */
export interface SaidLine {
  line: LineState
  version: number
  action: LineAction
}

export interface LineOutcome {
  lineId: number
  /** Which of the postings is this line's; null when it was refused. */
  posting: number | null
  refusals: Refusal[]
}

/**
 * Lines in turn, each after those before it. One that is refused stays open and says why; the others go on.
 * So a line that settles what another of the same run has settled is refused by what the first leaves.
 */
export function decideLines(ledger: LedgerState, said: readonly SaidLine[]): Decided<LineOutcome[]> {
  const postings: Posting[] = []
  const facts: LineOutcome[] = []
  const used = new Set<string>()
  const now = { ...ledger, items: new Map(ledger.items) }
  for (const s of said) {
    const own = s.action.kind === 'receipt' ? narrowTo(now, itemsOf(s.action.parts)) : now
    const decision = decideLine(own, s.line, s.action)
    const targets = s.action.kind === 'covered' ? s.action.targets.map(t => `${t.kind} ${t.id}`) : []
    const twice = targets.some(t => used.has(t))
    const refusals = decision.ok
      ? twice
        ? [
            refuse(
              'bank.settled',
              'action',
              'another line of this statement settles the same',
              'choose another',
            ),
          ]
        : []
      : decision.refusals
    if (!decision.ok || refusals.length) {
      facts.push({ lineId: s.line.id, posting: null, refusals })
      continue
    }
    targets.forEach(t => used.add(t))
    for (const [id, item] of afterPosting(own, decision.posting).items) now.items.set(id, item)
    facts.push({ lineId: s.line.id, posting: postings.length, refusals: [] })
    postings.push(decision.posting)
  }
  return { ok: true, postings, facts }
}

export const itemsOf = (parts: readonly PaidPart[]): number[] =>
  parts.flatMap(p => [
    ...p.allocations.map(a => a.itemId),
    ...p.credits.flatMap(c => [c.creditItemId, c.debitItemId]),
  ])

/** One line by somebody's word: it must be the line they saw, open and unchanged. */
export function decideAccept(state: { ledger: LedgerState } & SaidLine): Decided {
  if (state.line.state === 'open' && state.line.version !== state.version)
    return refused([
      refuse(
        'bank.changed',
        'version',
        'somebody else worked on this line meanwhile',
        'reload it and look again',
      ),
    ])
  return decided(decideLine(state.ledger, state.line, state.action))
}

export interface UnmatchState {
  ledger: LedgerState
  line: LineState
  version: number
  /** How the line is matched now; null: it is not. */
  matched: 'receipt' | 'covered' | 'ledger' | 'return' | null
  /** The lines of what it posted, when that was without items. */
  lines: readonly Line[]
  /** Receipts that the line made, with the lines of each. */
  receipts: readonly { itemId: number; lines: readonly Line[] }[]
  /** Links of credits that were taken off the payment. */
  credits: readonly number[]
}

/**
 * Takes back what a line posted: its receipts reversed, credits taken off it open again, other postings
 * mirrored.
 */
export function decideUnmatch(state: UnmatchState, ask: { reason: string }): Decided {
  const { ledger, line, matched } = state
  if (matched === null || line.state !== 'settled')
    return refused([
      refuse('bank.matched', 'line', 'this line is not matched', 'there is nothing to take back'),
    ])
  if (line.version !== state.version)
    return refused([
      refuse(
        'bank.changed',
        'version',
        'somebody else worked on this line meanwhile',
        'reload it and look again',
      ),
    ])
  if (matched === 'return')
    return refused([
      refuse(
        'bank.return',
        'line',
        'what the bank sent back cannot be taken back',
        'enter the receipt again when the money comes',
      ),
    ])
  const closed = ledger.closedUntil !== null && line.bookingDate <= ledger.closedUntil
  const date = closed ? ledger.today : line.bookingDate
  const text = `Unmatched: ${ask.reason}`
  if (matched !== 'receipt') return decided(takeBack(ledger, date, text, state.lines))
  // A later link, or one that was undone later, may be younger than the bank's booking: then all goes back on
  // its day.
  const latest = [...ledger.allocations.values()].reduce((a, x) => (x.effective > a ? x.effective : a), date)
  const postings: Posting[] = []
  let now = ledger
  const steps: (() => Decision)[] = [
    ...(state.credits.length
      ? [() => unallocate(now, { date: latest, allocationIds: [...state.credits], reason: text })]
      : []),
    ...state.receipts.map(
      r => () => reverse(now, { itemId: r.itemId, date: latest, reason: text, lines: r.lines }),
    ),
  ]
  for (const step of steps) {
    const decision = step()
    if (!decision.ok) return decision
    postings.push(decision.posting)
    now = afterPosting(now, decision.posting)
  }
  return { ok: true, postings: [mergePostings('reversal', latest, text, postings)], facts: null }
}

/** Money received that is no customer's. */
export function decideSundry(state: { ledger: LedgerState }, ask: Omit<SundryIntent, 'rate'>): Decided {
  const refusals = rateRefusals(state.ledger, ask.currency, ask.date, 'currency')
  if (refusals.length) return refused(refusals)
  return decided(postSundry(state.ledger, { ...ask, rate: rateOf(state.ledger, ask.currency, ask.date)! }))
}

export interface SundryVoidState {
  ledger: LedgerState
  number: string
  voided: boolean
  /** Where its money went meanwhile, in words; null: it is where it was. */
  away: string | null
  lines: readonly Line[]
}

/** Takes money of nobody's account back: keyed in error. */
export function decideSundryVoid(state: SundryVoidState, ask: { reason: string }): Decided {
  const { ledger, number } = state
  const refusals: Refusal[] = []
  if (state.voided)
    refusals.push(refuse('sundry.once', 'id', `${number} was taken back before`, 'see its history'))
  if (state.away) {
    const satisfy = 'void the slip or unmatch the line first'
    refusals.push(refuse('sundry.away', 'id', `${number} ${state.away}`, satisfy))
  }
  if (refusals.length) return refused(refusals)
  return decided(takeBack(ledger, ledger.today, `${number} taken back: ${ask.reason}`, state.lines))
}
