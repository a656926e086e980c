import { day, instant, key, optional, table, text, whole } from './columns'

/** Money received that is no customer's. */
export const sundryReceipt = table('sundry_receipt', ['id'], {
  id: key(''),
  number: text(16, ''),
  date: day(''),
  currency: text(3, 'ISO 4217'),
  amount: whole('minor units'),
  payer: text(160, ''),
  text: text(200, ''),
  account: text(16, 'ledger account it is for'),
  entry_id: whole('the journal entry that wrote it'),
  void_entry_id: optional(whole('the entry that took it back')),
  void_reason: text(200, ''),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
