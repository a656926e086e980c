import { addDays, discountOn, type IsoDate } from '../calendar'
import { spreadCredits, type CreditPair } from '../receipts/credits'
import { earliestCollection } from './dates'
import { sequenceOf, unusable, type Mandate, type Sequence } from './mandate'

/*
 * What is collected on a day, customer by customer; and what is not, with the reason. Amounts are minor units
 * of one currency, euro: the SEPA collects no other.
 */

export interface DueItem {
  id: number
  number: string
  currency: string
  /** Open amount; credits negative. */
  open: number
  amount: number
  dueDate: IsoDate
  discounts: readonly { date: IsoDate; amount: number }[]
  /** Fees and interest, which are collected only if the house says so. */
  isCharge: boolean
  disputed: { reason: string; amount: number } | null
  /** In words, while it is not broken. */
  promised: string | null
  /** The collection it is on its way with. */
  onItsWay: string | null
}

export interface Debtor {
  customerId: number
  number: string
  name: string
  /** The customer pays by direct debit, as its master or class says. */
  pays: boolean
  /** Why nothing is collected at all: closed, handed over; empty for nothing. */
  stopped: string
  mandates: readonly Mandate[]
  items: readonly DueItem[]
}

/** How the house collects, from Setup. */
export interface CollectionPolicy {
  noticeDays: number
  /** Credits on the account are taken off first. */
  creditsFirst: boolean
  /** Fees and interest are collected too. */
  withCharges: boolean
  /** Days after the discount date on which it is still granted. */
  graceDays: number
  /** Collections under this are left for another time. */
  least: number
}

export interface CollectAsk {
  today: IsoDate
  collectOn: IsoDate
  /** Items due by this day are collected. */
  dueBy: IsoDate
  scheme: 'CORE' | 'B2B' | null
  /** Only these items, by id, which were announced before: what came back is presented again. */
  again: ReadonlySet<number> | null
}

/** What a person changed of a proposal, by customer. */
export interface CollectionEdit {
  leaveOut?: string
  /** Why single items are left out, by id. */
  items?: Readonly<Record<string, string>>
}

export interface CollectedItem {
  id: number
  number: string
  dueDate: IsoDate
  /** Taken off the item by money. */
  amount: number
  discount: number
}

export interface ProposedCollection {
  customer: { number: string; name: string }
  customerId: number
  mandate: { id: number; reference: string; scheme: 'CORE' | 'B2B'; iban: string }
  sequence: Sequence
  collectOn: IsoDate
  amount: number
  /** The collection that came back and is presented again, and how often it was before; null: none. */
  again: { of: number; times: number } | null
  items: CollectedItem[]
  credits: (CreditPair & { number: string })[]
  why: string
}

export const COLLECTION_LEFT_OUT = {
  disputed: 'Disputed',
  promised: 'Promised',
  'on-its-way': 'Collection on its way',
  'not-due': 'Not due yet',
  charge: 'Fee or interest',
  mandate: 'No mandate to use',
  limit: 'Above the agreed limit',
  notice: 'Notice too short',
  credit: 'Covered by credit',
  least: 'Under the minimum',
  currency: 'Not in euro',
  stopped: 'Account stopped',
  chosen: 'Left out by hand',
} as const
export type CollectionRule = keyof typeof COLLECTION_LEFT_OUT

export interface CollectionLeftOut {
  customer: { number: string; name: string }
  customerId: number
  item: string | null
  amount: number
  rule: CollectionRule
  reason: string
}

export interface CollectionProposal {
  collections: ProposedCollection[]
  leftOut: CollectionLeftOut[]
}

const CURRENCY = 'EUR'

/**
 * The collection of one customer. Every item that is due stands in it or is left out with a reason, never
 * both. What is disputed in part is collected without that part. Discount counts when the day of collection
 * still earns it.
 */
export function proposeCollection(
  debtor: Debtor,
  policy: CollectionPolicy,
  ask: CollectAsk,
  edit: CollectionEdit = {},
): CollectionProposal {
  const customer = { number: debtor.number, name: debtor.name }
  const proposal: CollectionProposal = { collections: [], leftOut: [] }
  const leave = (item: DueItem | null, amount: number, rule: CollectionRule, reason: string): void => {
    proposal.leftOut.push({
      customer,
      customerId: debtor.customerId,
      item: item?.number ?? null,
      amount,
      rule,
      reason,
    })
  }
  const due = debtor.items.filter(i => i.open > 0 && (ask.again?.has(i.id) ?? isDue(i, policy, ask)))
  if (!due.length) return proposal
  const all = sum(due, i => i.open)
  if (debtor.stopped) {
    leave(null, all, 'stopped', debtor.stopped)
    return proposal
  }
  const usable = mandateFor(debtor, policy, ask)
  if (typeof usable === 'string') {
    leave(null, all, usable.startsWith('notice') ? 'notice' : 'mandate', usable)
    return proposal
  }
  const chosen: CollectedItem[] = []
  for (const item of due) {
    const stop = stopOf(item, policy, edit)
    if (stop) leave(item, item.open, stop.rule, stop.reason)
    else chosen.push(collectedOf(item, policy, ask))
  }
  if (!chosen.length) return proposal
  const credits = policy.creditsFirst ? creditsOf(debtor, chosen) : []
  const collected = takeCredits(chosen, credits)
  const amount = sum(collected, i => i.amount)
  const without = (rule: CollectionRule, reason: string): CollectionProposal => {
    leave(null, amount || sum(chosen, i => i.amount), rule, reason)
    return proposal
  }
  if (amount === 0) return without('credit', 'credit on the account covers all that is due')
  if (edit.leaveOut !== undefined) return without('chosen', `left out by hand: ${edit.leaveOut}`)
  if (amount < policy.least) return without('least', 'less than what is collected at a time')
  if (usable.most !== null && amount > usable.most)
    return without('limit', `mandate ${usable.reference} allows less than this at a time`)
  proposal.collections.push({
    customer,
    customerId: debtor.customerId,
    mandate: {
      id: usable.id,
      reference: usable.reference,
      scheme: usable.scheme,
      iban: usable.iban,
    },
    sequence: sequenceOf(usable),
    collectOn: ask.collectOn,
    amount,
    again: null,
    items: collected.filter(i => i.amount > 0),
    credits,
    why: whyOf(collected, credits.length),
  })
  return proposal
}

