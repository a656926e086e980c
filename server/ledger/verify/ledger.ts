import { ITEM_KINDS, kindList, KINDS } from '../../../core/ledger'
import type { Check } from './check'

/** The three append-only tables, and the projections that are kept in step with them. */

const CONTROL = `SELECT number FROM ledger_account WHERE purpose IN ('receivables', 'advances')`
/** Kinds of claim that come with a notice. */
const FEES = kindList(k => k.series === 'fee')
const INTEREST = kindList(k => k.series === 'interest')
const SERIES_KINDS = ITEM_KINDS.map(kind => KINDS[kind]).filter(row => row.series)
const quoted = (names: readonly string[]) => [...new Set(names)].map(n => `'${n}'`).join(', ')
const SERIES = quoted(SERIES_KINDS.map(row => row.series!))
const SERIES_REGISTERS = quoted(SERIES_KINDS.map(row => row.register))
const SIGN = `IF(i.side = 'debit', 1, -1)`
const OPEN = `
  SELECT i.id, i.customer_id, i.currency, i.side, i.amount, i.base_amount, i.amount - COALESCE(m.amount,
    0) AS open, i.base_amount - COALESCE(m.base, 0) AS base_open
  FROM item i LEFT JOIN (SELECT item_id, SUM(amount) AS amount, SUM(base) AS base FROM (
    SELECT debit_item_id AS item_id, amount, debit_base AS base FROM allocation UNION ALL
    SELECT credit_item_id, amount, credit_base FROM allocation) x GROUP BY item_id) m ON m.item_id = i.id`

