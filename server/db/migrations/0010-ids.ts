/**
 * Ids of entries, items and allocations come from series, so that a posting knows all its rows before it
 * writes the first, and they go to the database together.
 */
export const name = '0010-ids'

const idsOf = (table: string) => `INSERT IGNORE INTO series (name, prefix, next, width)
  SELECT '${table}-id', '', COALESCE(MAX(id), 0) + 1, 1 FROM ${table}`

export const up = [
  idsOf('entry'),
  idsOf('item'),
  idsOf('allocation'),
  // Postings hold this row; a new account changes it.
  `INSERT IGNORE INTO setting (name, value) VALUES ('chart', '0')`,
]
