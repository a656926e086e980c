import type { Customers, LedgerImage, Open } from '../image'
import type { Pattern } from './pattern'
import { chanceOf, stuckBeyond, usualBy, type Contacted } from './worth'

/*
 * The call list: accounts by what a contact is worth now, from the ledger in memory and what was said with
 * each customer. Base currency, minor units; days since 1970.
 */

/** What was said with a customer, as far as the list looks at it. */
export interface CallFacts extends Omit<Contacted, 'reachedOn'> {
  customerId: number
  reachedOn: number | null
  /** The day of the last call, whether anybody was reached or not; null: never. */
  calledOn: number | null
  /** When somebody said they would ring again; null: not said. */
  nextOn: number | null
  /** Something happened since the last call that makes another one worth it: money came back, mail came. */
  happened: boolean
  /** Reminders and calls are paused for the account. */
  paused: boolean
}

export interface CallAsk {
  day: number
  /** By row of a customer, 1 for those that count; null for all. */
  wanted: Uint8Array | null
  facts: readonly CallFacts[]
  /** Items that are not to be asked for: promised ones, by id. */
  promised: readonly number[]
  /** What is disputed of items, by id, base currency. */
  disputed: readonly (readonly [itemId: number, amount: number])[]
  /** Only accounts that somebody said they would ring again by today. */
  onlyFollowUps: boolean
  limit: number
  offset: number
}

/** Why an account is not on the list today. */
export const LEFT_OUT = ['called', 'later', 'promised', 'disputed', 'paused', 'usual'] as const
export type LeftOut = (typeof LEFT_OUT)[number]

export interface CallRow {
  customerId: number
  /** Overdue in all, and what of it would come late without a contact. */
  overdue: number
  late: number
  /** 0 to 1. */
  chance: number
  /** late × chance. */
  worth: number
  /** Days late of the oldest that is asked for. */
  oldest: number
  /** Days beyond what is usual, weighted by amount. */
  beyond: number
  promised: number
  disputed: number
  credit: number
  followUp: boolean
}

export interface CallList {
  rows: CallRow[]
  totals: { count: number; overdue: number; late: number; worth: number; followUps: number }
  leftOut: Record<LeftOut, { count: number; overdue: number }>
}

/** Worth less than this, in base minor units, is no call. Ours. */
const LEAST_WORTH = 500

interface Sums {
  overdue: Float64Array
  late: Float64Array
  beyond: Float64Array
  asked: Float64Array
  promised: Float64Array
  disputed: Float64Array
  credit: Float64Array
  oldest: Int32Array
}

function sumsOf(customers: Customers, open: Open, image: LedgerImage, ask: CallAsk): Sums {
  const many = customers.count
  const sums: Sums = {
    overdue: new Float64Array(many),
    late: new Float64Array(many),
    beyond: new Float64Array(many),
    asked: new Float64Array(many),
    promised: new Float64Array(many),
    disputed: new Float64Array(many),
    credit: new Float64Array(many),
    oldest: new Int32Array(many),
  }
  const promised = new Set(ask.promised)
  const disputed = new Map(ask.disputed)
  const { table } = open
  const { customer, debit, dueDay, base, item } = table
  const ids = image.items.column.id
  for (let place = 0; place < table.count; place++) {
    const amount = base[place]!
    if (amount === 0) continue
    const who = customers.rowOf(customer[place]!)
    if (who < 0) continue
    if (debit[place] === 0) {
      sums.credit[who]! += amount
      continue
    }
    const due = dueDay[place]!
    if (due >= ask.day) continue
    sums.overdue[who]! += amount
    const id = ids[item[place]!]!
    if (promised.has(id)) {
      sums.promised[who]! += amount
      continue
    }
    const contested = Math.min(amount, disputed.get(id) ?? 0)
    sums.disputed[who]! += contested
    const asked = amount - contested
    if (asked === 0) continue
    const usually = usualBy(due, patternOfRow(customers, who))
    sums.asked[who]! += asked
    sums.late[who]! += asked * stuckBeyond(ask.day, usually)
    sums.beyond[who]! += asked * Math.max(0, ask.day - usually.day)
    sums.oldest[who] = Math.max(sums.oldest[who]!, ask.day - due)
  }
  return sums
}

