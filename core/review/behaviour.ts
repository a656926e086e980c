import { openOn, type AccountHistory } from './history'

const YEAR = 365
const HALF = 182
/** Later than this is not a matter of the weekend or the post any more. */
const CLEARLY_LATE = 30

/** How an account pays, as of a day. */
export interface Behaviour {
  /** Since the first claim on it. */
  months: number
  /** Of what was paid in the last year, weighted by amount; null when nothing was. */
  daysLate: number | null
  /** Days late of the last half year less those of the one before; null when either has nothing. */
  trend: number | null
  /** Of what was paid in the last year, how much came after its due date, 0 to 1. */
  shareLate: number | null
  /** Of what is open, how much is more than 30 days late, 0 to 1; null when nothing is open. */
  shareOverdue: number | null
  /** Payments that came back in the last year. */
  returned: number
  /** Dates that were promised and came in the last year, and how many of them were missed. */
  promised: number
  broken: number
  /** Paid in the last year, and open now. */
  paid: number
  open: number
}

const sum = (list: readonly number[]): number => list.reduce((a, b) => a + b, 0)

/** Days late weighted by amount, of what was paid after one day and up to another. */
function lateness({ payments }: AccountHistory, after: number, until: number): number | null {
  const counted = payments.filter(p => p.day > after && p.day <= until)
  const paid = sum(counted.map(p => p.amount))
  return paid > 0 ? sum(counted.map(p => p.amount * p.late)) / paid : null
}

/** How an account pays, as it was known on a day; null before anything was claimed. */
export function behaviourOn(history: AccountHistory, day: number): Behaviour | null {
  const first = history.claims.reduce((earliest, c) => Math.min(earliest, c.posted), Infinity)
  if (first > day) return null
  const payments = history.payments.filter(p => p.day > day - YEAR && p.day <= day)
  const paid = sum(payments.map(p => p.amount))
  const recent = lateness(history, day - HALF, day)
  const earlier = lateness(history, day - 2 * HALF, day - HALF)
  const promises = history.promises.filter(p => p.day > day - YEAR && p.day <= day)
  const opens = history.claims.map(claim => ({ claim, open: openOn(claim, day) }))
  const open = sum(opens.map(o => o.open))
  const overdue = sum(opens.filter(o => day - o.claim.due > CLEARLY_LATE).map(o => o.open))
  return {
    months: (day - first) / (YEAR / 12),
    daysLate: lateness(history, day - YEAR, day),
    trend: recent === null || earlier === null ? null : recent - earlier,
    shareLate: paid > 0 ? sum(payments.filter(p => p.late > 0).map(p => p.amount)) / paid : null,
    shareOverdue: open > 0 ? overdue / open : null,
    returned: history.returned.filter(on => on > day - YEAR && on <= day).length,
    promised: promises.length,
    broken: promises.filter(p => !p.kept).length,
    paid,
    open,
  }
}

/** The most that was open at the end of the last twelve months, thirty days apart. */
export function mostOpen(history: AccountHistory, day: number): number {
  const days = Array.from({ length: 12 }, (_, n) => day - n * 30)
  return Math.max(0, ...days.map(on => sum(history.claims.map(claim => openOn(claim, on)))))
}
