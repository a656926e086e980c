import { newItem } from '../ledger/item'
import { KINDS } from '../ledger/kinds'
import { assertBalanced, baseLeaving, linkLines, refuse, refused } from '../ledger/rules'
import type { Decided, LedgerState, Posting, Refusal, StateItem } from '../ledger/types'
import { daysBetween, type IsoDate } from '../calendar'
import { amountWords } from '../money'

/*
 * Small credits that nobody claims. After a term of the house, or of the law of the customer's country, a
 * person decides whether they become income or are owed further outside the account.
 */

export interface LapseAsk {
  itemIds: readonly number[]
  to: 'income' | 'owed'
  reason: string
}

/** What the house says of unclaimed credits, from Setup. */
export interface LapseTerms {
  /** Days that a credit lies unclaimed before it may be taken off; by country where the law says so. */
  days: number
  byCountry: Readonly<Record<string, { days: number; to: 'income' | 'owed' }>>
  /** Credits above this, base minor units, are never taken off: they are refunded. */
  most: number
}

/** What holds for a customer of a country. */
export function lapseTermsOf(
  terms: LapseTerms,
  country: string,
): { days: number; to: 'income' | 'owed' | null } {
  const own = terms.byCountry[country]
  return own ?? { days: terms.days, to: null }
}

export interface LapseState {
  ledger: LedgerState
  terms: LapseTerms
  countries: ReadonlyMap<number, string>
}

function lapseRefusals(
  state: LapseState,
  item: StateItem | undefined,
  ask: LapseAsk,
  path: string,
): Refusal[] {
  if (!item || item.side !== 'credit' || item.open <= 0 || KINDS[item.kind].born)
    return [refuse('lapse.credit', path, 'this is no open credit', 'reload the list and choose again')]
  const rule = lapseTermsOf(state.terms, state.countries.get(item.customerId) ?? '')
  const lies = daysBetween(item.postingDate, state.ledger.today)
  const refusals: Refusal[] = []
  if (lies < rule.days)
    refusals.push(
      refuse(
        'lapse.early',
        path,
        `${item.number} has lain for ${lies} days, the term is ${rule.days}`,
        'wait, or refund it',
      ),
    )
  if (item.baseOpen > state.terms.most)
    refusals.push(
      refuse(
        'lapse.large',
        path,
        `${item.number} is more than what may be taken off`,
        `refund it, or raise the limit of ${amountWords(state.terms.most, state.ledger.base)} in Setup`,
      ),
    )
  if (rule.to !== null && rule.to !== ask.to)
    refusals.push(
      refuse(
        'lapse.country',
        'to',
        `for customers of ${state.countries.get(item.customerId)} unclaimed credits ` +
          (rule.to === 'income' ? 'become income' : 'stay owed'),
        'choose what the rule of the country says',
      ),
    )
  return refusals
}

/** Takes credits off their accounts; each becomes income, or is owed outside the account. */
export function decideLapse(state: LapseState, ask: LapseAsk): Decided {
  const { ledger } = state
  const refusals: Refusal[] = []
  if (!ask.itemIds.length)
    refusals.push(refuse('lapse.some', 'itemIds', 'nothing was chosen', 'choose credits of the list'))
  if (!ask.reason.trim())
    refusals.push(refuse('lapse.reason', 'reason', 'this needs a reason', 'say why in a few words'))
  ask.itemIds.forEach((id, n) =>
    refusals.push(...lapseRefusals(state, ledger.items.get(id), ask, `itemIds.${n}`)),
  )
  if (new Set(ask.itemIds).size !== ask.itemIds.length)
    refusals.push(refuse('lapse.twice', 'itemIds', 'a credit is named twice', 'name each once'))
  if (refusals.length) return refused(refusals)
  const postings = ask.itemIds.map(id => lapseOf(ledger, ledger.items.get(id)!, ask, ledger.today))
  return { ok: true, postings, facts: null }
}

function lapseOf(ledger: LedgerState, credit: StateItem, ask: LapseAsk, date: IsoDate): Posting {
  const amount = credit.open
  const base = baseLeaving(credit, amount)
  const text = `Unclaimed: ${ask.reason.trim()}`
  const { chart } = ledger
  const item = newItem({
    id: -1,
    customerId: credit.customerId,
    kind: 'lapse',
    currency: credit.currency,
    amount,
    baseAmount: base,
    postingDate: date,
    text,
  })
  const allocation = {
    id: -1,
    debitItemId: -1,
    creditItemId: credit.id,
    amount,
    debitBase: base,
    creditBase: base,
    effective: date,
    undoesId: null,
  }
  const line = { currency: credit.currency, customerId: credit.customerId, item: -1, allocation: null }
  const goesTo = chart[ask.to === 'income' ? 'lapsed-income' : 'lapsed-owed']
  const working = new Map([
    [credit.id, credit],
    [-1, { ...item, open: amount, baseOpen: base, reversed: false, moves: [] }],
  ])
  const lines = [
    { ...line, account: chart.receivables, amount, baseAmount: base },
    { ...line, account: goesTo, amount: -amount, baseAmount: -base },
    ...linkLines({ chart, items: working }, allocation),
  ]
  assertBalanced(lines)
  return { kind: 'refund', date, text, items: [item], allocations: [allocation], lines }
}