function patternOfRow(customers: Customers, row: number): Pattern | null {
  const { usual, spread, payDay } = customers.rows[row]!
  return usual === null || spread === null ? null : { usual, spread, payDay }
}

const NOTHING: Omit<CallFacts, 'customerId'> = {
  reachedOn: null,
  missed: 0,
  remindedOn: null,
  brokenPromise: false,
  inVain: 0,
  held: false,
  calledOn: null,
  nextOn: null,
  happened: false,
  paused: false,
}

/** Something happened since the last call: money came back, a promise broke, mail came. */
const isAnew = (facts: Omit<CallFacts, 'customerId'>): boolean => facts.happened || facts.brokenPromise

/** Why an account is left out; null when it is to be rung. */
function leftOutFor(row: CallRow, facts: Omit<CallFacts, 'customerId'>, day: number): LeftOut | null {
  if (facts.paused) return 'paused'
  const anew = isAnew(facts)
  // Nobody is rung twice on a day unless something happened.
  if (facts.calledOn === day && !anew) return 'called'
  if (row.followUp) return null
  if (facts.nextOn !== null && facts.nextOn > day && !anew) return 'later'
  if (row.worth >= LEAST_WORTH) return null
  if (row.promised > 0) return 'promised'
  return row.disputed > 0 && row.late === 0 ? 'disputed' : 'usual'
}

/**
 * Accounts with anything overdue by what a contact is worth, the most first; who was to be rung again by
 * today is always on it. Credit on account covers the oldest: it is taken off what is late.
 */
export function callList(customers: Customers, open: Open, image: LedgerImage, ask: CallAsk): CallList {
  const sums = sumsOf(customers, open, image, ask)
  const factsOf = new Map(ask.facts.map(f => [f.customerId, f]))
  const leftOut = Object.fromEntries(
    LEFT_OUT.map(why => [why, { count: 0, overdue: 0 }]),
  ) as CallList['leftOut']
  const totals = { count: 0, overdue: 0, late: 0, worth: 0, followUps: 0 }
  const rows: CallRow[] = []
  for (let who = 0; who < customers.count; who++) {
    const customer = customers.rows[who]!
    if (customer.isMerged || (ask.wanted !== null && ask.wanted[who] === 0)) continue
    const facts = factsOf.get(customer.id) ?? NOTHING
    const followUp = facts.nextOn !== null && facts.nextOn <= ask.day
    const overdue = sums.overdue[who]!
    if (overdue === 0 && !followUp) continue
    const covered = Math.min(sums.asked[who]!, sums.credit[who]!)
    const late = sums.asked[who]! > 0 ? sums.late[who]! * (1 - covered / sums.asked[who]!) : 0
    // What happened since the last call makes it a call about something else.
    const contact = isAnew(facts) ? { ...facts, reachedOn: null } : facts
    const chance = chanceOf(sums.oldest[who]!, contact, ask.day, customer.lastPaid)
    const row: CallRow = {
      customerId: customer.id,
      overdue,
      late: Math.round(late),
      chance,
      worth: Math.round(late * chance),
      oldest: sums.oldest[who]!,
      beyond: sums.asked[who]! > 0 ? Math.round(sums.beyond[who]! / sums.asked[who]!) : 0,
      promised: sums.promised[who]!,
      disputed: sums.disputed[who]!,
      credit: sums.credit[who]!,
      followUp,
    }
    const why = leftOutFor(row, facts, ask.day)
    if (why !== null) {
      leftOut[why].count++
      leftOut[why].overdue += overdue
      continue
    }
    if (ask.onlyFollowUps && !followUp) continue
    rows.push(row)
    totals.count++
    totals.overdue += overdue
    totals.late += row.late
    totals.worth += row.worth
    if (followUp) totals.followUps++
  }
  rows.sort((a, b) => b.worth - a.worth || a.customerId - b.customerId)
  return { rows: rows.slice(ask.offset, ask.offset + ask.limit + 1), totals, leftOut }
}
