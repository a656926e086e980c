import { instant, key, table, text, whole } from './columns'

/** Bank lines that go to a ledger account. */
export const ledgerRule = table('ledger_rule', ['id'], {
  id: key(''),
  iban: text(34, 'of the other side; empty: any'),
  words: text(120, 'in the text; empty: any'),
  account: text(16, 'where they go'),
  money_in: whole('1 money in, 0 money out'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
