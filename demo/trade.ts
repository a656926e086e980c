import type { Handle } from '../server/db/handle'
import {
  addDays,
  addMonths,
  discountOn,
  discountSteps,
  dueParts,
  endOfMonth,
  onBankWorkingDay,
  parseTerms,
  type IsoDate,
} from '../core/calendar'
import { allocate, postReceipt } from '../core/receipts'
import { applyPosting, type Means, type Posting } from '../core/ledger'
import { postDocument } from '../core/documents'
import { share } from '../core/money'
import { type By } from '../server/ledger/command'
import { simulatedRates } from '../simulators/rates'
import { type DemoCustomer } from './customers'
import { posted, postingsOf } from './door'
import { chance, type Chance } from '../simulators/chance'

const TAX = 2300
/** The most that is paid in cash, minor units of any currency. */
const MOST_CASH = 40_000
/** Harvest runs from April to October: more is sold then. */
const SEASON = [0.7, 0.7, 0.8, 1, 1.15, 1.25, 1.3, 1.3, 1.25, 1.1, 0.85, 0.75]
/** The first day whose transfers are told by the bank only. */
const BANK_FROM = '2026-11-05'

export interface Payer extends DemoCustomer {
  id: number
  nextInvoice: IsoDate
  invoices: OpenInvoice[]
  credits: { id: number; amount: number; number: string }[]
  chance: Chance
  cheque: number
}
export interface OpenInvoice {
  atBank?: boolean
  due: IsoDate
  amount: number
  id: number
  number: string
  open: number
  payOn: IsoDate
  date: IsoDate
  discounts: { date: IsoDate; amount: number }[]
}

/** When this customer will pay an invoice due on a day. */
export function payDay(p: Payer, due: IsoDate, discounts: { date: IsoDate }[]): IsoDate {
  if (p.habit === 'early' && discounts.length)
    return onBankWorkingDay(addDays(p.chance.pick(discounts).date, -p.chance.whole(1, 4)))
  if (p.habit === 'insolvent' && due > '2026-05-01') return '2999-12-31'
  const late = Math.round(p.chance.around(p.daysLate, p.spread))
  let day = addDays(due, late)
  if (p.habit === 'month-end') day = endOfMonth(day < due ? due : day)
  // Now and then an invoice is argued about and lies for months.
  if (p.habit === 'erratic' && p.chance.happens(0.12)) day = addDays(due, p.chance.whole(60, 200))
  return onBankWorkingDay(day)
}

/** A day of trade: invoices go out, payments come in. Answers the number of the next invoice. */
export async function oneDay(
  database: Handle,
  day: IsoDate,
  billed: Payer[],
  payers: Payer[],
  by: { cash: By; controller: By },
  firstInvoice: number,
): Promise<number> {
  let invoice = firstInvoice
  // From here on transfers are no longer keyed: the bank shows them.
  if (day >= BANK_FROM)
    for (const p of payers)
      if (byTransfer(p, day)) for (const i of p.invoices) if (i.payOn <= day) i.atBank = true
  const paying = payers.filter(p => p.invoices.some(i => i.payOn <= day && !i.atBank))
  const customerIds = [...new Set([...billed, ...paying].map(p => p.id))]
  if (!customerIds.length) return invoice
  const rates = new Map<string, string>()
  for (const currency of new Set([...billed, ...paying].map(p => p.currency)))
    rates.set(currency, simulatedRates.quote('EUR', currency, day)!)

  const due = paying.flatMap(p => [
    ...p.invoices.filter(i => i.payOn <= day && !i.atBank).map(i => i.id),
    ...p.credits.map(c => c.id),
  ])
  const owners: Payer[] = []
  const bills = await postingsOf(database, by.controller, { day, customerIds, itemIds: [] }, ledger =>
    billed.flatMap(p => {
      const made = bill(ledger, p, day, `${day.slice(2, 4)}-${String(invoice++).padStart(4, '0')}`, rates)
      owners.push(...made.map(() => p))
      return made
    }),
  )
  await postingsOf(database, by.cash, { day, customerIds, itemIds: due }, ledger =>
    paying.flatMap(p => payments(ledger, p, day, rates.get(p.currency)!)),
  )
  bills.written.forEach((w, i) => {
    const item = bills.postings[i]!.items[0]!
    const { id } = w.items[0]!
    if (item.kind !== 'invoice') {
      owners[i]!.credits.push({ id, amount: item.amount, number: item.number })
      return
    }
    owners[i]!.invoices.push({
      id,
      number: item.number,
      open: item.amount,
      payOn: payDay(owners[i]!, item.dueDate, item.discounts),
      date: day,
      due: item.dueDate,
      amount: item.amount,
      discounts: item.discounts,
    })
  })
  return invoice
}

/** The invoice of a customer, now and then with a credit note, and when the next is due. */
function bill(
  ledger: State,
  p: Payer,
  day: IsoDate,
  number: string,
  rates: ReadonlyMap<string, string>,
): Posting[] {
  const rate = rates.get(p.currency)!
  const { posting } = document(ledger, p, day, number, rate)
  const made = [posting]
  if (p.chance.happens(0.025)) {
    const amount = share(posting.items[0]!.amount, p.chance.whole(4, 18), 100)
    made.push(credit(ledger, p, day, `C${number}`, amount, rate, number))
  }
  const season = SEASON[Number(day.slice(5, 7)) - 1]!
  const days = Math.max(2, Math.round(p.chance.around(p.every, p.every / 5) / season))
  p.nextInvoice = onBankWorkingDay(addDays(day, days))
  if (p.habit === 'insolvent' && day > '2026-07-15') p.nextInvoice = '2999-12-31'
  return made
}

