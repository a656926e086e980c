import { day, instant, key, optional, table, text, whole } from './columns'

/** A paying-in slip. */
export const slip = table('slip', ['id'], {
  id: key(''),
  number: text(16, ''),
  date: day(''),
  currency: text(3, 'ISO 4217'),
  total: whole('minor units'),
  cash_kept: whole('kept back to petty cash, minor units'),
  entry_id: whole('the journal entry that wrote it'),
  void_entry_id: optional(whole('the entry that took it back')),
  void_reason: text(200, ''),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
