import type { IsoDate } from '../../core/calendar'

/*
 * Two questions about the past. *Effective*: what was open on a day, as we know it now; a posting dated back
 * changes the answer. *Known*: what we would have said then, from the entries there were; nothing changes it
 * any more. Entries get their numbers in the order in which they are committed, so that "up to this entry" is
 * one state of the books.
 */

/**
 * `asOf`: the day. `today`: the business date. `known`: the id of the last entry that counts; null, all of
 * them.
 */
export interface Past {
  asOf: IsoDate
  today: IsoDate
  known: number | null
}

/** Open amounts from the postings themselves, for what was known at an entry. Signed, each with its item. */
const KNOWN_MOVES = (side: 'debit' | 'credit') => {
  const sign = side === 'debit' ? '-' : ''
  return `SELECT i.id, i.customer_id, i.currency, i.due_date, i.document_date,
      ${side === 'debit' ? 1 : 0} AS debit,
      ${sign}a.amount AS open, ${sign}a.${side}_base AS base_open
    FROM allocation a JOIN item i ON i.id = a.${side}_item_id
    WHERE a.effective <= :asOf AND a.entry_id <= :known AND i.posting_date <= :asOf`
}
const KNOWN = `SELECT i.id, i.customer_id, i.currency, i.due_date, i.document_date, i.side = 'debit' AS debit,
    IF(i.side = 'debit', i.amount, -i.amount) AS open, IF(i.side = 'debit', i.base_amount,
      -i.base_amount) AS base_open
  FROM item i WHERE i.posting_date <= :asOf AND i.entry_id <= :known
  UNION ALL ${KNOWN_MOVES('debit')} UNION ALL ${KNOWN_MOVES('credit')}`

/**
 * Open amounts as of a date, signed. Today reads the projection; a past date takes it and puts back what was
 * allocated since, so its cost follows the changes since then, not the age of the ledger. Values: `:asOf`,
 * and `:known`.
 */
export function openAsOfSql({ asOf, today, known }: Past): string {
  if (known !== null)
    return `(SELECT id AS item_id, customer_id, currency, due_date, document_date, SUM(open) AS open,
        SUM(base_open) AS base_open FROM (${KNOWN}) moves
      GROUP BY id, customer_id, currency, due_date, document_date HAVING open <> 0 OR base_open <> 0)`
  if (asOf >= today)
    return `(SELECT item_id, customer_id, currency, due_date, document_date, open, base_open FROM open_item
      WHERE posting_date <= :asOf)`
  return `(
    SELECT i.id AS item_id, i.customer_id, i.currency, i.due_date, i.document_date, s.open, s.base_open
    FROM (
      SELECT item_id, SUM(open) AS open, SUM(base_open) AS base_open FROM (
        SELECT item_id, open, base_open FROM open_item WHERE posting_date <= :asOf
        UNION ALL SELECT debit_item_id, amount, debit_base FROM allocation WHERE effective > :asOf
        UNION ALL SELECT credit_item_id, -amount, -credit_base FROM allocation WHERE effective > :asOf
      ) moves GROUP BY item_id HAVING open <> 0 OR base_open <> 0
    ) s JOIN item i ON i.id = s.item_id WHERE i.posting_date <= :asOf)`
}

/**
 * The same as movements, for sums: what is open now and, for a past date, what was allocated since, each with
 * the dates and side (`debit` 1 or 0) of its item. Sums by age are linear in them, so nothing is added up
 * item by item first.
 */
export function movesAsOfSql({ asOf, today, known }: Past): string {
  if (known !== null) return `(${KNOWN})`
  const now = `SELECT customer_id, currency, due_date, document_date, open > 0 AS debit, open, base_open
      FROM open_item WHERE posting_date <= :asOf`
  if (asOf >= today) return `(${now})`
  const back = (side: 'debit' | 'credit', sign: string) => `
    UNION ALL SELECT i.customer_id, i.currency, i.due_date, i.document_date, ${side === 'debit' ? 1 : 0},
      ${sign}a.amount, ${sign}a.${side}_base
    FROM allocation a JOIN item i ON i.id = a.${side}_item_id WHERE a.effective > :asOf
      AND i.posting_date <= :asOf`
  return `(${now}${back('debit', '')}${back('credit', '-')})`
}
