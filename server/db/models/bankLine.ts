import { day, decimal, key, longText, optional, table, text, whole } from './columns'

/** One movement of a bank statement. */
export const bankLine = table('bank_line', ['id'], {
  id: key(''),
  bank_account_id: whole('whose movement'),
  statement_id: whole('where it was first seen'),
  fingerprint: text(64, 'SHA-256 of all the bank says of it: the same line is the same'),
  occurrence: whole('the how-manieth of its like in the file'),
  booking_date: day('day of the books'),
  value_date: day('day of payment, by which discount is judged'),
  currency: text(3, 'ISO 4217'),
  amount: whole('minor units, money in positive'),
  name: text(160, 'payer or payee as the bank tells'),
  iban: text(34, 'of the other side'),
  text: text(1000, 'remittance text'),
  reference: text(60, 'structured reference'),
  end_to_end_id: text(60, 'of the payer'),
  bank_reference: text(60, 'of the bank'),
  code: text(40, 'kind of movement as the bank codes it'),
  return_reason: text(8, 'ISO 20022 reason when it was sent back'),
  state: text(8, 'open or settled'),
  version: whole('goes up with each change: a stale edit is refused'),
  proposals: optional(longText('what it may be, JSON, the best first')),
  confidence: decimal('of the best, 0 to 1'),
  tie: whole('1: two answers are equally good'),
  held: text(300, 'why it waits'),
})
