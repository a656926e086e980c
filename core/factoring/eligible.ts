import { daysBetween, type IsoDate } from '../calendar'
import { amountWords, share, WHOLE } from '../money'
import type { Facility } from './facility'

/*
 * Which invoices a factor may be offered, and why the others are left out.
 */

/** An open invoice, with all that decides whether it may be sold. */
export interface Candidate {
  itemId: number
  number: string
  customerId: number
  customer: string
  country: string
  class: string
  currency: string
  /** What is open, minor units and base. */
  open: number
  base: number
  documentDate: IsoDate
  dueDate: IsoDate
  /** The factor it lies with already; empty without. */
  atFactor: string
  /** Why the customer does not pay it; empty when nothing is disputed. */
  disputed: string
  /** The collection that it is in; empty for none. */
  collection: string
}

/** What lies with the factor already, base minor units. */
export interface InFacility {
  total: number
  byDebtor: ReadonlyMap<number, number>
}

export const LEFT_OUT = {
  sold: 'With a factor already',
  nothing: 'Nothing open',
  currency: 'Not in its currencies',
  disputed: 'Disputed',
  collection: 'Collection on its way',
  country: 'Not of its countries',
  class: 'Not of its classes',
  least: 'Too small',
  term: 'Term too long',
  age: 'Too old',
  'debtor-limit': 'Above the limit of the debtor',
  concentration: 'Too much of one debtor',
  limit: 'Above the limit',
} as const
export type LeftOutRule = keyof typeof LEFT_OUT

export interface LeftOut<C extends Candidate = Candidate> {
  candidate: C
  rule: LeftOutRule
  why: string
}

/** Why a single invoice is not bought, whatever else there is; null when nothing is in its way. */
function ownReason(f: Facility, c: Candidate, today: IsoDate): [LeftOutRule, string] | null {
  const { eligible } = f
  const age = daysBetween(c.documentDate, today)
  const term = daysBetween(c.documentDate, c.dueDate)
  if (c.atFactor) return ['sold', `it lies with ${c.atFactor}`]
  if (c.open <= 0) return ['nothing', 'it is paid']
  if (!f.currencies.includes(c.currency)) return ['currency', `${f.name} buys in ${f.currencies.join(', ')}`]
  if (c.disputed) return ['disputed', c.disputed]
  if (c.collection) return ['collection', `it is in ${c.collection}`]
  if (eligible.countries.length && !eligible.countries.includes(c.country))
    return ['country', `the debtor is in ${c.country || 'no country'}`]
  if (eligible.classes.length && !eligible.classes.includes(c.class))
    return ['class', `the debtor is of class ${c.class || 'none'}`]
  if (c.open < eligible.least) return ['least', `below ${amountWords(eligible.least, c.currency)}`]
  if (eligible.mostTerm !== null && term > eligible.mostTerm)
    return ['term', `${term} days, at most ${eligible.mostTerm}`]
  if (eligible.mostAge !== null && age > eligible.mostAge)
    return ['age', `${age} days old, at most ${eligible.mostAge}`]
  return null
}

/** What one debtor may have with the factor, base minor units; Infinity without a bound. */
function mostOfDebtor(f: Facility): { most: number; rule: LeftOutRule } {
  const byShare =
    f.concentration !== null && f.limit !== null ? share(f.limit, f.concentration, WHOLE) : Infinity
  const byLimit = f.debtorLimit ?? Infinity
  return byLimit <= byShare
    ? { most: byLimit, rule: 'debtor-limit' }
    : { most: byShare, rule: 'concentration' }
}

/**
 * The invoices that the terms allow, taken in the order given until the limits are full; and every other one
 * with its reason.
 */
export function proposeSchedule<C extends Candidate>(
  facility: Facility,
  candidates: readonly C[],
  there: InFacility,
  today: IsoDate,
  base: string,
): { chosen: C[]; leftOut: LeftOut<C>[] } {
  const chosen: C[] = []
  const leftOut: LeftOut<C>[] = []
  const byDebtor = new Map(there.byDebtor)
  const { most, rule } = mostOfDebtor(facility)
  let total = there.total
  for (const candidate of candidates) {
    const leave = (why: [LeftOutRule, string]) => leftOut.push({ candidate, rule: why[0], why: why[1] })
    const own = ownReason(facility, candidate, today)
    if (own) {
      leave(own)
      continue
    }
    const ofDebtor = (byDebtor.get(candidate.customerId) ?? 0) + candidate.base
    if (ofDebtor > most) {
      leave([rule, `${amountWords(ofDebtor, base)} of the debtor, at most ${amountWords(most, base)}`])
      continue
    }
    if (facility.limit !== null && total + candidate.base > facility.limit) {
      const all = amountWords(total + candidate.base, base)
      leave(['limit', `${all} in all, at most ${amountWords(facility.limit, base)}`])
      continue
    }
    byDebtor.set(candidate.customerId, ofDebtor)
    total += candidate.base
    chosen.push(candidate)
  }
  return { chosen, leftOut }
}
