import { key, optional, table, text, whole } from './columns'

/** A line of an entry. Append-only; lines of an entry cancel out by currency and in base. */
export const journalLine = table('journal_line', ['id'], {
  id: key(''),
  entry_id: whole('the journal entry that wrote it'),
  account: text(16, 'ledger account'),
  currency: text(3, 'ISO 4217'),
  amount: whole('minor units, debit positive'),
  base_amount: whole('base currency'),
  customer_id: optional(whole('the account')),
  item_id: optional(whole('the item that caused it')),
  allocation_id: optional(whole('the allocation that caused it')),
})
