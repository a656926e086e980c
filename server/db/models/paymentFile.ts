import type { FileState } from '../../../core/payments'
import { day, instant, key, longText, optional, table, text, whole, wordOf } from './columns'

/** A file of payments for the bank, as it was made. */
export const paymentFile = table('payment_file', ['id'], {
  id: key(''),
  number: text(35, 'its message id'),
  kind: wordOf<'transfer' | 'debit'>(8, 'transfer or debit'),
  scheme: text(4, 'of a debit: CORE or B2B'),
  format: text(16, 'such as pain.001.001.09'),
  bank_account_id: whole('our account'),
  currency: text(3, 'ISO 4217'),
  execute_on: day('when the bank is to pay, or the first day of collection'),
  payments: whole('how many'),
  total: whole('minor units'),
  state: wordOf<FileState>(12, 'see core/payments FILE_STATES'),
  content: longText('the XML'),
  content_hash: text(64, 'SHA-256 of the XML'),
  reason: text(200, 'why it was refused or taken back'),
  sent_by: optional(whole('who handed it over')),
  sent_at: optional(instant('UTC')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
