import type { IsoDate } from '../calendar'
import { newItem } from '../ledger/item'
import { takeOff } from '../ledger/open'
import {
  assertBalanced,
  baseLeaving,
  dateRefusals,
  linkLines,
  openRefusals,
  refuse,
  refused,
} from '../ledger/rules'
import type { Allocation, Decided, LedgerState, Line, Posting, Refusal, StateItem } from '../ledger/types'
import { amountWords, share } from '../money'
import { commissionOf, splitGross, type Facility } from './facility'

/* How an invoice is closed by a factor: sold to it, paid by it, or what is the factor's passed on. */

/** The invoice leaves receivables, the factor owes for it: one item of kind `sale`, allocated at once. */
export function saleOf(
  { chart }: Pick<LedgerState, 'chart'>,
  facility: Facility,
  item: StateItem,
  amount: number,
  { date, text }: { date: IsoDate; text: string },
): Posting {
  const base = baseLeaving(item, amount)
  const line = { currency: item.currency, customerId: item.customerId, item: -1, allocation: null }
  return {
    kind: 'document',
    date,
    text: `${item.number} to ${facility.name}`,
    items: [
      newItem({
        id: -1,
        customerId: item.customerId,
        kind: 'sale',
        currency: item.currency,
        amount,
        baseAmount: base,
        postingDate: date,
        text: text || `to ${facility.name}`,
      }),
    ],
    allocations: [
      {
        id: -1,
        debitItemId: item.id,
        creditItemId: -1,
        amount,
        debitBase: base,
        creditBase: base,
        effective: date,
        undoesId: null,
      },
    ],
    lines: [
      { ...line, account: facility.accounts.current, customerId: null, amount, baseAmount: base },
      { ...line, account: chart.receivables, amount: -amount, baseAmount: -base },
    ],
  }
}

export interface ShortAsk {
  date: IsoDate
  /** Money of the factor, on the account of its debtor. */
  creditItemId: number
  itemId: number
}

export interface ShortState {
  ledger: LedgerState
  facility: Facility
}

/**
 * The factor paid an invoice and kept its commission: invoice, money and commission close together. What is
 * short must be what its terms say; of a gross commission the tax is split out.
 * Example: 1,000.00 paid with 915.00 leaves 85.00: 70.83 and 14.17 of tax at 20 % (common practice).
 */
export function decideShort({ ledger, facility }: ShortState, ask: ShortAsk): Decided {
  const credit = ledger.items.get(ask.creditItemId)
  const item = ledger.items.get(ask.itemId)
  if (!credit || credit.side !== 'credit' || !item || item.side !== 'debit')
    return refused([
      refuse('short.items', 'itemId', 'this needs money of the factor and an invoice', 'choose one of each'),
    ])
  const refusals = [...dateRefusals(ledger, ask.date, 'date'), ...shortRefusals(facility, credit, item)]
  const short = item.open - credit.open
  if (!refusals.length) refusals.push(...openRefusals(item, ask.date, item.open, 'itemId'))
  if (!refusals.length) refusals.push(...openRefusals(credit, ask.date, credit.open, 'creditItemId'))
  if (refusals.length) return refused(refusals)
  const paid = link(-1, credit, item, credit.open, ask.date, baseLeaving(item, credit.open), credit.baseOpen)
  const left = takeOff(item, ask.date, credit.open, paid.debitBase)
  const base = left.baseOpen
  const { net, tax } = splitGross(short, facility.taxRate)
  const netBase = share(base, net, short)
  const own = { currency: item.currency, customerId: item.customerId, item: -1, allocation: null }
  const commission = newItem({
    id: -1,
    customerId: item.customerId,
    kind: 'commission',
    currency: item.currency,
    amount: short,
    baseAmount: base,
    tax,
    postingDate: ask.date,
    bornOfItemId: credit.id,
    text: `Commission of ${facility.name} on ${item.number}`,
  })
  const closing: Allocation = { ...link(-2, commission, item, short, ask.date, base, base) }
  const lines: Line[] = [
    { ...own, account: facility.accounts.commission, amount: net, baseAmount: netBase },
    ...(tax ? [{ ...own, account: facility.accounts.tax, amount: tax, baseAmount: base - netBase }] : []),
    { ...own, account: ledger.chart.receivables, amount: -short, baseAmount: -base },
    ...linkLines(ledger, paid),
  ]
  assertBalanced(lines)
  const text = `${item.number} paid by ${facility.name}, less its commission`
  const posting: Posting = {
    kind: 'document',
    date: ask.date,
    text,
    items: [commission],
    allocations: [paid, closing],
    lines,
  }
  return { ok: true, postings: [posting], facts: null }
}

