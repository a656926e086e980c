import { isPayment, LONG_LATE } from '../measures'
import { KINDS } from '../ledger'
import { kindOf, type LedgerImage } from '../image'

/*
 * What one account did, read once from the ledger, so that one can ask how it stood on any day: what it had
 * open, how it paid, and when it was more than 90 days late. Base currency, minor units; days since 1970.
 */

/** A claim on the customer, and what closed it, by day. */
export interface Claim {
  posted: number
  due: number
  amount: number
  closed: { day: number; amount: number }[]
}

export interface AccountHistory {
  claims: Claim[]
  payments: { day: number; late: number; amount: number }[]
  /** Dates that were promised, by the last day on which the money was in time. Not of the ledger: given. */
  promises: { day: number; kept: boolean }[]
  /** Days on which money came back: receipts reversed on a later day than they came. */
  returned: number[]
  /** Spans of more than 90 days late, the last day not in it; Infinity while it lasts. */
  spells: { from: number; to: number }[]
}

/** Less open than this, in base minor units, is no sign of anything: a fee, a cent too few. Ours. */
export const SMALL = 10_000

/** What of a claim is open on a day. */
export function openOn({ posted, amount, closed }: Claim, day: number): number {
  if (posted > day) return 0
  return closed.reduce((left, c) => (c.day <= day ? left - c.amount : left), amount)
}

/** When a claim was more than 90 days late with more than a trifle; null if it was not, up to a last day. */
function spellOf(claim: Claim, last: number): { from: number; to: number } | null {
  const from = Math.max(claim.due + LONG_LATE + 1, claim.posted)
  if (from > last || openOn(claim, from) < SMALL) return null
  const days = claim.closed.map(c => c.day).filter(day => day > from)
  const to = days.sort((a, b) => a - b).find(day => openOn(claim, day) < SMALL)
  return { from, to: to ?? Infinity }
}

/**
 * The history of an account up to a last day, which is today: of what lies behind it nothing is known.
 * `gone`: by row of an allocation, 1 for what was taken back.
 */
export function historyOf(
  image: LedgerImage,
  customerId: number,
  gone: Uint8Array,
  last: number,
): AccountHistory {
  const i = image.items.column
  const a = image.allocations.column
  const history: AccountHistory = { claims: [], payments: [], promises: [], returned: [], spells: [] }
  for (const row of image.itemsOf(customerId)) {
    const kind = kindOf(i.kind[row]!)
    if (kind === 'reversal' && i.debit[row] === 1) {
      for (const link of image.allocationsOf(row)) {
        const credit = a.credit[link]!
        if (KINDS[kindOf(i.kind[credit]!)].money && i.postingDay[row]! > i.postingDay[credit]!)
          history.returned.push(i.postingDay[row]!)
      }
      continue
    }
    if (i.debit[row] === 0 || !KINDS[kind].receivable) continue
    const claim: Claim = { posted: i.postingDay[row]!, due: i.dueDay[row]!, amount: i.base[row]!, closed: [] }
    for (const link of image.allocationsOf(row)) {
      const day = a.effectiveDay[link]!
      claim.closed.push({ day: Math.max(day, claim.posted), amount: a.debitBase[link]! })
      if (gone[link] === 0 && isPayment(image, link))
        history.payments.push({ day, late: day - claim.due, amount: a.debitBase[link]! })
    }
    history.claims.push(claim)
    const spell = spellOf(claim, last)
    if (spell) history.spells.push(spell)
  }
  return history
}

/** Whether the account is more than 90 days late on a day, and when it is next; null if not by then. */
export function spellAfter({ spells }: AccountHistory, day: number): { isIn: boolean; next: number | null } {
  const next = spells.reduce((first, s) => (s.from > day ? Math.min(first, s.from) : first), Infinity)
  return {
    isIn: spells.some(s => s.from <= day && day < s.to),
    next: next === Infinity ? null : next,
  }
}
