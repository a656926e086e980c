import type { IsoDate } from '../calendar'
import type { Convention } from '../interest'
import { percentUnits, RATE_SCALE } from '../interest'
import { refuse, type Refusal } from '../ledger'
import { divideRounded } from '../money'

/** Amounts by currency, minor units. */
export type ByCurrency = Readonly<Record<string, number>>

/** A fee that is a share of what is claimed, not less than the floor and not more than the cap. */
export interface FeeShare {
  /** Percent of the overdue amount, a decimal text. */
  percent: string
  floor: ByCurrency
  cap: ByCurrency
}

/** What follows from a notice of a level, beside the letter. */
export interface Consequence {
  /** Orders are held while an item of this level is open. */
  hold: boolean
  /** The sales contact gets a message. */
  tellSales: boolean
  /** It is proposed to hand the account over to an agency or lawyer. */
  handOver: boolean
}

export interface Level {
  /** Days late from which the level is due. */
  days: number
  /** Days that must have passed since the notice before. */
  sincePrevious: number
  /** Least overdue amount of the notice, minor units by currency. */
  minimum: ByCurrency
  /** Items below this cause no notice, minor units by currency. */
  minimumItem: ByCurrency
  /** Fixed fee, minor units by currency. */
  fee: ByCurrency
  /** Instead of a fixed fee; null: the fixed one. */
  feeShare: FeeShare | null
  /** Late interest is claimed with it. */
  interest: boolean
  deadlineDays: number
  /** How the letter goes; `any`: by e-mail where an address is known. */
  channel: 'any' | 'email' | 'print'
  consequence: Consequence
}

/** Late interest of a policy. */
export interface PolicyInterest {
  convention: Convention
  /** Percent a year; with a reference the margin above it. */
  percent: string
  reference: string | null
  /** Whether a rate floats or is locked when interest starts; by country of the debtor, else `otherwise`. */
  basis: { otherwise: 'floating' | 'locked'; byCountry: Readonly<Record<string, 'floating' | 'locked'>> }
  /** Less than this is not claimed, minor units by currency. */
  minimum: ByCurrency
}

/**
 * How letters are cut. `account`: one for all, at the highest level. `level`: one for each level. `item`: one
 * for each item.
 */
export const LETTER_CUTS = {
  account: 'One letter, the highest level speaks for all',
  level: 'A letter for each level',
  item: 'A letter for each item',
} as const
export type LetterCut = keyof typeof LETTER_CUTS

/** What the computation needs of a policy, as it is valid on a day. */
export interface Policy {
  code: string
  validFrom: IsoDate
  letters: LetterCut
  /** Days beyond the due date, or the deadline of the notice before, that are let pass. */
  graceDays: number
  levels: readonly Level[]
  interest: PolicyInterest | null
  /** Percent of tax on top of a fee; interest and compensation bear none (common practice). */
  feeTax: string
  /** Fees and interest may cause a notice of their own, and bear interest. */
  chargesCause: boolean
  chargesBearInterest: boolean
}

/** The share of an amount, rounded half away from zero. */
export const percentOf = (amount: number, percent: string): number =>
  Number(divideRounded(BigInt(amount) * BigInt(percentUnits(percent)), BigInt(RATE_SCALE) * 100n))

/**
 * The fee of a level for a claim, net of tax; `undefined`: it has fees, but none in this currency, which is
 * told and not guessed.
 */
export function feeOf(level: Level, currency: string, claimed: number): number | undefined {
  const { feeShare, fee } = level
  if (!feeShare) return currency in fee || !Object.keys(fee).length ? (fee[currency] ?? 0) : undefined
  const share = percentOf(claimed, feeShare.percent)
  const floor = feeShare.floor[currency] ?? 0
  const cap = feeShare.cap[currency] ?? Infinity
  return Math.min(cap, Math.max(floor, share))
}

/** What is wrong with a policy, with a path for each fault; empty when nothing is. */
export function policyRefusals(policy: Pick<Policy, 'levels' | 'feeTax' | 'interest'>): Refusal[] {
  const refusals: Refusal[] = []
  policy.levels.forEach((level, i) => {
    const before = policy.levels[i - 1]
    const path = `levels.${i}`
    if (before && level.days <= before.days)
      refusals.push(
        refuse(
          'policy.rise',
          `${path}.days`,
          `level ${i + 1} must be due later than level ${i}`,
          `more than ${before.days} days`,
        ),
      )
    if (level.interest && !policy.interest)
      refusals.push(
        refuse(
          'policy.interest',
          `${path}.interest`,
          `level ${i + 1} claims interest, and the policy has none`,
          'say which interest, or leave it out here',
        ),
      )
    for (const [currency, cap] of Object.entries(level.feeShare?.cap ?? {}))
      if (cap < (level.feeShare?.floor[currency] ?? 0))
        refusals.push(
          refuse(
            'policy.cap',
            `${path}.feeShare.cap.${currency}`,
            `the cap in ${currency} is below the floor`,
            'let the cap be the floor or more',
          ),
        )
  })
  return refusals
}
