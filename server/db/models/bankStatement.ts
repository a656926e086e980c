import { day, instant, key, optional, table, text, whole } from './columns'

/** A statement taken in. */
export const bankStatement = table('bank_statement', ['id'], {
  id: key(''),
  bank_account_id: whole('whose'),
  number: text(80, "the bank's"),
  format: text(10, 'of the file'),
  from_date: day('first day'),
  to_date: day('last day'),
  opening: optional(whole('balance, minor units; null when the file tells none')),
  closing: optional(whole('balance, minor units')),
  file_name: text(120, 'as it came'),
  file_hash: text(64, 'SHA-256 of the file'),
  fresh: whole('lines that were new'),
  known: whole('lines that were there before'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
