import type { IsoDate } from '../calendar'
import { convert, share } from '../money'
import { partRefusals, postParts, type PaidPart } from '../receipts/parts'
import { accountRefusals, amountRefusals, dateRefusals, decide, refuse } from '../ledger/rules'
import { mergePostings } from '../ledger/state'
import type { Decision, LedgerState, Line, Means, Refusal } from '../ledger/types'

/** One bank line, as far as a posting needs it. Amount signed: money in positive. */
export interface BankMovement {
  date: IsoDate
  currency: string
  amount: number
  account: string
  text: string
  reference: string
  rate: string
  paidOn?: IsoDate
}

/**
 * Money of customers that the bank shows: a receipt for each, at once in the bank account, with the credits
 * that were taken off. `paidOn` is the day of payment by which discount is judged; the posting is dated by
 * the bank's booking.
 */
export function postBankReceipt(
  state: LedgerState,
  movement: BankMovement,
  parts: readonly PaidPart[],
  lateDiscount = false,
): Decision {
  const refusals: Refusal[] = partRefusals(parts, movement.amount)
  if (movement.amount <= 0)
    refusals.push(
      refuse(
        'bank.direction',
        'parts',
        'money that went out is no receipt',
        'choose a ledger account or what it takes back',
      ),
    )
  if (new Set(parts.map(p => p.customerId)).size !== parts.length)
    refusals.push(refuse('bank.parts', 'parts', 'a customer is named twice', 'put its items together'))
  if (refusals.length) return { ok: false, refusals }
  const posted = postParts(state, { ...movement, means: 'transfer', lateDiscount }, parts)
  return decide(posted.refusals, () =>
    mergePostings('receipt', movement.date, movement.text || 'Receipt', posted.postings),
  )
}

/**
 * Money that was posted before and waits for the bank: it shows it now. Base amounts are those it was posted
 * with, `account` is where it waits: receipts in clearing, or payments to customers on their way.
 */
export interface Awaited {
  label: string
  account: string
  amount: number
  baseAmount: number
  date: IsoDate
  settled: boolean
}

/**
 * Covered becomes settled: out of where it waits into the bank account. What the bank kept back goes to
 * `restAccount`.
 */
export function settle(
  state: LedgerState,
  movement: BankMovement,
  awaited: readonly Awaited[],
  restAccount: string | null,
): Decision {
  const refusals = dateRefusals(state, movement.date, 'date')
  if (!awaited.length)
    refusals.push(refuse('bank.some', 'targets', 'nothing was chosen', 'choose what the bank line settles'))
  for (const [i, a] of awaited.entries()) {
    if (a.settled)
      refusals.push(
        refuse(
          'bank.settled',
          `targets.${i}`,
          `${a.label} was settled by another bank line`,
          'reload and choose another',
        ),
      )
  }
  const sum = awaited.reduce((a, x) => a + x.amount, 0)
  const rest = movement.amount - sum
  if (rest !== 0 && restAccount) refusals.push(...accountRefusals(state, restAccount, 'restAccount'))
  if (rest !== 0 && !restAccount)
    refusals.push(
      refuse(
        'bank.rest',
        'targets',
        `what was chosen makes ${sum} minor units, the bank line is ${movement.amount}`,
        'choose what makes it, or say where the difference goes',
      ),
    )
  return decide(refusals, () => {
    const base = awaited.reduce((a, x) => a + x.baseAmount, 0)
    const line = { currency: movement.currency, customerId: null, item: null, allocation: null }
    const restBase =
      rest === 0
        ? 0
        : sum === 0
          ? convert(rest, movement.currency, state.base, movement.rate)
          : share(base, rest, sum)
    const waits = [...new Set(awaited.map(a => a.account))].map(account => {
      const own = awaited.filter(a => a.account === account)
      return {
        ...line,
        account,
        amount: -own.reduce((a, x) => a + x.amount, 0),
        baseAmount: -own.reduce((a, x) => a + x.baseAmount, 0),
      }
    })
    const lines: Line[] = [
      { ...line, account: movement.account, amount: movement.amount, baseAmount: base + restBase },
      ...waits,
    ]
    if (rest !== 0) lines.push({ ...line, account: restAccount!, amount: -rest, baseAmount: -restBase })
    return {
      kind: 'bank',
      date: movement.date,
      text: `Settled: ${awaited.map(a => a.label).join(', ')}`,
      items: [],
      allocations: [],
      lines,
    }
  })
}

/** Money that is no customer's: charges, interest, a supplier's refund, a transfer between own accounts. */
export function postToLedger(state: LedgerState, movement: BankMovement, account: string): Decision {
  const refusals = [
    ...dateRefusals(state, movement.date, 'date'),
    ...accountRefusals(state, account, 'account'),
  ]
  return decide(refusals, () => {
    const base = convert(movement.amount, movement.currency, state.base, movement.rate)
    const line = { currency: movement.currency, customerId: null, item: null, allocation: null }
    return {
      kind: 'bank',
      date: movement.date,
      text: movement.text,
      items: [],
      allocations: [],
      lines: [
        { ...line, account: movement.account, amount: movement.amount, baseAmount: base },
        { ...line, account, amount: -movement.amount, baseAmount: -base },
      ],
    }
  })
}

export interface SundryIntent {
  date: IsoDate
  currency: string
  amount: number
  means: Means
  account: string
  text: string
  rate: string
}

/**
 * Money received that is no customer's and not at the bank yet: cash and cheques to the Tray, transfers and
 * cards to clearing.
 */
export function postSundry(state: LedgerState, intent: SundryIntent): Decision {
  const refusals = [
    ...dateRefusals(state, intent.date, 'date'),
    ...amountRefusals(intent.amount, 'amount'),
    ...accountRefusals(state, intent.account, 'account'),
  ]
  return decide(refusals, () => {
    const base = convert(intent.amount, intent.currency, state.base, intent.rate)
    const line = { currency: intent.currency, customerId: null, item: null, allocation: null }
    const rests = intent.means === 'cash' || intent.means === 'cheque' ? 'on-hand' : 'clearing'
    return {
      kind: 'receipt',
      date: intent.date,
      text: intent.text,
      series: 'sundry',
      items: [],
      allocations: [],
      lines: [
        { ...line, account: state.chart[rests], amount: intent.amount, baseAmount: base },
        { ...line, account: intent.account, amount: -intent.amount, baseAmount: -base },
      ],
    }
  })
}

/** The same lines with the signs turned: what a bank line posted without items is taken back. */
export function takeBack(state: LedgerState, date: IsoDate, text: string, lines: readonly Line[]): Decision {
  return decide(dateRefusals(state, date, 'date'), () => ({
    kind: 'bank',
    date,
    text,
    items: [],
    allocations: [],
    lines: lines.map(l => ({ ...l, amount: -l.amount, baseAmount: -l.baseAmount })),
  }))
}