export const LEDGER_CHECKS: Check[] = [
  [
    'posting into a closed period',
    `SELECT CONCAT('entry ', e.number) AS k, CONCAT('a date after ', c.until) AS expected, e.date AS found
      FROM closing c JOIN entry e ON e.date <= c.until AND e.id > c.after_entry
      WHERE e.id <= COALESCE((SELECT n.after_entry FROM closing n WHERE n.id > c.id ORDER BY n.id LIMIT 1),
        e.id)`,
  ],
  [
    'entry does not balance',
    `SELECT CONCAT('entry ', e.number, ' ', l.currency) AS k, '0 / 0' AS expected, CONCAT(SUM(l.amount),
    ' / ', SUM(l.base_amount)) AS found
    FROM journal_line l JOIN entry e ON e.id = l.entry_id GROUP BY e.id, e.number, l.currency
      HAVING SUM(l.amount) <> 0 OR SUM(l.base_amount) <> 0`,
  ],
  [
    'entry without lines or cause',
    `SELECT CONCAT('entry ', e.number) AS k, 'lines or allocations' AS expected, 'none' AS found FROM entry e
    WHERE NOT EXISTS (SELECT 1 FROM journal_line l WHERE l.entry_id = e.id) AND NOT EXISTS (SELECT 1
      FROM allocation a WHERE a.entry_id = e.id)`,
  ],
  [
    'item over-allocated',
    `SELECT CONCAT('item ', o.id) AS k, CONCAT('0 to ', o.amount) AS expected, o.open AS found
      FROM (${OPEN}) o WHERE o.open < 0 OR o.open > o.amount OR (o.open = 0 AND o.base_open <> 0)`,
  ],
  [
    'allocation across accounts or currencies',
    `SELECT CONCAT('allocation ', a.id) AS k, CONCAT(d.customer_id, ' ', d.currency) AS expected,
    CONCAT(c.customer_id, ' ', c.currency) AS found
    FROM allocation a JOIN item d ON d.id = a.debit_item_id JOIN item c ON c.id = a.credit_item_id
      WHERE d.customer_id <> c.customer_id OR d.currency <> c.currency OR d.side <> 'debit'
      OR c.side <> 'credit'`,
  ],
  [
    'open item missing or wrong',
    `SELECT CONCAT('item ', i.id) AS k, CONCAT(${SIGN} * i.open, ' / ', ${SIGN} * i.base_open) AS expected,
    IF(p.item_id IS NULL, 'nothing', CONCAT(p.open, ' / ', p.base_open)) AS found
    FROM (${OPEN}) i LEFT JOIN open_item p ON p.item_id = i.id WHERE i.open <> 0 AND (p.item_id IS NULL
      OR p.open <> ${SIGN} * i.open OR p.base_open <> ${SIGN} * i.base_open)`,
  ],
  [
    'open item that should be closed',
    `SELECT CONCAT('item ', p.item_id) AS k, 'nothing' AS expected, p.open AS found FROM open_item p LEFT
      JOIN (${OPEN}) i ON i.id = p.item_id WHERE i.id IS NULL OR i.open = 0`,
  ],
  [
    'account total',
    `SELECT CONCAT('customer ', x.customer_id, ' ', x.currency) AS k, CONCAT(SUM(x.a), ' / ', SUM(x.b), ' / ',
      SUM(x.c), ' / ', SUM(x.d)) AS expected, CONCAT(SUM(x.e), ' / ', SUM(x.f), ' / ', SUM(x.g), ' / ',
      SUM(x.h)) AS found FROM (
      SELECT customer_id, currency, IF(side = 'debit', open, 0) AS a, IF(side = 'debit', 0, open) AS b,
        IF(side = 'debit', base_open, 0) AS c, IF(side = 'debit', 0, base_open) AS d, 0 AS e, 0 AS f, 0 AS g,
        0 AS h FROM (${OPEN}) o
      UNION ALL SELECT customer_id, currency, 0, 0, 0, 0, debit, credit, base_debit, base_credit
        FROM account_total) x
    GROUP BY x.customer_id, x.currency HAVING SUM(x.a) <> SUM(x.e) OR SUM(x.b) <> SUM(x.f)
      OR SUM(x.c) <> SUM(x.g) OR SUM(x.d) <> SUM(x.h)`,
  ],
  [
    'movement of a day',
    `SELECT CONCAT(x.account, ' ', x.date, ' ', x.currency) AS k, CONCAT(SUM(x.a), ' / ',
      SUM(x.b)) AS expected, CONCAT(SUM(x.c), ' / ', SUM(x.d)) AS found FROM (
      SELECT l.account, e.date, l.currency, l.amount AS a, l.base_amount AS b, 0 AS c, 0 AS d
        FROM journal_line l JOIN entry e ON e.id = l.entry_id
      UNION ALL SELECT account, date, currency, 0, 0, amount, base_amount FROM account_day) x
    GROUP BY x.account, x.date, x.currency HAVING SUM(x.a) <> SUM(x.c) OR SUM(x.b) <> SUM(x.d)`,
  ],
  [
    'control account against open items',
    `SELECT x.currency AS k, CONCAT(SUM(x.a), ' / ', SUM(x.b)) AS expected, CONCAT(SUM(x.c), ' / ',
      SUM(x.d)) AS found FROM (
      SELECT o.currency, IF(o.side = 'debit', 1, -1) * o.open AS a, IF(o.side = 'debit', 1,
        -1) * o.base_open AS b, 0 AS c, 0 AS d FROM (${OPEN}) o
      UNION ALL SELECT l.currency, 0, 0, l.amount, l.base_amount FROM journal_line l
        WHERE l.account IN (${CONTROL})) x
    GROUP BY x.currency HAVING SUM(x.a) <> SUM(x.c) OR SUM(x.b) <> SUM(x.d)`,
  ],
  [
    'series of ids',
    ['entry', 'item', 'allocation']
      .map(
        table => `SELECT '${table}' AS k, CONCAT('above ', MAX(t.id)) AS expected, s.next AS found
          FROM series s JOIN ${table} t WHERE s.name = '${table}-id' GROUP BY s.next HAVING MAX(t.id) >= s.next`,
      )
      .join(' UNION ALL '),
  ],
  [
    'number series of the journal',
    `SELECT 'entry' AS k, s.next - 1 AS expected, (SELECT COUNT(*) FROM entry) AS found FROM series s
      WHERE s.name = 'entry' AND s.next - 1 <> (SELECT COUNT(*) FROM entry)`,
  ],
  [
    'reminder fee without notice',
    `SELECT CONCAT('item ', i.number) AS k, 'a notice' AS expected, 'none' AS found FROM item i LEFT
      JOIN notice n ON n.fee_item_id = i.id WHERE i.kind IN (${FEES}) AND n.id IS NULL`,
  ],
  [
    'interest that its periods do not add up to',
    `SELECT CONCAT('item ', i.number) AS k, COALESCE(SUM(l.amount), 0) AS expected, i.amount AS found
      FROM item i LEFT JOIN interest_line l ON l.document_item_id = i.id WHERE i.kind IN (${INTEREST})
      GROUP BY i.id HAVING expected <> found`,
  ],
  [
    'item below zero or above its amount on a day',
    `SELECT CONCAT('item ', d.id, ' on ', d.effective) AS k, CONCAT('0 to ', i.amount) AS expected,
      i.amount - d.taken AS found FROM (
        SELECT id, effective, SUM(SUM(amount)) OVER (PARTITION BY id ORDER BY effective) AS taken FROM (
          SELECT debit_item_id AS id, effective, amount FROM allocation
          UNION ALL SELECT credit_item_id, effective, amount FROM allocation) moves
        GROUP BY id, effective) d
      JOIN item i ON i.id = d.id WHERE d.taken < 0 OR d.taken > i.amount`,
  ],
  [
    'allocation before its item, or undone before it took effect',
    `SELECT CONCAT('allocation ', a.id) AS k, GREATEST(d.posting_date, c.posting_date) AS expected,
      a.effective AS found FROM allocation a JOIN item d ON d.id = a.debit_item_id
      JOIN item c ON c.id = a.credit_item_id
      WHERE a.effective < d.posting_date OR a.effective < c.posting_date
    UNION ALL SELECT CONCAT('allocation ', a.id), o.effective, a.effective FROM allocation a
      JOIN allocation o ON o.id = a.undoes_id
      WHERE a.effective < o.effective OR a.amount <> -o.amount OR a.debit_item_id <> o.debit_item_id
      OR a.credit_item_id <> o.credit_item_id`,
  ],
  [
    'journal line on no account',
    `SELECT CONCAT('line ', l.id) AS k, 'an account of the chart' AS expected, l.account AS found
      FROM journal_line l LEFT JOIN ledger_account a ON a.number = l.account WHERE a.number IS NULL`,
  ],
  [
    'number series of items',
    `SELECT s.name AS k, s.next - 1 AS expected, COUNT(i.id) AS found FROM series s
      LEFT JOIN item i ON i.number LIKE CONCAT(s.prefix, '%') AND i.register IN (${SERIES_REGISTERS})
        AND (i.register = s.name OR (s.name = 'adjustment' AND i.register IN ('discount', 'difference')))
      WHERE s.name IN (${SERIES}) GROUP BY s.name, s.next HAVING COUNT(i.id) <> s.next - 1`,
  ],
]