const sum = <T>(list: readonly T[], of: (t: T) => number): number => list.reduce((a, x) => a + of(x), 0)

/** Due by the day that was asked for; or its discount would be lost before the next chance. */
function isDue(item: DueItem, { graceDays }: CollectionPolicy, { dueBy, collectOn }: CollectAsk): boolean {
  if (item.dueDate <= dueBy) return true
  const earned = item.discounts.filter(d => addDays(d.date, graceDays) >= collectOn)
  return earned.some(d => d.date <= dueBy && d.amount > 0)
}

/** The mandate that is used: the newest that can be; or why none can. */
function mandateFor(debtor: Debtor, { noticeDays }: CollectionPolicy, ask: CollectAsk): Mandate | string {
  if (!debtor.pays) return 'the account does not pay by direct debit'
  const own = debtor.mandates.filter(m => ask.scheme === null || m.scheme === ask.scheme)
  if (!own.length)
    return ask.scheme === null ? 'no mandate was signed' : `no ${ask.scheme} mandate was signed`
  const reasons: string[] = []
  for (const mandate of own) {
    const why = unusable(mandate, ask.collectOn)
    if (why) {
      reasons.push(why)
      continue
    }
    // Who was told of it once need not be told again, only the bank wants its day.
    const days = ask.again ? 0 : (mandate.noticeDays ?? noticeDays)
    const earliest = earliestCollection(ask.today, days)
    if (ask.collectOn >= earliest) return mandate
    reasons.unshift(`notice of ${days} days: ${earliest} at the earliest`)
  }
  return reasons[0]!
}

function stopOf(
  item: DueItem,
  policy: CollectionPolicy,
  edit: CollectionEdit,
): { rule: CollectionRule; reason: string } | null {
  if (item.currency !== CURRENCY)
    return { rule: 'currency', reason: `it is in ${item.currency}, and euro only is collected` }
  if (item.onItsWay) return { rule: 'on-its-way', reason: `collection ${item.onItsWay} is on its way` }
  if (item.promised) return { rule: 'promised', reason: item.promised }
  if (item.disputed && item.disputed.amount >= item.open)
    return { rule: 'disputed', reason: `disputed: ${item.disputed.reason}` }
  if (item.isCharge && !policy.withCharges)
    return { rule: 'charge', reason: 'fees and interest are not collected, as Setup says' }
  const why = edit.items?.[String(item.id)]
  return why === undefined ? null : { rule: 'chosen', reason: `left out by hand: ${why}` }
}

function collectedOf(item: DueItem, policy: CollectionPolicy, { collectOn }: CollectAsk): CollectedItem {
  const { id, number, dueDate } = item
  const disputed = item.disputed?.amount ?? 0
  const open = item.open - disputed
  // Only an item that is paid whole earns its discount here.
  const discount =
    disputed > 0 || item.open < item.amount
      ? 0
      : discountOn(item.discounts, addDays(collectOn, -policy.graceDays))
  return { id, number, dueDate, amount: open - discount, discount }
}

function creditsOf(debtor: Debtor, chosen: readonly CollectedItem[]): ProposedCollection['credits'] {
  const credits = debtor.items
    .filter(i => i.open < 0 && i.currency === CURRENCY)
    .map(i => ({ id: i.id, amount: -i.open }))
  const numberOf = new Map(debtor.items.map(i => [i.id, i.number]))
  // An item that earns a discount takes no credit: it would change what is earned.
  const room = chosen.filter(i => i.discount === 0).map(i => ({ id: i.id, amount: i.amount }))
  return spreadCredits(credits, room).map(pair => ({ ...pair, number: numberOf.get(pair.creditItemId)! }))
}

function takeCredits(chosen: readonly CollectedItem[], credits: readonly CreditPair[]): CollectedItem[] {
  return chosen.map(item => ({
    ...item,
    amount:
      item.amount -
      sum(
        credits.filter(c => c.debitItemId === item.id),
        c => c.amount,
      ),
  }))
}

function whyOf(items: readonly CollectedItem[], credits: number): string {
  const [oldest] = [...items].sort((a, b) => (a.dueDate < b.dueDate ? -1 : 1))
  const discounts = items.filter(i => i.discount > 0).length
  return [
    `${oldest!.number} is due on ${oldest!.dueDate}`,
    discounts ? `, ${discounts} with discount` : '',
    credits ? ', less credit on account' : '',
  ].join('')
}
