import { nextPayDay, type Pattern } from './pattern'

/*
 * What a contact is worth now: the money that would otherwise come late, times the chance that a contact
 * changes it. The numbers here are ours; `npm run bench -- calls` shows what they bring against known payers.
 */

/** What somebody says who has no history: about a week, give or take a week. */
const NO_PATTERN: Pattern = { usual: 7, spread: 7, payDay: null }
/** A pattern is never sharper than this: post, weekend, bank. */
const LEAST_SPREAD = 3

/** The day by which money for an item comes as it usually does, with the spread it usually has. */
export function usualBy(due: number, pattern: Pattern | null): { day: number; spread: number } {
  const { usual, spread, payDay } = pattern ?? NO_PATTERN
  const expected = due + Math.max(0, usual)
  const day = payDay === null ? expected : nextPayDay(Math.max(due, expected - 3), payDay)
  return { day, spread: Math.max(LEAST_SPREAD, spread) }
}

/**
 * The chance, 0 to 1, that an overdue item is not coming by itself soon: small while it is no later than it
 * usually is, nearly certain at three spreads beyond.
 */
export function stuck(today: number, due: number, pattern: Pattern | null): number {
  return today <= due ? 0 : stuckBeyond(today, usualBy(due, pattern))
}

/** The same when the day by which the money usually comes is known. */
export function stuckBeyond(today: number, { day, spread }: { day: number; spread: number }): number {
  const beyond = (today - day) / spread
  return 1 / (1 + Math.exp(-(beyond - 1) * 1.8))
}

/** What is known of an account beside its items. Days since 1970. */
export interface Contacted {
  /** The day of the last call on which somebody was reached; null: never. */
  reachedOn: number | null
  /** Tries since without reaching anybody. */
  missed: number
  /** The day of the last reminder; null: none. */
  remindedOn: number | null
  /** A promise was broken since the last call. */
  brokenPromise: boolean
  held: boolean
  /** Calls in which somebody was reached since it paid last. */
  inVain: number
}

/** After a call it takes about so many days until another one changes anything. */
const CALL_DAYS = 6
/** A reminder works by itself for about so many days. */
const REMINDER_DAYS = 5
/** Debts grow cold: by this many days late beyond the first three months a call does half as much. */
const COLD_DAYS = 120
const WARM_DAYS = 90
/** Who paid nothing for so long while something is overdue has stopped paying: a call rarely helps. */
const STOPPED_DAYS = 75

/** The chance, 0 to 1, that a contact today moves money of which the oldest is so many days late. */
export function chanceOf(
  late: number,
  contact: Contacted,
  today: number,
  lastPaid: number | null = null,
): number {
  let chance = 0.55
  if (late > WARM_DAYS) chance *= Math.pow(0.5, (late - WARM_DAYS) / COLD_DAYS)
  if (contact.reachedOn !== null) chance *= 1 - Math.exp(-Math.max(0, today - contact.reachedOn) / CALL_DAYS)
  if (contact.remindedOn !== null && today - contact.remindedOn < REMINDER_DAYS) chance *= 0.6
  chance *= Math.pow(0.85, Math.min(4, contact.missed))
  chance *= Math.pow(0.6, Math.min(4, contact.inVain))
  if (lastPaid !== null && late > STOPPED_DAYS / 2 && today - lastPaid > STOPPED_DAYS) chance *= 0.35
  if (contact.brokenPromise) chance *= 1.3
  if (contact.held) chance *= 1.15
  return Math.min(0.95, chance)
}
