import { day, instant, key, optional, table, text, whole } from './columns'

/** What allows us to collect from an account. */
export const mandate = table('mandate', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  reference: text(35, ''),
  scheme: text(4, 'CORE or B2B'),
  used_for: text(9, 'recurring or one-off'),
  signed_on: day(''),
  iban: text(34, ''),
  bic: text(11, ''),
  holder: text(120, 'of the account'),
  state: text(9, 'see core/collections MANDATE_STATES'),
  state_why: text(200, ''),
  last_used: optional(day('collection day of the last use')),
  most: optional(whole('that one collection may take, minor units of euro')),
  notice_days: optional(whole('agreed; null: those of the house')),
  ends_next: whole('1: the next collection is told as the last'),
  was_reference: text(35, 'until the change is told to the bank'),
  was_iban: text(34, 'the same'),
  was_creditor: text(35, 'the same'),
  attachment_id: optional(whole('the scan')),
  version: whole(''),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
