import { isValidIBAN } from 'ibantools'
import type { IsoDate } from '../calendar'
import { newItem } from '../ledger/item'
import { KINDS } from '../ledger/kinds'
import { takeOff } from '../ledger/open'
import { dateRefusals, decide, linkLines, refuse } from '../ledger/rules'
import type { Decided, Decision, LedgerState, Posting, Purpose, Refusal, StateItem } from '../ledger/types'
import { convert } from '../money'
import { rateOf, rateRefusals } from '../rates'
import { planPairs } from '../receipts/allocations'

/*
 * Money that goes back to a customer. It is posted once: the receivable is debited, and what is on its way
 * out is credited; the bank line settles that. Amounts are minor units of the credits.
 */

/** How a refund reaches the customer. */
export const REFUND_METHODS = {
  transfer: 'Transfer',
  cheque: 'Cheque',
  card: 'Back to the card',
  cash: 'Cash',
} as const
export type RefundMethod = keyof typeof REFUND_METHODS

/** Where the money lies until the customer has it: cash is gone at once, the rest waits for the bank. */
const LEAVES_FROM: Readonly<Record<RefundMethod, Purpose>> = {
  transfer: 'paying-out',
  cheque: 'paying-out',
  card: 'paying-out',
  cash: 'petty-cash',
}

/** So much of a credit. */
export interface CreditPart {
  itemId: number
  amount: number
}

export interface RefundAsk {
  customer: string
  method: RefundMethod
  credits: readonly CreditPart[]
  /** What the customer reads, beside the numbers of the credits. */
  text: string
}

/** Who gets money, with all that may keep it from them. */
export interface Payee {
  customerId: number
  number: string
  name: string
  /** What its master or class says of refunds. */
  allowed: boolean
  iban: string
  /** Who changed the bank details, while nobody else has confirmed them; null: they are confirmed. */
  bankChangedBy: string | null
  closed: boolean
  /** Credits that came by card: a refund may go back to it. */
  cardItems: ReadonlySet<number>
}

export interface RefundState {
  ledger: LedgerState
  payees: ReadonlyMap<string, Payee>
}

const KEY = -1

/** Several refunds, each of one customer and currency. All are posted or none. */
export function decideRefunds(
  state: RefundState,
  ask: { date: IsoDate; refunds: readonly RefundAsk[] },
): Decided {
  const postings: Posting[] = []
  const refusals: Refusal[] = []
  // What is left of each credit, refund after refund; the state itself stays as it is.
  const left = new Map(state.ledger.items)
  for (const [n, refund] of ask.refunds.entries()) {
    const payee = state.payees.get(refund.customer)
    const decision = payee
      ? decideRefund(narrowed({ ...state.ledger, items: left }, refund), payee, ask.date, refund)
      : unknownPayee(refund.customer)
    if (!decision.ok) {
      refusals.push(...decision.refusals.map(r => ({ ...r, path: `refunds.${n}.${r.path}` })))
      continue
    }
    postings.push(decision.posting)
    take(left, decision.posting)
  }
  return refusals.length ? { ok: false, refusals } : { ok: true, postings, facts: null }
}

/** Only what a refund takes from: a decision among thousands costs what its own credits cost. */
function narrowed(ledger: LedgerState, { credits }: RefundAsk): LedgerState {
  const own = credits.flatMap(({ itemId }) => {
    const item = ledger.items.get(itemId)
    return item ? [[itemId, item] as const] : []
  })
  return { ...ledger, items: new Map(own) }
}

/** Takes what a posting uses of credits off them. */
function take(left: Map<number, StateItem>, { allocations }: Posting): void {
  for (const a of allocations)
    left.set(a.creditItemId, takeOff(left.get(a.creditItemId)!, a.effective, a.amount, a.creditBase))
}

const unknownPayee = (number: string): Decision => ({
  ok: false,
  refusals: [
    refuse('refund.customer', 'customer', `there is no customer ${number}`, 'choose one of the list'),
  ],
})

