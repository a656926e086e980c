import { addDays } from '../../calendar'
import { spreadCredits } from '../../receipts/credits'
import type { Decoded } from './decode'
import type { Evidence } from './model'
import type { Named } from './payers'
import type { Closed, MatchItem, MatchLine, Part, Proposal } from './types'

/*
 * What the readings of one line as a receipt share: what they know, and what they come to.
 */

/** A proposal before it is weighed against the others. */
export interface Hypothesis {
  action: Proposal['action']
  evidence: Evidence
  reasons: string[]
  /** Money for what was written off: somebody says what becomes of it. */
  comesBack?: boolean
}

/** What the decoding of one line needs to know beside the candidate. */
export interface Setting {
  line: MatchLine
  named: Named
  itemsOf: (customerId: number) => readonly MatchItem[]
  habitsOf: (customerId: number) => Habits
  graceDays: number
  tolerance: number
  settledOf: (customerId: number, amount: number) => readonly Closed[]
  /** Forms of our numbers (`shapeOf`). */
  shapes: ReadonlySet<string>
  /** Whether a number exists, open or settled. */
  known: (key: string) => boolean
  /** Whether a number in the text is an order's, a customer's or the bank's own. */
  explains: (key: string) => boolean
}

/** How a customer was seen to pay. */
export interface Habits {
  oldest: number
  other: number
  /** Amounts kept back, and how often. */
  short: ReadonlyMap<number, number>
}

export const plural = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`

/**
 * Amounts of the discounts that the payment date still earns, grace included; none on what is paid in part.
 */
export function earnedSteps(i: MatchItem, s: Setting): number[] {
  const paidOn = addDays(s.line.valueDate, -s.graceDays)
  return i.open === i.amount ? i.discounts.filter(d => paidOn <= d.date).map(d => d.amount) : []
}
/** The largest of them. */
export const earnedMost = (i: MatchItem, s: Setting): number => Math.max(0, ...earnedSteps(i, s))

export function partOf(customerId: number, d: Decoded): Part {
  const credits = spreadCredits(
    d.credits.map(c => ({ id: c.id, amount: c.open })),
    d.take.filter(t => !t.discount).map(t => ({ id: t.item.id, amount: t.item.open })),
  )
  const left = new Map(d.take.map(t => [t.item.id, t.item.open - t.discount]))
  for (const c of credits) left.set(c.debitItemId, left.get(c.debitItemId)! - c.amount)
  let difference = d.difference
  // Rather on an item without discount; on one with, when there is no other.
  const bearsIt = (t: (typeof d.take)[number]) => !t.discount || d.take.every(x => x.discount)
  const allocations = [...d.take]
    .reverse()
    .map(t => {
      const own = difference && left.get(t.item.id)! > difference && bearsIt(t) ? difference : 0
      difference -= own
      return { itemId: t.item.id, amount: left.get(t.item.id)! - own, discount: t.discount, difference: own }
    })
    .reverse()
    .filter(a => a.amount > 0)
  return { customerId, allocations, credits, onAccount: 0 }
}
