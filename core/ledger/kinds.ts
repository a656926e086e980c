import type { Chart, Purpose, Side } from './types'

/**
 * What the ledger must know of a kind of item. A new kind is a new row here, and nothing else lists kinds.
 */
export interface KindRow {
  /** As a person reads it, capitalised. */
  label: string
  /** Which side of the account it stands on; `either`: its posting says. */
  side: Side | 'either'
  /** The control account it lies on. */
  control: Extract<Purpose, 'receivables' | 'advances'>
  /** The register in which its number is given once only. */
  register: string
  /** The series its number comes from when it has none of its own. */
  series: string | null
  /** Counts as a claim on the customer, or a claim given up: sales, in measures of collection. */
  receivable: boolean
  /** Money received from the customer: listed among receipts, and what it pays may earn a discount. */
  money: boolean
  /** A document of the seller's books, that is imported or keyed. */
  document: boolean
  /** `cause`: an overdue one causes a notice. `along`: claimed along with others, never alone. `never`. */
  remindable: 'cause' | 'along' | 'never'
  /** A payer may name it in the text of a payment. */
  matchable: boolean
  /** Born of another item, and taken back only with it. */
  born: boolean
  /** What its links allow. */
  links: Links
  /** What moves a balance when it is posted or allocated: the parts of a bridge between two days. */
  movement: Movement
}

/**
 * `free`: undone one by one. `whole`: only with the item itself, for it is nothing without what it closes.
 * `holds`: so too, and what it closes cannot be reversed while it stands.
 */
export type Links = 'free' | 'whole' | 'holds'

/** `allowed`: given up, as a discount or a small difference. `refunded`: credit that went back, or lapsed. */
export type Movement = 'billed' | 'paid' | 'credited' | 'allowed' | 'refunded' | 'reversed'

const document: Omit<KindRow, 'label' | 'side'> = {
  control: 'receivables',
  register: 'document',
  series: null,
  receivable: true,
  money: false,
  document: true,
  remindable: 'cause',
  matchable: true,
  born: false,
  links: 'free',
  movement: 'billed',
}
const money: Omit<KindRow, 'label' | 'register' | 'series'> = {
  side: 'credit',
  control: 'receivables',
  receivable: false,
  money: true,
  document: false,
  remindable: 'never',
  matchable: false,
  born: false,
  links: 'free',
  movement: 'paid',
}
const claim: Omit<KindRow, 'label' | 'register' | 'series'> = {
  side: 'debit',
  control: 'receivables',
  receivable: true,
  money: false,
  document: false,
  remindable: 'along',
  matchable: true,
  born: false,
  links: 'free',
  movement: 'billed',
}
/** A debit that closes a credit: money that goes back, or credit that nobody claims. */
const givenBack: Omit<KindRow, 'label' | 'register' | 'series'> = {
  side: 'debit',
  control: 'receivables',
  receivable: false,
  money: false,
  document: false,
  remindable: 'never',
  matchable: false,
  born: false,
  links: 'holds',
  movement: 'refunded',
}
const adjustment: Omit<KindRow, 'label' | 'register'> = {
  side: 'credit',
  control: 'receivables',
  series: 'adjustment',
  receivable: false,
  money: false,
  document: false,
  remindable: 'never',
  matchable: false,
  born: true,
  links: 'free',
  movement: 'allowed',
}

/**
 * `advance`: money before the invoice, a liability until applied. `charge`: a bank fee charged on.
 * `refund`: money that goes back to the customer. `lapse`: a small credit that nobody claimed, taken off the
 * account. `recovery`: money for what was written off, taken off the account to income.
 * `sale`: an invoice that a factor took over or was paid for; `commission`: what it kept of one that it paid;
 * `passed-on`: money of a debtor that is the factor's. `conversion`: the
 * two sides of a payment in another currency than the item it pays.
 */
