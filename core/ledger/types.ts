import type { IsoDate } from '../calendar'
import type { ItemKind, PostingKind } from './kinds'

export type Side = 'debit' | 'credit'
export type DocumentKind = 'invoice' | 'credit-note' | 'debit-note'
/** Credits born from a payment's link: they go back with it. */
export type AdjustmentKind = 'discount' | 'difference'
/** `debit`: collected by direct debit. */
export type Means = 'cash' | 'cheque' | 'card' | 'transfer' | 'debit'

/** What an account of the chart is for; the chart itself is data. */
export type Purpose =
  | 'receivables'
  | 'bank'
  | 'on-hand'
  | 'clearing'
  | 'revenue'
  | 'tax'
  | 'reminder-fees'
  | 'late-interest'
  | 'compensation'
  | 'petty-cash'
  | 'exchange'
  | 'discount'
  | 'difference'
  | 'advances'
  | 'charges-on'
  | 'bank-charges'
  | 'opening'
  | 'write-off'
  | 'allowance'
  | 'allowance-change'
  | 'recovery'
  | 'paying-out'
  | 'lapsed-income'
  | 'lapsed-owed'
export type Chart = Record<Purpose, string>

/** A debit or credit on a customer's account. Amounts are positive minor units; `side` gives the sign. */
export interface Item {
  id: number
  customerId: number
  kind: ItemKind
  number: string
  part: number
  currency: string
  side: Side
  amount: number
  /** The amount in the base currency, at the rate of the posting. */
  baseAmount: number
  documentDate: IsoDate
  dueDate: IsoDate
  postingDate: IsoDate
  /** For a reversal, the item it takes back. */
  reversesItemId: number | null
  /** For a discount, small difference or conversion, the receipt (or conversion) it came with. */
  bornOfItemId: number | null
  /** Tax contained in the amount, and the cash discount offered. */
  tax: number
  discounts: { date: IsoDate; amount: number }[]
}

/** So much of an item's amount taken off with effect from a day, by its allocations; negative: given back. */
export interface Move {
  effective: IsoDate
  amount: number
}

/** An item with what is open of it now, and how it came to that. */
export interface StateItem extends Item {
  open: number
  baseOpen: number
  reversed: boolean
  moves: readonly Move[]
}

export interface Allocation {
  id: number
  debitItemId: number
  creditItemId: number
  /** Minor units of both items' currency; negative when it undoes another. */
  amount: number
  /** What leaves the debit and the credit item in base currency: their difference is the exchange result. */
  debitBase: number
  creditBase: number
  effective: IsoDate
  undoesId: number | null
}
export interface StateAllocation extends Allocation {
  undone: boolean
}

/** Part of the ledger that a decision needs. */
export interface LedgerState {
  base: string
  /** The business date. */
  today: IsoDate
  /** Nothing may be posted on or before this date. */
  closedUntil: IsoDate | null
  chart: Chart
  items: Map<number, StateItem>
  allocations: Map<number, StateAllocation>
  /** The journal lines of items that may have to be mirrored. */
  lines: Map<number, Line[]>
  policy: ReceiptPolicy
  /** The ledger accounts there are; `kept` ones are moved by their own register only, never by hand. */
  accounts: ReadonlyMap<string, 'free' | 'kept'>
  /**
   * Base units for one unit of a currency, a decimal text, by `rateKey`: those that the decision may ask for.
   */
  rates: ReadonlyMap<string, string>
}

/** House rules for receipts, from Setup. */
export interface ReceiptPolicy {
  /** Days after the discount date on which it is still granted. */
  discountGraceDays: number
  /** A part payment loses the discount, or earns its share of it. */
  partPayments: 'lose' | 'pro-rata'
  /** Largest small difference that may be written off, base minor units. */
  tolerance: number
}

/**
 * A journal line: debit positive, credit negative, in document currency and in base. `item`/`allocation`
 * point at the cause.
 */
export interface Line {
  account: string
  currency: string
  amount: number
  baseAmount: number
  customerId: number | null
  item: number | null
  allocation: number | null
}

/** New rows carry negative keys; the ids come from the database when the posting is written. */
export interface NewItem extends Omit<Item, 'number'> {
  /** Empty when the number comes from `series`. */
  number: string
  series: string | null
  order: string
  text: string
  means: {
    means: Means
    amount: number
    baseAmount: number
    reference: string
    account: string
  }[]
  /** What the rest of a receipt is kept for. */
  rest?: RestUse
}

/** The rest of a receipt: on account, kept for one item (where the class allows it), or to be refunded. */
export interface RestUse {
  use: 'account' | 'item' | 'refund'
  itemId: number | null
}

/** All that one intent writes. The Proof shows it before, `server/ledger` writes it unchanged. */
export interface Posting {
  kind: PostingKind
  date: IsoDate
  text: string
  /**
   * Series of the number that the whole of it bears, such as a slip's: given when it is written, and put
   * behind the text.
   */
  series?: string
  items: NewItem[]
  allocations: Allocation[]
  lines: Line[]
}

/** Why the ledger will not post, and what would satisfy it. `path` points into the request. */
export interface Refusal {
  rule: string
  path: string
  message: string
  satisfy: string
  /** Where it stands in a file. */
  line?: number
  column?: string
}

export type Decision = { ok: true; posting: Posting } | { ok: false; refusals: Refusal[] }

/**
 * What a Command decides: postings that follow one another, and what else came out of it; or why nothing is
 * posted.
 */
export type Decided<Facts = null> =
  { ok: true; postings: Posting[]; facts: Facts } | { ok: false; refusals: Refusal[] }
