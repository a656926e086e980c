/**
 * Ids of entries, items and allocations come from series, so that a posting knows all its rows before it
 * writes the first, and they go to the database together. Versions say when what is kept in memory is to be
 * read again. Ways to the bank's lists that had no index.
 */
export const name = '0010-ids'

const idsOf = (table: string) => `INSERT IGNORE INTO series (name, prefix, next, width)
  SELECT '${table}-id', '', COALESCE(MAX(id), 0) + 1, 1 FROM ${table}`

export const up = [
  idsOf('entry'),
  idsOf('item'),
  idsOf('allocation'),
  `INSERT IGNORE INTO setting (name, value) VALUES ('chart', '0'), ('customers', '0')`,
  'ALTER TABLE open_item ADD KEY of_amount (currency, open)',
  `ALTER TABLE bank_line ADD KEY by_day (booking_date, id),
    ADD KEY totals (bank_account_id, state, currency, amount)`,
]