const byCheque = (p: Payer) => p.country === 'IE' || p.country === 'US'
const byTransfer = (p: Payer, day: IsoDate) =>
  !byCheque(p) || chance(`wrackline means ${p.number} ${day}`).happens(0.5)

type State = Parameters<typeof postDocument>[0]

function document(state: State, p: Payer, day: IsoDate, number: string, rate: string): { posting: Posting } {
  const rounding = p.currency === 'JPY' ? 100 : 1
  const net = Math.max(5000, Math.round((p.typical * (0.4 + p.chance.next() * 1.2)) / rounding) * rounding)
  const tax = p.country === 'IE' ? share(net, TAX, 10_000) : 0
  const amount = net + tax
  const terms = parseTerms(p.terms)
  const text = p.chance.pick([
    'dried dulse',
    'kelp meal',
    'agar powder',
    'milled wrack',
    'nori flakes',
    'carrageen',
    'liquid kelp',
  ])
  return {
    posting: posted(
      postDocument(state, {
        customerId: p.id,
        kind: 'invoice',
        number,
        series: null,
        currency: p.currency,
        amount,
        tax,
        documentDate: day,
        parts: dueParts(terms, day, amount),
        discounts: discountSteps(terms, day, amount),
        rate,
        order: `SO-${number.slice(3)}`,
        text,
      }),
    ),
  }
}

function credit(
  state: State,
  p: Payer,
  day: IsoDate,
  number: string,
  amount: number,
  rate: string,
  invoice: string,
): Posting {
  return posted(
    postDocument(state, {
      customerId: p.id,
      kind: 'credit-note',
      number,
      series: null,
      currency: p.currency,
      amount: Math.max(100, amount),
      tax: 0,
      documentDate: day,
      parts: [{ dueDate: day, amount: Math.max(100, amount) }],
      discounts: [],
      rate,
      order: '',
      text: `Short delivery, ${invoice}`,
    }),
  )
}

/** What a customer pays on a day: one receipt over all it has decided to pay, credits taken off first. */
function payments(state: State, p: Payer, day: IsoDate, rate: string): Posting[] {
  const due = p.invoices.filter(i => i.payOn <= day && !i.atBank)
  const postings: Posting[] = []
  const pairs: { debitItemId: number; creditItemId: number; amount: number }[] = []
  for (const c of [...p.credits]) {
    const target = due.find(i => i.open > c.amount)
    // Some credits are forgotten, and wait.
    if (!target || p.chance.happens(0.35)) continue
    pairs.push({ debitItemId: target.id, creditItemId: c.id, amount: c.amount })
    target.open -= c.amount
    p.credits = p.credits.filter(x => x !== c)
  }
  const wanted: Means =
    day >= BANK_FROM
      ? p.chance.pick(['cheque', 'cheque', 'cash'] as const)
      : byCheque(p)
        ? p.chance.pick(['cheque', 'transfer', 'transfer', 'cash'] as const)
        : 'transfer'
  const shortBy = p.chance.happens(p.short) ? p.chance.whole(20, 60) : 0
  // Discount takers pay less the discount; now and then somebody is a few cents short.
  const allocations = due.map((i, n) => {
    const item = state.items.get(i.id)!
    const discount = p.habit === 'early' && i.open === item.amount ? discountOn(i.discounts, day) : 0
    const paid = i.open - discount
    const difference = !discount && p.currency === 'EUR' && p.chance.happens(0.02) ? p.chance.whole(1, 90) : 0
    return {
      itemId: i.id,
      amount: n === 0 && shortBy && !discount ? i.open - share(i.open, shortBy, 100) : paid - difference,
      discount,
      difference: n === 0 && shortBy ? 0 : difference,
    }
  })
  const assigned = allocations.reduce((a, x) => a + x.amount, 0)
  // Nobody carries thousands to the counter.
  const means = wanted === 'cash' && assigned > MOST_CASH ? 'cheque' : wanted
  // A muddled reference now and then: the money is on account until somebody asks. Recent ones still are.
  const muddled = day > '2026-10-12' && p.chance.happens(0.06)
  const over = !muddled && p.chance.happens(0.012) ? p.chance.whole(1000, 40_000) : 0
  if (pairs.length) postings.push(posted(allocate(state, { date: day, pairs })))
  if (assigned > 0) {
    const scratch = pairs.length ? afterwards(state, postings[0]!) : state
    postings.push(
      posted(
        postReceipt(scratch, {
          customerId: p.id,
          currency: p.currency,
          date: day,
          text: '',
          rate,
          allocations: muddled ? [] : allocations,
          onAccount: muddled ? assigned : over,
          means: [
            {
              means,
              amount: assigned + over,
              reference:
                means === 'cheque'
                  ? String(p.cheque++).padStart(6, '0')
                  : muddled
                    ? 'payment, thank you'
                    : means === 'transfer'
                      ? due
                          .map(i => i.number)
                          .join(' ')
                          .slice(0, 60)
                      : '',
            },
          ],
        }),
      ),
    )
  }
  for (const [n, i] of due.entries()) {
    const part = allocations[n]!
    i.open -= muddled ? 0 : part.amount + part.discount + part.difference
    i.payOn = muddled ? '2999-12-31' : onBankWorkingDay(addMonths(day, p.chance.whole(1, 4)))
  }
  p.invoices = p.invoices.filter(i => i.open > 0)
  return postings
}

/** The state as the first posting leaves it, for the second that follows in the same breath. */
function afterwards(state: State, posting: Posting): State {
  const touched = posting.allocations.flatMap(a => [a.debitItemId, a.creditItemId])
  const copy: State = {
    ...state,
    items: new Map([...state.items].map(([id, i]) => [id, touched.includes(id) ? { ...i } : i])),
    allocations: new Map(),
  }
  applyPosting({ state: copy, lines: [] }, posting)
  return copy
}
