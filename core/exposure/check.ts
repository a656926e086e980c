import type { HoldCause } from './holds'

/*
 * A new order asks: may it be shipped? Yes; or no, with every reason and what would make it yes.
 */

/** One account, or a group as one, before the order. Base currency. */
export interface Standing {
  name: string
  exposure: number
  /** In force today; null without a limit. */
  limit: number | null
}

export interface CheckFacts {
  account: Standing
  /** The group it belongs to, when it does and the group has a limit. */
  group: Standing | null
  /** Causes of the holds that last, in words. */
  holds: readonly { cause: HoldCause; words: string; toPay: number | null }[]
  closedOn: string | null
  /** There is a limit, and today lies outside its dates. */
  isLimitExpired: boolean
  /** Who may raise a limit or release a hold, in words. */
  whoSigns: string
}

export interface CheckReason {
  rule: 'closed' | 'held' | 'limit' | 'group' | 'expired'
  message: string
  /** What would make it yes. */
  satisfy: string
  /** So much would have to be paid, or at least so high a limit is needed; null when neither helps. */
  toPay: number | null
  limitNeeded: number | null
}

/** `words`: writes an amount of base currency for a person to read. */
export function checkOrder(
  facts: CheckFacts,
  amount: number,
  words: (amount: number) => string,
): CheckReason[] {
  const reasons: CheckReason[] = []
  const { whoSigns } = facts
  if (facts.closedOn !== null)
    reasons.push({
      rule: 'closed',
      message: `the account is closed since ${facts.closedOn}`,
      satisfy: 'open it again',
      toPay: null,
      limitNeeded: null,
    })
  for (const hold of facts.holds)
    reasons.push({
      rule: 'held',
      message: `the account is held: ${hold.words}`,
      satisfy:
        hold.toPay === null
          ? `${whoSigns} releases it`
          : `${words(hold.toPay)} are paid, or ${whoSigns} releases it`,
      toPay: hold.toPay,
      limitNeeded: null,
    })
  if (facts.isLimitExpired)
    reasons.push({
      rule: 'expired',
      message: 'the limit is out of its dates',
      satisfy: `the limit is renewed, signed by ${whoSigns}`,
      toPay: null,
      limitNeeded: facts.account.exposure + amount,
    })
  for (const [rule, standing] of [
    ['limit', facts.account],
    ['group', facts.group],
  ] as const) {
    if (!standing || standing.limit === null) continue
    const after = standing.exposure + amount
    if (after <= standing.limit) continue
    const over = after - standing.limit
    const paying = Math.min(over, Math.max(0, standing.exposure))
    const whose = rule === 'group' ? `the group of ${standing.name}` : 'the account'
    reasons.push({
      rule,
      message: `with it ${whose} stands at ${words(after)} against a limit of ${words(standing.limit)}: ${words(over)} over`,
      satisfy:
        paying >= over
          ? `${words(over)} are paid, or the limit rises to ${words(after)}, signed by ${whoSigns}`
          : `the limit rises to ${words(after)}, signed by ${whoSigns}: paying all does not make room enough`,
      toPay: paying >= over ? over : null,
      limitNeeded: after,
    })
  }
  return reasons
}
