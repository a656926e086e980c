import type { IsoDate } from '../calendar'
import { daysLate } from '../calendar'
import { accrue, type InterestLine, type InterestTerms, type ReferenceRate } from '../interest'
import type { ReminderItem } from './notice'

/** What the law of the debtor's country gives for late payment between businesses. */
export interface StatutoryRule {
  name: string
  interest: InterestTerms
  /** Fixed compensation for each debt: the sum for debts under the limit; null: without limit. */
  compensation: { currency: string; bands: readonly { under: number | null; sum: number }[] }
  source: string
}

const EUR_40 = { currency: 'EUR', bands: [{ under: null, sum: 40_00 }] }
const margin = (reference: string, percent: string, basis: InterestTerms['basis']): InterestTerms => ({
  convention: 'actual/365',
  percent,
  reference,
  basis,
})

/** Article 2 (6), 3 and 6 of Directive 2011/7/EU: reference rate + 8 points by half year, and EUR 40. */
const DIRECTIVE: StatutoryRule = {
  name: 'Directive 2011/7/EU',
  interest: margin('ECB', '8', 'floating'),
  compensation: EUR_40,
  source: 'Directive 2011/7/EU, Art. 2, 3, 6',
}
/** States of the euro area whose own law asks for no more than the directive (from memory). */
const EURO_AREA = 'AT BE CY EE ES FI FR GR HR IE IT LT LU LV MT NL PT SI SK'.split(' ')

const RULES: Readonly<Record<string, StatutoryRule>> = {
  ...Object.fromEntries(EURO_AREA.map(country => [country, DIRECTIVE])),
  // BGB § 288 (2) and (5): 9 points above the base rate, lump sum EUR 40 (from memory).
  DE: {
    name: 'BGB § 288',
    interest: margin('DE base', '9', 'floating'),
    compensation: EUR_40,
    source: 'BGB §§ 247, 288 (from memory)',
  },
  // 8 points above the base rate of before the interest starts, fixed for the debt; sections 5A and 6.
  GB: {
    name: 'Late Payment of Commercial Debts (Interest) Act 1998',
    interest: margin('GB base', '8', 'locked'),
    compensation: {
      currency: 'GBP',
      bands: [
        { under: 1_000_00, sum: 40_00 },
        { under: 10_000_00, sum: 70_00 },
        { under: null, sum: 100_00 },
      ],
    },
    source: 'Late Payment of Commercial Debts (Interest) Act 1998, s. 5A; rate order 2002 (from memory)',
  },
}

/** The rule of a debtor's country; undefined where none is known to us. */
export const statutoryRule = (country: string): StatutoryRule | undefined => RULES[country]
export const STATUTORY_COUNTRIES = Object.keys(RULES)

export interface StatutoryClaim {
  itemId: number
  number: string
  daysLate: number
  /** Open amount and currency that it is claimed for. */
  open: number
  currency: string
  interest: InterestLine[]
  /** In the currency of the rule; zero where it was claimed for this item before. */
  compensation: number
}

export type StatutoryAnswer =
  | { ok: true; rule: StatutoryRule; claims: StatutoryClaim[] }
  | { ok: false; why: 'no rule' }
  | { ok: false; why: 'no rate'; missing: string; day: IsoDate }

/**
 * What may be claimed by law for the overdue items of an account: interest by period and compensation once
 * for each debt, by the amount that became late. Disputed parts are left out.
 */
export function statutoryClaims(
  country: string,
  items: readonly ReminderItem[],
  claimedBefore: ReadonlySet<number>,
  rates: readonly ReferenceRate[],
  asOf: IsoDate,
  /** An amount in another currency, minor units; undefined when no exchange rate is known. */
  converted: (amount: number, from: string, to: string) => number | undefined,
): StatutoryAnswer {
  const rule = statutoryRule(country)
  if (!rule) return { ok: false, why: 'no rule' }
  const claims: StatutoryClaim[] = []
  for (const item of items) {
    if (item.isCharge || item.open <= 0 || daysLate(item.dueDate, asOf) <= 0) continue
    const without = item.disputed?.amount ?? 0
    if (without >= item.open) continue
    const accrued = accrue({ ...item, without }, rule.interest, rates, asOf)
    if (!accrued.ok) return { ok: false, why: 'no rate', missing: accrued.missing, day: accrued.day }
    const { currency } = rule.compensation
    const debt = converted(lateAmount(item), item.currency, currency)
    if (debt === undefined)
      return { ok: false, why: 'no rate', missing: `${item.currency} in ${currency}`, day: asOf }
    claims.push({
      itemId: item.id,
      number: item.number,
      daysLate: daysLate(item.dueDate, asOf),
      open: item.open - without,
      currency: item.currency,
      interest: accrued.lines,
      compensation: claimedBefore.has(item.id) ? 0 : compensationOf(rule, debt),
    })
  }
  return { ok: true, rule, claims }
}

/** What was late the day after it was due: payments in time do not count towards the debt. */
const lateAmount = (item: ReminderItem): number =>
  item.amount - item.moves.reduce((sum, m) => (m.effective <= item.dueDate ? sum + m.amount : sum), 0)

/** The fixed sum for a debt of an amount, both in minor units; bands compare in the currency of the rule. */
export function compensationOf({ compensation }: StatutoryRule, debt: number): number {
  return compensation.bands.find(b => b.under === null || debt < b.under)!.sum
}
