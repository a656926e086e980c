import type { IsoDate } from '../calendar'

/*
 * When an account is held: nothing more is to be shipped to it. A hold that a rule sets lasts as long as its
 * cause; one that a person set lasts until somebody releases it.
 */

/** The rules of the house; null or false: the rule is off. */
export interface HoldRules {
  /** Held when exposure passes the limit by more than so many percent of it. */
  overLimitPercent: number | null
  /** Held when more than `overdueAmount` is overdue by more than so many days. */
  overdueDays: number | null
  /** Base currency, minor units. */
  overdueAmount: number
  /** Held from this reminder level on. */
  reminderLevel: number | null
  /** Held when the limit is out of its dates. */
  expiredLimit: boolean
  /** Held when what is insured is passed. */
  insuredExceeded: boolean
  /** Held while a promise of the last so many days is broken and still unpaid; null: the rule is off. */
  brokenPromiseDays: number | null
}

/** Ours, until the house says otherwise. */
export const HOLD_RULES: HoldRules = {
  overLimitPercent: 10,
  overdueDays: 60,
  overdueAmount: 100_000,
  reminderLevel: 3,
  expiredLimit: false,
  insuredExceeded: false,
  brokenPromiseDays: null,
}

/** What the rules look at, base currency. */
export interface HoldFacts {
  exposure: number
  /** Exposure before what is insured is taken off. */
  unsecured: number
  /** In force today; null without a limit. */
  limit: number | null
  /** There is a limit, and today lies outside its dates. */
  isLimitExpired: boolean
  insured: number
  /** Overdue by more than the days of the rule. */
  longOverdue: number
  /** Highest reminder level of what is open. */
  level: number
  /** The policy of a notice says that orders are held while its items are open. */
  noticeHolds: boolean
  /** Promised within the days of the rule, missed, and not paid since. */
  brokenPromises: number
}

export type RuleCause = 'limit' | 'overdue' | 'reminder' | 'expired' | 'insured' | 'promise'
export type HoldCause = RuleCause | 'hand'

export const HOLD_CAUSES: Readonly<Record<HoldCause, string>> = {
  hand: 'By hand',
  limit: 'Over limit',
  overdue: 'Long overdue',
  reminder: 'Reminder level',
  expired: 'Limit expired',
  insured: 'Over insured limit',
  promise: 'Broken promise',
}

/** Why the rules hold an account, each cause with the amount that would make it go. */
export interface RuleHold {
  cause: RuleCause
  /** What would have to be paid, or more, for the cause to go; null when money alone does not help. */
  toPay: number | null
}

export function ruleHolds(rules: HoldRules, facts: HoldFacts): RuleHold[] {
  const holds: RuleHold[] = []
  const { limit, exposure } = facts
  if (rules.overLimitPercent !== null && limit !== null) {
    const most = limit + Math.floor((limit * rules.overLimitPercent) / 100)
    if (exposure > most) holds.push({ cause: 'limit', toPay: exposure - most })
  }
  if (rules.overdueDays !== null && facts.longOverdue > rules.overdueAmount)
    holds.push({ cause: 'overdue', toPay: facts.longOverdue - rules.overdueAmount })
  if (facts.noticeHolds || (rules.reminderLevel !== null && facts.level >= rules.reminderLevel))
    holds.push({ cause: 'reminder', toPay: null })
  if (rules.expiredLimit && facts.isLimitExpired) holds.push({ cause: 'expired', toPay: null })
  if (rules.insuredExceeded && facts.insured > 0 && facts.unsecured > facts.insured)
    holds.push({ cause: 'insured', toPay: facts.unsecured - facts.insured })
  if (rules.brokenPromiseDays !== null && facts.brokenPromises > 0)
    holds.push({ cause: 'promise', toPay: facts.brokenPromises })
  return holds
}

/** A hold as it is kept. */
export interface KeptHold {
  id: number
  cause: HoldCause
  reason: string
  endedAt: string | null
  releasedUntil: IsoDate | null
}

/** A hold that begins: by a rule, or by hand again after a release that is over. */
export interface Begins {
  cause: HoldCause
  toPay: number | null
  /** In words, for one that was set by hand. */
  reason: string
}

export interface HoldChanges {
  begin: Begins[]
  /** Ids of holds whose cause went. */
  end: number[]
}

/** A hold by hand whose release is over, when it does not last already. */
function byHandAgain(kept: readonly KeptHold[], today: IsoDate): Begins[] {
  const byHand = kept.filter(h => h.cause === 'hand')
  const last = byHand.reduce<KeptHold | null>((a, h) => (a === null || h.id > a.id ? h : a), null)
  if (last === null || last.endedAt === null || last.releasedUntil === null) return []
  return last.releasedUntil < today ? [{ cause: 'hand', toPay: null, reason: last.reason }] : []
}

/**
 * What follows from what the rules find for the holds that are kept: causes that are new begin, those that
 * went end. What somebody released does not begin again before the last day of the release is over.
 */
export function holdChanges(
  found: readonly RuleHold[],
  kept: readonly KeptHold[],
  today: IsoDate,
): HoldChanges {
  const open = kept.filter(h => h.endedAt === null)
  const isReleased = (cause: RuleCause) =>
    kept.some(h => h.cause === cause && h.releasedUntil !== null && today <= h.releasedUntil)
  const byRule = found
    .filter(f => !open.some(h => h.cause === f.cause) && !isReleased(f.cause))
    .map(f => ({ ...f, reason: '' }))
  return {
    begin: [...byRule, ...byHandAgain(kept, today)],
    end: open.filter(h => h.cause !== 'hand' && !found.some(f => f.cause === h.cause)).map(h => h.id),
  }
}

/** A hold as it lasts now: kept already, or begun by what the books say at this moment. */
export interface LastingHold {
  /** Null for one that is not kept yet. */
  id: number | null
  cause: HoldCause
  reason: string
  toPay: number | null
}

/** The holds that last at this moment, whatever was kept of them so far. */
export function lastingHolds(
  found: readonly RuleHold[],
  kept: readonly KeptHold[],
  today: IsoDate,
): LastingHold[] {
  const { begin, end } = holdChanges(found, kept, today)
  const toPay = (cause: HoldCause) => found.find(f => f.cause === cause)?.toPay ?? null
  const last = kept
    .filter(h => h.endedAt === null && !end.includes(h.id))
    .map(h => ({ id: h.id, cause: h.cause, reason: h.reason, toPay: toPay(h.cause) }))
  return [...last, ...begin.map(b => ({ id: null, ...b }))]
}
