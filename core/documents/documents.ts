import { daysBetween, isIsoDate, type IsoDate } from '../calendar'
import { convert, isCurrency, split } from '../money'
import { newItem } from '../ledger/item'
import { sideOf, type ItemKind } from '../ledger/kinds'
import { amountRefusals, decide, periodRefusals, refuse } from '../ledger/rules'
import type { Decision, DocumentKind, LedgerState, Line, Purpose } from '../ledger/types'

/** Where the net amount of a document goes, when not to revenue. */
const INCOME: Partial<Record<ItemKind, Purpose>> = {
  fee: 'reminder-fees',
  interest: 'late-interest',
  compensation: 'compensation',
  charge: 'charges-on',
}

/** The income account of a kind of document, by its purpose: where a credit of it goes back to as well. */
export const incomeOf = (kind: ItemKind): Purpose => INCOME[kind] ?? 'revenue'

export interface DocumentIntent {
  customerId: number
  kind: DocumentKind | 'fee' | 'interest' | 'compensation' | 'charge'
  /** Empty: the number comes from the series. */
  number: string
  series: string | null
  currency: string
  /** Gross amount, minor units. */
  amount: number
  tax: number
  documentDate: IsoDate
  /** Instalments or one part; they add up to the amount. */
  parts: { dueDate: IsoDate; amount: number }[]
  discounts: { date: IsoDate; amount: number }[]
  /** Base units for one unit of the currency, a decimal text; "1" for the base currency. */
  rate: string
  order: string
  /** It was open before these books began: against opening balances, not revenue. */
  opening?: boolean
  text: string
}

/** How far ahead of the business date a document may be dated. */
export const DOCUMENT_DAYS_AHEAD = 31

/**
 * Posts an invoice, credit note, debit note or fee. `firstKey` is the first negative key its items may use.
 * Each instalment carries its share of tax and discount, so that it can be paid, corrected and reversed by
 * itself.
 */
export function postDocument(state: LedgerState, intent: DocumentIntent, firstKey = -1): Decision {
  const refusals = [...amountRefusals(intent.amount, 'amount')]
  if (!isCurrency(intent.currency))
    refusals.push(
      refuse(
        'currency.known',
        'currency',
        `${intent.currency} is not a currency`,
        'use an ISO 4217 code such as EUR',
      ),
    )
  if (!isIsoDate(intent.documentDate))
    refusals.push(
      refuse('date.real', 'date', `"${intent.documentDate}" is not a date`, 'write it as YYYY-MM-DD'),
    )
  else {
    refusals.push(...periodRefusals(state, intent.documentDate, 'date'))
    if (daysBetween(state.today, intent.documentDate) > DOCUMENT_DAYS_AHEAD) {
      refusals.push(
        refuse(
          'date.future',
          'date',
          `${intent.documentDate} is more than ${DOCUMENT_DAYS_AHEAD} days ahead of today, ${state.today}`,
          'check the year',
        ),
      )
    }
    for (const part of intent.parts) {
      if (!isIsoDate(part.dueDate) || part.dueDate < intent.documentDate) {
        refusals.push(
          refuse(
            'date.due',
            'due_date',
            `due on ${part.dueDate}, before the document date ${intent.documentDate}`,
            'a document is due on its date or later',
          ),
        )
      }
    }
  }
  if (intent.tax < 0 || intent.tax >= intent.amount)
    refusals.push(
      refuse(
        'amount.tax',
        'tax',
        'the tax must be zero or more and less than the amount',
        'the amount is gross, tax included',
      ),
    )
  if (intent.parts.reduce((a, p) => a + p.amount, 0) !== intent.amount)
    refusals.push(
      refuse('amount.parts', 'parts', 'the instalments do not add up to the amount', 'let them add up'),
    )

  return decide(refusals, () => {
    const side = sideOf(intent.kind)
    const sign = side === 'debit' ? 1 : -1
    const base = convert(intent.amount, intent.currency, state.base, intent.rate)
    const taxBase = convert(intent.tax, intent.currency, state.base, intent.rate)
    const weights = intent.parts.map(p => p.amount)
    const bases = split(base, weights)
    const taxes = split(intent.tax, weights)
    const taxBases = split(taxBase, weights)
    const discounts = intent.discounts.map(d => ({ date: d.date, amounts: split(d.amount, weights) }))
    const items = intent.parts.map((part, i) =>
      newItem({
        id: firstKey - i,
        customerId: intent.customerId,
        kind: intent.kind,
        number: intent.number,
        series: intent.series,
        part: i + 1,
        currency: intent.currency,
        side,
        amount: part.amount,
        baseAmount: bases[i]!,
        tax: taxes[i]!,
        documentDate: intent.documentDate,
        dueDate: part.dueDate,
        postingDate: intent.documentDate,
        discounts: discounts.map(d => ({ date: d.date, amount: d.amounts[i]! })).filter(d => d.amount > 0),
        order: intent.order,
        text: intent.text,
      }),
    )
    const line = (purpose: Purpose, amount: number, baseAmount: number, item: number): Line => ({
      account: state.chart[purpose],
      currency: intent.currency,
      amount: sign * amount,
      baseAmount: sign * baseAmount,
      customerId: intent.customerId,
      item,
      allocation: null,
    })
    const income = intent.opening ? 'opening' : incomeOf(intent.kind)
    const lines = items.flatMap((item, i) => {
      // Its tax was declared where it was invoiced.
      const net = intent.opening
        ? { amount: -item.amount, base: -item.baseAmount }
        : { amount: item.tax - item.amount, base: taxBases[i]! - item.baseAmount }
      const own = [
        line('receivables', item.amount, item.baseAmount, item.id),
        line(income, net.amount, net.base, item.id),
      ]
      return item.tax && !intent.opening ? [...own, line('tax', -item.tax, -taxBases[i]!, item.id)] : own
    })
    return {
      kind: 'document',
      date: intent.documentDate,
      text: intent.text,
      items,
      allocations: [],
      lines,
    }
  })
}
