import { addDays, type IsoDate } from '../calendar'
import { postDocument } from '../documents'
import { refuse, refused } from '../ledger/rules'
import type { Decided, LedgerState, Posting, Refusal } from '../ledger/types'
import { rateOf, rateRefusals } from '../rates'
import { sumOf } from '../interest'
import type { StatutoryAnswer, StatutoryClaim } from './statutory'

export interface ClaimState {
  ledger: LedgerState
  customerId: number
  asOf: IsoDate
  answer: StatutoryAnswer
}

export interface ClaimAsk {
  itemIds: readonly number[]
  /** Either may be waived. */
  interest: boolean
  compensation: boolean
}

/** Which posting belongs to which debt. */
export interface Claimed {
  interest: { claims: StatutoryClaim[]; posting: number }[]
  compensation: { claim: StatutoryClaim; posting: number }[]
}

/** Days until a claim is to be paid. Ours. */
const PAYABLE_DAYS = 14

/**
 * Claims by law for overdue items: interest in one document for each currency, compensation in one for each
 * debt, once.
 */
export function decideClaim(state: ClaimState, ask: ClaimAsk): Decided<Claimed> {
  const { answer } = state
  if (!answer.ok)
    return refused([
      answer.why === 'no rule'
        ? refuse(
            'claim.rule',
            'customer',
            'no law of this country is known to us',
            'claim it by a policy instead',
          )
        : refuse(
            'claim.rate',
            'customer',
            `no ${answer.missing} rate is known for ${answer.day}`,
            'enter it under Setup, Reminders',
          ),
    ])
  const wanted = new Set(ask.itemIds)
  const chosen = answer.claims.filter(c => wanted.has(c.itemId))
  const found = new Set(chosen.map(c => c.itemId))
  const refusals: Refusal[] = ask.itemIds.flatMap((id, n) =>
    found.has(id)
      ? []
      : [
          refuse(
            'claim.item',
            `itemIds.${n}`,
            'this is no overdue item of the account',
            'choose one of the list',
          ),
        ],
  )
  const facts: Claimed = { interest: [], compensation: [] }
  const postings: Posting[] = []
  const post = (kind: 'interest' | 'compensation', currency: string, amount: number, text: string) => {
    refusals.push(...rateRefusals(state.ledger, currency, state.asOf, 'itemIds'))
    if (refusals.length) return -1
    const decision = postDocument(state.ledger, {
      customerId: state.customerId,
      kind,
      number: '',
      series: kind,
      currency,
      amount,
      tax: 0,
      documentDate: state.asOf,
      parts: [{ dueDate: addDays(state.asOf, PAYABLE_DAYS), amount }],
      discounts: [],
      rate: rateOf(state.ledger, currency, state.asOf)!,
      order: '',
      text,
    })
    if (!decision.ok) refusals.push(...decision.refusals)
    else postings.push(decision.posting)
    return postings.length - 1
  }
  if (ask.interest)
    for (const currency of new Set(chosen.map(c => c.currency))) {
      const own = chosen.filter(c => c.currency === currency && c.interest.length)
      const amount = own.reduce((sum, c) => sum + sumOf(c.interest), 0)
      if (amount > 0)
        facts.interest.push({
          claims: own,
          posting: post('interest', currency, amount, `Late interest, ${answer.rule.name}`),
        })
    }
  if (ask.compensation)
    for (const claim of chosen.filter(c => c.compensation > 0))
      facts.compensation.push({
        claim,
        posting: post(
          'compensation',
          answer.rule.compensation.currency,
          claim.compensation,
          `Compensation for ${claim.number}, ${answer.rule.name}`,
        ),
      })
  if (!refusals.length && !postings.length)
    refusals.push(
      refuse(
        'claim.some',
        'itemIds',
        'nothing is left to claim of these',
        'choose items that are late and not claimed yet',
      ),
    )
  return refusals.length ? refused(refusals) : { ok: true, postings, facts }
}
