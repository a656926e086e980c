import type { Directory } from './directory'
import type { IsoDate } from '../../calendar'

/** A bank line as the matching sees it. Amount in minor units, money in positive. */
export interface MatchLine {
  amount: number
  currency: string
  bookingDate: IsoDate
  /** The payment date: discount is judged by it. */
  valueDate: IsoDate
  name: string
  iban: string
  text: string
  reference: string
  endToEndId: string
  code: string
  returnReason: string
  /** On whose behalf was paid, where the bank tells it. */
  ultimate: string
  /** What the payer says is paid, document by document (structured remittance). */
  remittance: readonly Remitted[]
}

/** A document that a payer names with its amounts, minor units of the line. A credit note is taken off. */
export interface Remitted {
  number: string
  credit: boolean
  /** What is paid for it, or taken off for a credit note. */
  paid: number
  /** Discount taken. */
  discount: number
  /** Kept back for another reason, where it is told. */
  adjusted: number
}

export interface MatchItem {
  id: number
  customerId: number
  number: string
  kind: string
  side: 'debit' | 'credit'
  amount: number
  open: number
  documentDate: IsoDate
  dueDate: IsoDate
  discounts: { date: IsoDate; amount: number }[]
  /** The customer's order or ours, as the document names it; empty for none. */
  order: string
}

export interface MatchCustomer {
  id: number
  number: string
  name: string
  iban: string
  parentId: number | null
}

/** What a bank line can settle: each is met by one line only. */
export interface CoveredTarget {
  kind: 'means' | 'slip' | 'reversal' | 'refund'
  id: number
}

/**
 * Money that is posted and waits for the bank: a transfer, card or direct debit of a receipt, a slip, a
 * refund, or a reversal whose money was there already. `file`: all payments of a file that the bank books as
 * one sum; they are its `targets`.
 */
export interface Covered {
  kind: CoveredTarget['kind'] | 'file'
  id: number
  /** Of a file. */
  targets?: readonly CoveredTarget[]
  label: string
  customerId: number | null
  amount: number
  date: IsoDate
  references: string[]
}

/**
 * Who was seen to pay: learnt from what was confirmed. Of several customers the bank account stands for each.
 */
export interface Learnt {
  iban: string
  name: string
  customerId: number
}

/** How a customer was seen to pay: learnt from what was confirmed. */
export interface Habit {
  customerId: number
  /** `oldest`: paid the oldest items first; `other`: did not; `short`: kept back `amount`. */
  kind: 'oldest' | 'other' | 'short'
  amount: number
  times: number
}

/** Money that is no customer's: by bank account or words in name and text. */
export interface LedgerRule {
  iban: string
  words: string
  account: string
  moneyIn: boolean
}

/**
 * A receipt that the bank may send back, or a refund with its amount below zero. `iban`, `name`: of the line
 * that brought it, empty for none.
 */
export interface Returnable {
  iban: string
  name: string
  itemId: number
  number: string
  customerId: number
  amount: number
  date: IsoDate
  references: string[]
  /** What the house charges on when it comes back; nothing when left out. */
  fee?: number
}

/** A document that is closed already: a second payment of it is told as such. */
export interface Closed {
  customerId: number
  number: string
  amount: number
  documentDate: IsoDate
  on: IsoDate
  by: string
  /** Nobody paid it: it was written off, and money for it is a recovery. */
  writtenOff: boolean
}

export interface MatchWorld {
  directory: Directory
  items: readonly MatchItem[]
  covered: readonly Covered[]
  learnt: readonly Learnt[]
  habits: readonly Habit[]
  rules: readonly LedgerRule[]
  returnable: readonly Returnable[]
  /** Looks a closed document up by its key (`referenceKey`). */
  closed: (key: string) => Closed | undefined
  /** Settled debits of a customer that had this amount, the latest first: the payment may be their second. */
  settled: (customerId: number, amount: number) => readonly Closed[]
  graceDays: number
  /** Largest small difference in minor units of the line's currency. */
  tolerance: number
}

export interface Part {
  customerId: number
  allocations: { itemId: number; amount: number; discount: number; difference: number }[]
  /** Credits of the account used with the payment. */
  credits: { creditItemId: number; debitItemId: number; amount: number }[]
  onAccount: number
}

export type Action =
  | { kind: 'receipt'; parts: Part[] }
  | { kind: 'covered'; targets: CoveredTarget[] }
  | { kind: 'ledger'; account: string }
  | { kind: 'return'; itemId: number; reason: string; fee?: number; charge?: number }

export interface Proposal {
  action: Action
  /** 0 to 1: how sure that this is the right answer. */
  confidence: number
  /** Why, in sentences. */
  reasons: string[]
}

/** Proposals, best first. `tie`: the first ones are equally good and none is picked. */
export interface Match {
  proposals: Proposal[]
  tie: boolean
  /** A person decides about the first one, whatever its confidence. */
  asks: boolean
}
