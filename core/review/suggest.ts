import { RISK_CLASSES, type RiskClass } from '../accounts'

/*
 * What a review suggests: a risk class by the probability, and a limit by what the account needs. The bands,
 * the shares and the months are ours; that a limit follows need and risk is common practice.
 */

interface Band {
  /** Up to this probability. */
  most: number
  /** Of what the account needs, how much it gets. */
  share: number
  /** Looked at again after so many months. */
  months: number
}

export const RISK_BANDS: Readonly<Record<RiskClass, Band>> = {
  A: { most: 0.05, share: 1, months: 12 },
  B: { most: 0.1, share: 1, months: 12 },
  C: { most: 0.2, share: 0.8, months: 6 },
  D: { most: 0.4, share: 0.5, months: 3 },
  E: { most: 1, share: 0, months: 1 },
}

/** Room above the most that was open: an account that grows is not stopped at once. */
const ROOM = 1.2

export interface SuggestAsk {
  /** Within a year; null while nothing is known of the account. */
  probability: number | null
  /** More than 90 days late already. */
  isLongLate: boolean
  /** The most that was open in the last year; minor units of the limit's currency. */
  most: number
  /** Minor units of one unit of that currency, as 100. */
  unit: number
}

export interface Suggestion {
  riskClass: RiskClass
  /** Minor units of the limit's currency. */
  limit: number
  /** Months until it is looked at again. */
  months: number
  reasons: string[]
}

/** Up to two leading digits, upwards: 41,300 as 42,000. */
export function roundedUp(amount: number, unit: number): number {
  if (amount <= 0) return 0
  const units = amount / unit
  const step = Math.max(1, 10 ** (Math.floor(Math.log10(units)) - 1))
  return Math.ceil(units / step) * step * unit
}

/** Null while nothing is known to suggest anything by. `money`: an amount in words. */
export function suggest(
  { probability, isLongLate, most, unit }: SuggestAsk,
  money: (amount: number) => string,
): Suggestion | null {
  if (probability === null && !isLongLate) return null
  const classes = Object.keys(RISK_CLASSES) as RiskClass[]
  const riskClass = isLongLate ? 'E' : classes.find(c => probability! <= RISK_BANDS[c].most)!
  const { share, months } = RISK_BANDS[riskClass]
  const needed = Math.round(most * ROOM)
  const limit = roundedUp(needed * share, unit)
  const risk = isLongLate
    ? 'it is more than 90 days late now'
    : `${Math.round(probability! * 1000) / 10} % to be more than 90 days late within a year`
  return {
    riskClass,
    limit,
    months,
    reasons: [
      `Class ${riskClass}, risk ${RISK_CLASSES[riskClass]}: ${risk}.`,
      most > 0
        ? `At most ${money(most)} was open in the last year; with a fifth of room that is ${money(needed)}.`
        : 'Nothing was open in the last year: it needs no limit.',
      ...(most > 0 ? [shareText(riskClass, share)] : []),
      `To be looked at again in ${months === 1 ? 'a month' : `${months} months`}.`,
    ],
  }
}

function shareText(riskClass: RiskClass, share: number): string {
  if (share === 0) return `Class ${riskClass} gets no further credit: what is open is to be paid first.`
  return share === 1
    ? `Class ${riskClass} gets all of it.`
    : `Class ${riskClass} gets ${Math.round(share * 100)} % of it.`
}
