import type { LapseTerms } from '../refunds/lapse'
import type { ReturnAction } from './reasons'

/** How the house pays back and collects, from Setup. Amounts in minor units of the base currency. */
export interface PaymentPolicy {
  /** Ours for direct debits; empty: none was given to us yet. */
  creditorId: string
  /** For euro; other currencies always go as version 09. */
  transferFormat: 'pain.001.001.03' | 'pain.001.001.09'
  debitFormat: 'pain.008.001.02' | 'pain.008.001.08'
  /** Days of advance notice before a collection. */
  noticeDays: number
  /** Credits on the account are taken off what is collected. */
  creditsFirst: boolean
  /** Fees and interest are collected too. */
  withCharges: boolean
  /** Less than this is not collected. */
  least: number
  /** Charged on to the customer when a collection comes back; 0 for nothing. */
  returnFee: number
  /** What follows a return, by its code, where it is not what the trade does. */
  returnActions: Readonly<Record<string, ReturnAction>>
  /** A collection that came back for want of money is presented again so often, */
  againTimes: number
  /** on this weekday (0 Sunday … 6 Saturday); null: as soon as it can be. */
  againWeekday: number | null
  /** Numbers of cheques may come again. */
  chequeDuplicates: boolean
  /** A cheque that was not cashed by then is told of. */
  chequeDays: number
  lapse: LapseTerms
}

/** Where a house begins: our judgement, the careful side. */
export const PAYMENT_POLICY: PaymentPolicy = {
  creditorId: '',
  transferFormat: 'pain.001.001.09',
  debitFormat: 'pain.008.001.08',
  noticeDays: 14,
  creditsFirst: true,
  withCharges: true,
  least: 0,
  returnFee: 0,
  returnActions: {},
  againTimes: 1,
  againWeekday: null,
  chequeDuplicates: false,
  chequeDays: 30,
  lapse: { days: 1095, byCountry: {}, most: 5000 },
}
