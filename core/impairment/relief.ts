import { addDays, type IsoDate } from '../calendar'

/*
 * The tax in a debt that is lost may be claimed back, under conditions that differ by country. The house
 * states them in Setup; what ships is a start, from memory, for the house's tax adviser to confirm.
 */

/** Conditions of a country. All that are stated must hold; an insolvency alone is enough where it says so. */
export interface ReliefRule {
  /** So many days after the due date; null: age alone never gives it. */
  days: number | null
  /** A reminder of at least this level must have been sent; 0 for none. */
  reminded: number
  /** Whether an insolvency of the customer is enough by itself. */
  insolvency: boolean
}

export interface ReliefPolicy {
  /** Where no country says otherwise; null: tax is never claimed back. */
  rest: ReliefRule | null
  byCountry: Readonly<Record<string, ReliefRule | null>>
}

/**
 * Great Britain and Ireland know a term after the due date (six and, here, ten months), Germany and Austria
 * the loss of the claim in an insolvency. From memory, not checked against the laws.
 */
export const RELIEF_START: ReliefPolicy = {
  rest: null,
  byCountry: {
    GB: { days: 183, reminded: 0, insolvency: false },
    IE: { days: 304, reminded: 1, insolvency: true },
    DE: { days: null, reminded: 0, insolvency: true },
    AT: { days: null, reminded: 0, insolvency: true },
  },
}

/** What is known of an item that was given up. */
export interface Evidence {
  dueDate: IsoDate
  remindedLevel: number
  insolvent: boolean
}

/** Whether relief may be claimed, why or why not, and from when by age alone. */
export interface Relief {
  may: boolean
  why: string
  from: IsoDate | null
}

export const reliefRuleOf = (policy: ReliefPolicy, country: string): ReliefRule | null =>
  country in policy.byCountry ? policy.byCountry[country]! : policy.rest

/** Relief of one item on a day. */
export function reliefOn(rule: ReliefRule | null, evidence: Evidence, day: IsoDate): Relief {
  if (!rule) return { may: false, why: 'the country knows no relief, or Setup states none', from: null }
  if (rule.insolvency && evidence.insolvent)
    return { may: true, why: 'the customer is insolvent', from: null }
  if (rule.days === null) return { may: false, why: 'only an insolvency gives it', from: null }
  const from = addDays(evidence.dueDate, rule.days)
  if (evidence.remindedLevel < rule.reminded)
    return { may: false, why: `a reminder of level ${rule.reminded} must have been sent`, from }
  if (day < from) return { may: false, why: `${rule.days} days after it was due are not over`, from }
  return { may: true, why: `it was due ${rule.days} days ago or more`, from }
}
