import type { IsoDate } from '../../core/calendar'

/*
 * Payment files between a company and its bank: ISO 20022 customer credit transfers (pain.001) and direct
 * debits (pain.008). Amounts are minor units of the currency.
 */

export const TRANSFER_FORMATS = ['pain.001.001.03', 'pain.001.001.09'] as const
export const DEBIT_FORMATS = ['pain.008.001.02', 'pain.008.001.08'] as const
export type TransferFormat = (typeof TRANSFER_FORMATS)[number]
export type DebitFormat = (typeof DEBIT_FORMATS)[number]

/** Core: any debtor; B2B: businesses only, without a right to a refund. */
export type Scheme = 'CORE' | 'B2B'
/** First, recurring, one-off, final. */
export type Sequence = 'FRST' | 'RCUR' | 'OOFF' | 'FNAL'

/** A street with its number is one line, as addresses are kept. */
export interface Address {
  street: string
  postcode: string
  city: string
  /** ISO 3166, two letters. */
  country: string
}

/** One side of a payment. */
export interface Party {
  name: string
  iban: string
  /** Empty: the bank finds it by the IBAN. */
  bic: string
  address?: Address
}

export interface Payment {
  endToEndId: string
  amount: number
  party: Party
  /** Unstructured, at most 140 signs. */
  text: string
}

/** What of a mandate is another than when it was used last: what it was before. */
export interface Amendment {
  reference?: string
  iban?: string
  creditorId?: string
}

export interface Debit extends Payment {
  mandate: { reference: string; signedOn: IsoDate; amended: Amendment | null }
}

interface FileHead {
  /** The message id: never used again. */
  id: string
  /** `2026-11-16T09:30:00`. */
  createdAt: string
  currency: string
  /** Our side. */
  own: Party
}

export interface TransferFile extends FileHead {
  format: TransferFormat
  /** The day on which the bank is to pay. */
  date: IsoDate
  payments: readonly Payment[]
}

export interface DebitFile extends FileHead {
  format: DebitFormat
  scheme: Scheme
  creditorId: string
  /** The days and sequences in which they are collected: a block for each. */
  blocks: readonly DebitBlock[]
}

export interface DebitBlock {
  date: IsoDate
  sequence: Sequence
  debits: readonly Debit[]
}

export const sumOf = (payments: readonly { amount: number }[]): number =>
  payments.reduce((sum, p) => sum + p.amount, 0)

/** The id of a block: that of its file with its place behind it. */
export const blockId = (fileId: string, place: number): string => `${fileId}-${place + 1}`
