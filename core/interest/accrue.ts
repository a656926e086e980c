import { addDays, type IsoDate } from '../calendar'
import { divideRounded } from '../money'
import type { Move } from '../ledger'
import { yearShare, type Convention } from './dayCount'
import { percentText, percentUnits, rateOn, RATE_SCALE, staleFrom, type ReferenceRate } from './rates'

/**
 * What late payment costs. `floating`: each day bears the rate in force on it (a rate of 1 July counts on
 * 1 July). `locked`: the rate in force when interest starts holds until the debt is paid.
 */
export interface InterestTerms {
  convention: Convention
  /** Percent a year; with a reference it is the margin above it. */
  percent: string
  /** A reference rate of the table; null: a fixed rate. */
  reference: string | null
  basis: 'floating' | 'locked'
}

/** What interest is asked for: an item with what was taken off it, by day. Minor units. */
export interface Debt {
  amount: number
  dueDate: IsoDate
  moves: readonly Move[]
  /** A part that bears no interest, such as what is disputed. */
  without: number
  /** The last day that was charged before; null: none. */
  chargedThrough: IsoDate | null
}

/** A period of one rate and one balance: what a letter shows, rounded once. */
export interface InterestLine {
  /** First and last day, both counted. */
  from: IsoDate
  to: IsoDate
  /** As the convention counts them. */
  days: number
  /** Percent a year. */
  rate: string
  /** What it is charged on, and what it comes to: minor units. */
  base: number
  amount: number
}

export type Accrued = { ok: true; lines: InterestLine[] } | { ok: false; missing: string; day: IsoDate }

/** Interest on a balance for a share of a year: rounded once, half away from zero. */
function interestOn(base: number, units: number, share: { numerator: number; denominator: number }): number {
  const above = BigInt(base) * BigInt(units) * BigInt(share.numerator)
  return Number(divideRounded(above, BigInt(RATE_SCALE) * 100n * BigInt(share.denominator)))
}

/**
 * What bears interest on a day. It runs through the day of payment, so what was taken off on a day counts
 * from the day after.
 */
function balanceOn(debt: Debt, day: IsoDate): number {
  let taken = 0
  for (const m of debt.moves) if (m.effective < day) taken += m.amount
  return Math.max(0, debt.amount - taken - debt.without)
}

/** The first days of periods: where the balance or the rate is another than the day before. */
function turns(debt: Debt, terms: InterestTerms, rates: readonly ReferenceRate[]): IsoDate[] {
  const balances = debt.moves.map(m => addDays(m.effective, 1))
  const isFloating = terms.reference !== null && terms.basis === 'floating'
  return isFloating
    ? [...balances, ...rates.filter(r => r.code === terms.reference).map(r => r.from)]
    : balances
}

/**
 * Interest of an item, from the day after its due date (or after what was charged before) through `until`: a
 * line for each period of one rate and one balance. Answers which rate is missing, and on which day, when the
 * table does not tell one.
 */
export function accrue(
  debt: Debt,
  terms: InterestTerms,
  rates: readonly ReferenceRate[],
  until: IsoDate,
): Accrued {
  const starts = addDays(debt.dueDate, 1)
  const first = debt.chargedThrough === null ? starts : laterOf(starts, addDays(debt.chargedThrough, 1))
  const days = [first]
  for (const day of turns(debt, terms, rates))
    if (day > first && day <= until && !days.includes(day)) days.push(day)
  days.sort()
  const lines: InterestLine[] = []
  for (const [n, from] of days.entries()) {
    const next = days[n + 1]
    const to = next === undefined ? until : addDays(next, -1)
    const base = to < from ? 0 : balanceOn(debt, from)
    if (base === 0) continue
    const day = terms.basis === 'locked' ? starts : from
    const reference = terms.reference === null ? null : rateOn(rates, terms.reference, day)
    if (reference === undefined) return { ok: false, missing: terms.reference!, day }
    if (reference && terms.basis === 'floating') {
      const stale = staleFrom(reference)
      if (stale <= to) return { ok: false, missing: reference.code, day: stale }
    }
    const units = percentUnits(terms.percent) + (reference ? percentUnits(reference.percent) : 0)
    const share = yearShare(terms.convention, from, to)
    const amount = units <= 0 ? 0 : interestOn(base, units, share)
    if (amount > 0) lines.push({ from, to, days: share.days, rate: percentText(units), base, amount })
  }
  return { ok: true, lines }
}

const laterOf = (a: IsoDate, b: IsoDate): IsoDate => (a > b ? a : b)

export const sumOf = (lines: readonly InterestLine[]): number =>
  lines.reduce((sum, line) => sum + line.amount, 0)
