import type { IsoDate } from '../calendar'
import type { InterestLine } from '../interest'
import type { Move } from '../ledger'
import type { Consequence } from './policy'

/** A stop of reminders with its reason and last day. */
export interface Stop {
  reason: string
  until: IsoDate
}

export interface ReminderItem {
  id: number
  number: string
  part: number
  currency: string
  dueDate: IsoDate
  /** Open amount; credits negative. */
  open: number
  /** The same in base currency, where it is needed. */
  baseOpen?: number
  /** What it was posted with, and what was taken off by day: interest is worked out of these. */
  amount: number
  moves: readonly Move[]
  /** The last day that interest was charged for; null: none yet. */
  chargedThrough: IsoDate | null
  /** Highest level sent, 0 none, when, and by when it was to be paid. */
  level: number
  noticeDate: IsoDate | null
  deadline: IsoDate | null
  /** Why and until when the item is paused. */
  pause: Stop | null
  /** Why the customer disputes it, and how much of it; the rest is claimed. */
  disputed?: { reason: string; amount: number } | null
  /** What the customer promised for it and when, in words, while that is not broken. */
  promised?: string | null
  /** It is somebody else's to chase, or its money is on its way: the rule and the reason in words. */
  elsewhere?: { rule: string; reason: string } | null
  /** A fee, interest or the like: claimed along, it causes no notice unless the policy says so. */
  isCharge: boolean
}

export interface ReminderCustomer {
  number: string
  name: string
  country: string
  language: string
  /** Where reminders go; empty: by post. */
  email: string
  pause: Stop | null
  /** The account was handed over: it is not reminded by us any more. */
  handedOver: { to: string; on: IsoDate } | null
  items: ReminderItem[]
}

export interface NoticeItem {
  id: number
  number: string
  part: number
  dueDate: IsoDate
  daysLate: number
  open: number
  /** The level it gets; of what is claimed along, the one it has. */
  level: number
  /** The level it had. */
  before: number
}

/** Interest of one item, by period. */
export interface NoticeInterest extends InterestLine {
  itemId: number
  number: string
}

export interface Notice {
  /** `customer currency`, and what tells several letters of one account apart. */
  key: string
  customer: { number: string; name: string }
  currency: string
  /** By which policy. */
  policy: string
  level: number
  /** Overdue, of the items below. */
  total: number
  /** Gross, with its tax. */
  fee: number
  feeTax: number
  interest: number
  deadline: IsoDate
  channel: 'email' | 'print'
  recipient: string
  why: string
  items: NoticeItem[]
  interestLines: NoticeInterest[]
  consequence: Consequence
  /** What a person should know before it goes out: a fee that is missing, a text in another language. */
  warnings: string[]
  /** What a person changed of the proposal, in words. */
  changed: string[]
}

/** What is overdue and not reminded of, with the reason. */
export interface LeftOut {
  customer: { number: string; name: string }
  /** Null: all of the account in this currency. */
  item: string | null
  currency: string
  open: number
  rule: LeftOutRule
  reason: string
}

/** Why something is left out. */
export const LEFT_OUT_RULES = {
  paused: 'Paused',
  promised: 'Promised',
  disputed: 'Disputed',
  collection: 'Collection on its way',
  factored: 'With the factor',
  'handed-over': 'Handed over',
  credit: 'Covered by credit',
  minimum: 'Under the minimum',
  'not-yet': 'Not late enough',
  recent: 'Notice too recent',
  'last-level': 'Last level sent',
  'fee-only': 'A charge alone',
  rate: 'No interest rate',
  'no-interest': 'Policy without interest',
  chosen: 'Left out by hand',
} as const
export type LeftOutRule = keyof typeof LEFT_OUT_RULES

/** All that is claimed by a notice: what is overdue, the fee and the interest. */
export const claimedBy = (n: Pick<Notice, 'total' | 'fee' | 'interest'>): number =>
  n.total + n.fee + n.interest