const ROWS = {
  invoice: { ...document, label: 'Invoice', side: 'debit' },
  'credit-note': {
    ...document,
    label: 'Credit note',
    side: 'credit',
    remindable: 'never',
    movement: 'credited',
  },
  'debit-note': { ...document, label: 'Debit note', side: 'debit' },
  fee: { ...claim, label: 'Reminder fee', register: 'fee', series: 'fee' },
  interest: { ...claim, label: 'Late interest', register: 'interest', series: 'interest' },
  compensation: {
    ...claim,
    label: 'Late-payment compensation',
    register: 'compensation',
    series: 'compensation',
  },
  charge: { ...claim, label: 'Bank fee', register: 'charge', series: 'charge' },
  receipt: { ...money, label: 'Receipt', register: 'receipt', series: 'receipt' },
  advance: { ...money, label: 'Advance', control: 'advances', register: 'advance', series: 'advance' },
  // A payment may still bounce whose money was given back: the customer owes the refund then.
  refund: { ...givenBack, label: 'Refund', register: 'refund', series: 'refund', links: 'whole' },
  recovery: {
    ...givenBack,
    label: 'Recovery',
    register: 'recovery',
    series: 'recovery',
    movement: 'allowed',
  },
  lapse: { ...givenBack, label: 'Unclaimed credit', register: 'lapse', series: 'lapse' },
  discount: { ...adjustment, label: 'Discount', register: 'discount' },
  difference: { ...adjustment, label: 'Small difference', register: 'difference' },
  'write-off': {
    ...adjustment,
    label: 'Write-off',
    register: 'write-off',
    series: 'write-off',
    born: false,
    links: 'holds',
  },
  sale: {
    ...adjustment,
    label: 'Given to a factor',
    register: 'sale',
    series: 'sale',
    born: false,
    links: 'holds',
    movement: 'paid',
  },
  commission: {
    ...adjustment,
    label: 'Commission of a factor',
    register: 'commission',
    series: 'commission',
    movement: 'paid',
  },
  'passed-on': {
    ...givenBack,
    label: 'Passed to a factor',
    register: 'passed-on',
    series: 'passed-on',
  },
  conversion: {
    ...adjustment,
    label: 'Conversion',
    side: 'either',
    register: 'conversion',
    series: 'conversion',
    movement: 'paid',
  },
  reversal: {
    ...adjustment,
    label: 'Reversal',
    side: 'either',
    register: 'reversal',
    series: 'reversal',
    born: false,
    movement: 'reversed',
  },
} satisfies Record<string, KindRow>

export type ItemKind = keyof typeof ROWS
export const KINDS: Readonly<Record<ItemKind, KindRow>> = ROWS
export const ITEM_KINDS = Object.keys(KINDS) as ItemKind[]

/** The kinds for which something holds, in the order of the table. */
export function kindsWhere(holds: (row: KindRow) => boolean): ItemKind[] {
  return ITEM_KINDS.filter(kind => holds(KINDS[kind]))
}

/** The same for SQL: `'receipt', 'advance'`. The names are ours, letters and hyphens only. */
export function kindList(holds: (row: KindRow) => boolean): string {
  return kindsWhere(holds)
    .map(kind => `'${kind}'`)
    .join(', ')
}

export const isMoney = (kind: ItemKind): boolean => KINDS[kind].money

/** The side of a kind that has one of its own. */
export function sideOf(kind: ItemKind): Side {
  const { side } = KINDS[kind]
  if (side === 'either') throw new Error(`the side of a ${kind} is said by its posting`)
  return side
}

/**
 * Accounts that only their own register moves: what they hold must equal what it says. Bank accounts are too.
 */
export const KEPT: readonly Purpose[] = [
  'receivables',
  'advances',
  'on-hand',
  'clearing',
  'paying-out',
  'bank',
]

/** The accounts of a chart, without those that have no purpose. */
export function accountsOf(chart: Chart): Map<string, 'free' | 'kept'> {
  const purposes = Object.keys(chart) as Purpose[]
  return new Map(purposes.map(p => [chart[p], KEPT.includes(p) ? 'kept' : 'free']))
}

/** Kinds of journal entry, as a person reads them. */
const ENTRIES = {
  document: 'Document',
  receipt: 'Receipt',
  refund: 'Refund',
  allocation: 'Allocation',
  unallocation: 'Unallocation',
  reversal: 'Reversal',
  correction: 'Correction',
  slip: 'Slip',
  bank: 'Bank',
} satisfies Record<string, string>

export type PostingKind = keyof typeof ENTRIES
export const ENTRY_KINDS: Readonly<Record<PostingKind, string>> = ENTRIES
