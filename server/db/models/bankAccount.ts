import { instant, key, longText, optional, table, text, whole } from './columns'

/** An account of ours at a bank. */
export const bankAccount = table('bank_account', ['id'], {
  id: key(''),
  name: text(80, 'as we call it'),
  iban: text(34, 'electronic form'),
  currency: text(3, 'ISO 4217'),
  account: text(16, 'its own ledger account'),
  csv_map: optional(longText('which column of its CSV holds what, JSON')),
  active: whole('1 in use'),
  version: whole('goes up with each change: a stale edit is refused'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
  opening_entry_id: optional(whole('the entry it opened with')),
  bic: text(11, 'of the bank; empty: found by the IBAN'),
})