function decideRefund(ledger: LedgerState, payee: Payee, date: IsoDate, ask: RefundAsk): Decision {
  const credits = ask.credits.map(c => ledger.items.get(c.itemId))
  const refusals = [
    ...dateRefusals(ledger, date, 'date'),
    ...payeeRefusals(payee, ask),
    ...creditRefusals(credits, payee, ask),
  ]
  const [first] = credits
  if (first) refusals.push(...rateRefusals(ledger, first.currency, date, 'date'))
  if (refusals.length || !first) return { ok: false, refusals }
  const amount = ask.credits.reduce((sum, c) => sum + c.amount, 0)
  const { currency } = first
  const base = convert(amount, currency, ledger.base, rateOf(ledger, currency, date)!)
  const bare = newItem({
    id: KEY,
    customerId: payee.customerId,
    kind: 'refund',
    currency,
    amount,
    baseAmount: base,
    postingDate: date,
    text: textOf(ask, credits as StateItem[]),
  })
  const refund: StateItem = { ...bare, open: amount, baseOpen: base, reversed: false, moves: [] }
  const working = new Map([...ledger.items, [KEY, refund]])
  const pairs = ask.credits.map(c => ({ debitItemId: KEY, creditItemId: c.itemId, amount: c.amount }))
  const plan = planPairs(working, date, pairs, -1, 'credits')
  return decide(plan.refusals, () => {
    const line = { currency, customerId: payee.customerId, item: KEY, allocation: null }
    const linked = { chart: ledger.chart, items: working }
    return {
      kind: 'refund',
      date,
      text: bare.text,
      items: [bare],
      allocations: plan.allocations,
      lines: [
        { ...line, account: ledger.chart.receivables, amount, baseAmount: base },
        { ...line, account: ledger.chart[LEAVES_FROM[ask.method]], amount: -amount, baseAmount: -base },
        ...plan.allocations.flatMap(a => linkLines(linked, a)),
      ],
    }
  })
}

const textOf = ({ text }: RefundAsk, credits: readonly StateItem[]): string => {
  const numbers = credits.map(c => c.number).join(', ')
  return (text ? `${text} (${numbers})` : `Refund of ${numbers}`).slice(0, 180)
}

function payeeRefusals(payee: Payee, { method, credits }: RefundAsk): Refusal[] {
  const refusals: Refusal[] = []
  if (!payee.allowed)
    refusals.push(
      refuse(
        'refund.allowed',
        'customer',
        `${payee.name} gets no refunds: its master or class says so`,
        'allocate the credit instead, or set Refunds to allowed on the customer',
      ),
    )
  if (method === 'transfer' && !payee.iban)
    refusals.push(
      refuse(
        'refund.account',
        'method',
        `no bank account of ${payee.name} is known`,
        'enter its IBAN on the customer, or pay by cheque',
      ),
    )
  else if (method === 'transfer' && !isValidIBAN(payee.iban))
    refusals.push(
      refuse(
        'refund.account',
        'method',
        `${payee.iban} of ${payee.name} is no valid IBAN`,
        'ask the customer for it and correct the master',
      ),
    )
  else if (method === 'transfer' && payee.bankChangedBy !== null)
    refusals.push(
      refuse(
        'refund.bank-changed',
        'method',
        `the bank details of ${payee.name} were changed by ${payee.bankChangedBy} and nobody has confirmed them`,
        'a second person confirms them in Sign-off first',
      ),
    )
  if (method === 'card' && credits.some(c => !payee.cardItems.has(c.itemId)))
    refusals.push(
      refuse(
        'refund.card',
        'method',
        'only what came by card goes back to the card',
        'choose receipts by card, or another way',
      ),
    )
  else if (method === 'card' && credits.length > 1)
    refusals.push(
      refuse(
        'refund.card-one',
        'credits',
        'money goes back to the card of one receipt at a time',
        'make a refund of each',
      ),
    )
  return refusals
}

function creditRefusals(
  credits: readonly (StateItem | undefined)[],
  payee: Payee,
  ask: RefundAsk,
): Refusal[] {
  if (!credits.length)
    return [
      refuse('refund.some', 'credits', 'nothing was chosen to refund', 'choose a credit of the account'),
    ]
  const refusals: Refusal[] = []
  const seen = new Set<number>()
  const [first] = credits
  for (const [n, item] of credits.entries()) {
    const path = `credits.${n}`
    const isOwn = item?.side === 'credit' && item.customerId === payee.customerId
    if (!item || !isOwn || KINDS[item.kind].born || item.kind === 'reversal') {
      refusals.push(
        refuse(
          'refund.credit',
          path,
          'this is no credit of the account that can be refunded',
          'choose money on account, a credit note or an advance',
        ),
      )
      continue
    }
    if (item.currency !== first?.currency)
      refusals.push(
        refuse(
          'refund.currency',
          path,
          `${item.number} is in ${item.currency}, ${first?.number ?? ''} in ${first?.currency ?? ''}`,
          'make a refund for each currency',
        ),
      )
    if (seen.has(item.id))
      refusals.push(refuse('refund.twice', path, `${item.number} is named twice`, 'name it once'))
    seen.add(item.id)
    if (item.open <= 0)
      refusals.push(
        refuse(
          'refund.used',
          path,
          `nothing of ${item.number} is open: it was used meanwhile`,
          'reload, and see on the account what took it',
        ),
      )
    const { amount } = ask.credits[n]!
    if (!Number.isSafeInteger(amount) || amount <= 0)
      refusals.push(
        refuse(
          'refund.amount',
          `${path}.amount`,
          'the amount must be more than zero',
          'enter what goes back',
        ),
      )
  }
  return refusals
}