function link(
  id: number,
  credit: { id: number },
  debit: { id: number },
  amount: number,
  effective: IsoDate,
  debitBase: number,
  creditBase: number,
): Allocation {
  return {
    ...{ id, creditItemId: credit.id, debitItemId: debit.id, amount, debitBase, creditBase },
    effective,
    undoesId: null,
  }
}

function shortRefusals(facility: Facility, credit: StateItem, item: StateItem): Refusal[] {
  if (credit.customerId !== item.customerId || credit.currency !== item.currency)
    return [
      refuse('short.account', 'itemId', 'the two are not on one account in one currency', 'choose one of it'),
    ]
  const short = item.open - credit.open
  const terms = commissionOf(facility, item.amount)
  const words = (amount: number) => amountWords(amount, item.currency)
  if (short <= 0)
    return [refuse('short.whole', 'itemId', `${credit.number} pays ${item.number} whole`, 'allocate it')]
  // Who rounds the tax apart from the commission may be a unit off.
  if (Math.abs(short - terms.gross) > 1)
    return [
      refuse(
        'short.terms',
        'itemId',
        `${words(short)} is short, the commission of ${facility.name} is ${words(terms.gross)}: ` +
          `${words(terms.net)} and ${words(terms.tax)} of tax`,
        'ask the factor, or allocate what it paid and leave the rest open',
      ),
    ]
  return []
}

export interface PassOnAsk {
  date: IsoDate
  creditItemId: number
  amount: number
}

/** A debtor paid us what is the factor's: it is taken off the account, and owed to the factor. */
export function decidePassOn({ ledger, facility }: ShortState, ask: PassOnAsk): Decided {
  const credit = ledger.items.get(ask.creditItemId)
  if (!credit || credit.side !== 'credit')
    return refused([refuse('pass-on.credit', 'creditItemId', 'this is no credit', 'choose a receipt')])
  const refusals = [
    ...dateRefusals(ledger, ask.date, 'date'),
    ...openRefusals(credit, ask.date, ask.amount, 'amount'),
  ]
  if (ask.amount <= 0)
    refusals.push(refuse('pass-on.amount', 'amount', 'nothing is passed on', 'give an amount'))
  if (refusals.length) return refused(refusals)
  const base = baseLeaving(credit, ask.amount)
  const item = newItem({
    id: -1,
    customerId: credit.customerId,
    kind: 'passed-on',
    currency: credit.currency,
    amount: ask.amount,
    baseAmount: base,
    postingDate: ask.date,
    text: `${credit.number} is owed to ${facility.name}`,
  })
  const allocation = link(-1, credit, item, ask.amount, ask.date, base, base)
  const own = { currency: credit.currency, item: -1, allocation: null }
  const working = new Map([
    [credit.id, credit],
    [-1, { ...item, open: ask.amount, baseOpen: base, reversed: false, moves: [] }],
  ])
  const lines: Line[] = [
    {
      ...own,
      account: ledger.chart.receivables,
      customerId: credit.customerId,
      amount: ask.amount,
      baseAmount: base,
    },
    { ...own, account: facility.accounts.current, customerId: null, amount: -ask.amount, baseAmount: -base },
    ...linkLines({ chart: ledger.chart, items: working }, allocation),
  ]
  assertBalanced(lines)
  const text = `${credit.number} passed on to ${facility.name}`
  const posting: Posting = {
    kind: 'document',
    date: ask.date,
    text,
    items: [item],
    allocations: [allocation],
    lines,
  }
  return { ok: true, postings: [posting], facts: null }
}
