import type { IsoDate } from '../calendar'
import { percentUnits, RATE_SCALE, rateOn, type ReferenceRate } from '../interest'
import { share, WHOLE } from '../money'

/*
 * Terms of a factor, and the amounts that follow from them. Rates are basis points: 10,000 is all of it.
 * Amounts are minor units.
 */

/** Ledger accounts of one factor: each has its own, so that trails never mix. */
export interface FactorAccounts {
  /** What we and the factor owe each other: debit, the factor owes us; credit, we owe an advance. */
  current: string
  commission: string
  interest: string
  /** Tax within its commission. */
  tax: string
}

/** What the factor buys. An empty list leaves nothing out. */
export interface Eligible {
  /** Not more days since the invoice was written; null: however old. */
  mostAge: number | null
  /** Not more days from the invoice to its due date. */
  mostTerm: number | null
  countries: readonly string[]
  classes: readonly string[]
  /** At least so much must be open, in the currency of the invoice. */
  least: number
}

export interface Facility {
  id: number
  /** Also the code of its commission. */
  code: string
  name: string
  /** With recourse the loss stays ours: invoices are lent against, and stay. Without it they are sold. */
  recourse: boolean
  /** Whether the debtor is told. */
  disclosed: boolean
  currencies: readonly string[]
  advanceRate: number
  commissionRate: number
  /** At least so much commission for each invoice. */
  commissionFloor: number
  /** Tax on the commission. */
  taxRate: number
  /** Yearly, on what was advanced; on top of the reference rate where there is one. */
  interestRate: number
  /** A reference rate of the house, such as `ECB`; null: the rate is the whole of it. */
  interestReference: string | null
  /** Days of the year that interest is counted by. */
  yearDays: 360 | 365
  /** Base currency: of all that lies with the factor, and of one debtor; null without. */
  limit: number | null
  debtorLimit: number | null
  /** Share of the limit that one debtor may take; null without. */
  concentration: number | null
  /** Unpaid so many days after it was due, an invoice comes back; null: never. */
  recourseDays: number | null
  eligible: Eligible
  accounts: FactorAccounts
}

export interface Commission {
  gross: number
  net: number
  tax: number
}

/** Commission of an invoice by the terms: a share of it, not below the floor, and tax on that. */
export function commissionOf(
  {
    commissionRate,
    commissionFloor,
    taxRate,
  }: Pick<Facility, 'commissionRate' | 'commissionFloor' | 'taxRate'>,
  amount: number,
): Commission {
  const net = Math.max(commissionFloor, share(amount, commissionRate, WHOLE))
  const tax = share(net, taxRate, WHOLE)
  return { gross: net + tax, net, tax }
}

/**
 * A gross amount split into what it costs and its tax. Example: 85.00 at 20 % is 70.83 and 14.17 of tax
 * (common practice).
 */
export function splitGross(gross: number, taxRate: number): Commission {
  const net = share(gross, WHOLE, WHOLE + taxRate)
  return { gross, net, tax: gross - net }
}

export const advanceOn = ({ advanceRate }: Pick<Facility, 'advanceRate'>, amount: number): number =>
  share(amount, advanceRate, WHOLE)

/**
 * Basis points a year that an advance costs on a day: reference and margin; null when no reference rate is in
 * force. Example: `2.15` % and a margin of 350 are 565.
 */
export function yearlyRate(
  { interestRate, interestReference }: Pick<Facility, 'interestRate' | 'interestReference'>,
  table: readonly ReferenceRate[],
  day: IsoDate,
): number | null {
  if (interestReference === null) return interestRate
  const reference = rateOn(table, interestReference, day)
  if (!reference) return null
  return Math.round((percentUnits(reference.percent) * 100) / RATE_SCALE) + interestRate
}

/** Interest on an advance for so many days (actual/360 or actual/365, ISDA definitions, from memory). */
export function interestOn(
  { interestRate, yearDays }: Pick<Facility, 'interestRate' | 'yearDays'>,
  advance: number,
  days: number,
): number {
  return share(advance, interestRate * Math.max(0, days), WHOLE * yearDays)
}

/** Why terms cannot be; empty when they can. */
export function facilityFaults(
  f: Omit<Facility, 'id'>,
): { path: string; message: string; satisfy: string }[] {
  const faults: { path: string; message: string; satisfy: string }[] = []
  const rates = { advanceRate: f.advanceRate, commissionRate: f.commissionRate, taxRate: f.taxRate }
  for (const [path, rate] of Object.entries(rates))
    if (!Number.isInteger(rate) || rate < 0 || rate > WHOLE)
      faults.push({ path, message: `${rate / 100} % is no share`, satisfy: 'between 0 and 100 %' })
  if (f.concentration !== null && f.limit === null)
    faults.push({
      path: 'concentration',
      message: 'a share of the limit needs a limit',
      satisfy: 'give the limit in total, or leave the share out',
    })
  if (!f.currencies.length)
    faults.push({ path: 'currencies', message: 'it buys in no currency', satisfy: 'name at least one' })
  const { current, commission, interest, tax } = f.accounts
  const own = [current, commission, interest]
  if (new Set([...own, tax]).size !== 4)
    faults.push({
      path: 'accounts',
      message: 'one ledger account stands for two things',
      satisfy: 'give four different accounts',
    })
  return faults
}

/** What the house says of factoring, from Setup. */
export interface FactoringPolicy {
  /** What the bank asks for an overdraft, basis points a year: the cost of waiting for the money. */
  overdraft: number
}

/** Where a house begins: our judgement. */
export const FACTORING_POLICY: FactoringPolicy = { overdraft: 950 }
