import type { IsoDate } from '../../core/calendar'

/** One booked movement of a bank account, whatever format told of it. */
export interface StatementLine {
  bookingDate: IsoDate
  valueDate: IsoDate
  /** Minor units of the account's currency: money in positive, money out negative. */
  amount: number
  /** The other side, as the bank names it. */
  name: string
  iban: string
  /** Free remittance text. */
  text: string
  /** Structured creditor reference (ISO 11649) or the bank's own reference for the payer. */
  reference: string
  endToEndId: string
  /** The bank's own reference of the movement. */
  bankReference: string
  /** Bank transaction code, such as `PMNT-RCDT-ESCT`, or the format's own. */
  code: string
  /** A return reason (ISO 20022 external code) when this sends an earlier payment back. */
  returnReason: string
  /** The bank's reference of the whole entry, where this line is one payment of several. */
  entryReference?: string
  /** What more the bank tells, where it does. */
  details?: LineDetails
}

/** An amount as the bank writes it, in a currency of its own. */
export interface ToldAmount {
  amount: string
  currency: string
}

export interface LineDetails {
  /** On whose behalf was paid. */
  ultimate?: string
  /** Kept back by banks on the way. */
  charges?: ToldAmount[]
  /** What the payer ordered, before conversion and charges. */
  instructed?: ToldAmount
  /** Exchange rate that the bank used. */
  rate?: string
  remittance?: RemittedDocument[]
}

/** A document as the payer's structured remittance tells it; amounts in minor units of the account. */
export interface RemittedDocument {
  number: string
  /** A credit note, taken off. */
  credit: boolean
  due: number | null
  paid: number
  discount: number
  /** Kept back for another reason; negative: added. */
  adjusted: number
  reason: string
}

export interface Statement {
  format: 'camt.053' | 'camt.052' | 'camt.054' | 'MT940' | 'BAI2' | 'OFX' | 'CSV'
  /** The bank's number of this statement. */
  id: string
  /** IBAN or account number as the file has it. */
  account: string
  currency: string
  from: IsoDate
  to: IsoDate
  /** Minor units; null when the format or file does not tell. */
  opening: number | null
  closing: number | null
  lines: StatementLine[]
}

/** A file that cannot be taken: what is wrong, where, and what would be right. */
export class StatementFault extends Error {
  constructor(
    message: string,
    readonly path: string,
    readonly satisfy: string,
  ) {
    super(message)
  }
}
