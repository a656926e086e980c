import type { Check } from './check'

/** Where money lies: the Tray, clearing, the bank accounts, each against the register that keeps it. */

const account = (purpose: string) => `(SELECT number FROM ledger_account WHERE purpose = '${purpose}')`
const met = (kind: string, ref: string) =>
  `EXISTS (SELECT 1 FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id WHERE t.kind = '${kind}'
    AND t.ref_id = ${ref} AND b.undone_entry_id IS NULL)`
const ON_LIVE_SLIP = `EXISTS (SELECT 1 FROM slip_means sm JOIN slip p ON p.id = sm.slip_id
  WHERE sm.means_id = m.id AND p.void_entry_id IS NULL)`
/** Payment means of receipts, of customers and of nobody's account, those that were voided left out. */
const ALL_MEANS = `SELECT m.id, m.account, m.amount, m.base_amount, m.item_id, COALESCE(i.currency,
  s.currency) AS currency
  FROM receipt_means m LEFT JOIN item i ON i.id = m.item_id LEFT JOIN sundry_receipt s ON s.id = -m.item_id
  WHERE (s.id IS NULL OR s.void_entry_id IS NULL)`
/** Those of receipts that still stand. */
const MEANS = `${ALL_MEANS} AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)`

/** By currency: what the register says lies there, against the balance of the account. */
const against = (purpose: string, register: string) => `
  SELECT x.currency AS k, CONCAT(SUM(x.a), ' / ', SUM(x.b)) AS expected, CONCAT(SUM(x.c), ' / ',
    SUM(x.d)) AS found
  FROM (SELECT r.currency, r.amount AS a, r.base_amount AS b, 0 AS c, 0 AS d FROM (${register}) r
    UNION ALL SELECT currency, 0, 0, amount, base_amount FROM journal_line
    WHERE account = ${account(purpose)}) x
  GROUP BY x.currency HAVING SUM(x.a) <> SUM(x.c) OR SUM(x.b) <> SUM(x.d)`

const TRAY = `SELECT m.currency, m.amount, m.base_amount FROM (${MEANS}) m
  WHERE m.account = ${account('on-hand')} AND NOT ${ON_LIVE_SLIP}`

/** Transfers and cards, slips handed over, and money that came back from the bank: none seen there yet. */
const CLEARING = `
  SELECT m.currency, m.amount, m.base_amount FROM (${ALL_MEANS}) m
    WHERE m.account = ${account('clearing')} AND NOT ${met('means', 'm.id')}
  UNION ALL SELECT s.currency, l.amount, l.base_amount FROM slip s
    JOIN journal_line l ON l.entry_id = s.entry_id AND l.account = ${account('clearing')}
    WHERE s.void_entry_id IS NULL AND NOT ${met('slip', 's.id')}
  UNION ALL SELECT l.currency, l.amount, l.base_amount FROM item i
    JOIN journal_line l ON l.item_id = i.id AND l.allocation_id IS NULL AND l.account = ${account('clearing')}
    WHERE i.kind = 'reversal' AND NOT ${met('reversal', 'i.id')}`

/** Refunds that the bank has not shown, and those it sent back that it has not shown either. */
const PAYING_OUT = `
  SELECT i.currency, -i.amount AS amount, -i.base_amount AS base_amount FROM refund f
    JOIN item i ON i.id = f.item_id WHERE f.method <> 'cash' AND NOT ${met('refund', 'i.id')}
  UNION ALL SELECT l.currency, l.amount, l.base_amount FROM item i
    JOIN journal_line l ON l.item_id = i.id AND l.allocation_id IS NULL
      AND l.account = ${account('paying-out')}
    WHERE i.kind = 'reversal' AND NOT ${met('reversal', 'i.id')}`

export const MONEY_CHECKS: Check[] = [
  ['receipts on hand against the Tray', against('on-hand', TRAY)],
  ['clearing against what the bank has not shown', against('clearing', CLEARING)],
  ['payments on their way against refunds', against('paying-out', PAYING_OUT)],
  [
    'bank account against its lines',
    `SELECT CONCAT(b.name, ' ', b.account) AS k,
      COALESCE((SELECT SUM(l.amount) FROM bank_line l WHERE l.bank_account_id = b.id
        AND l.state = 'settled'), 0) + COALESCE((SELECT SUM(j.amount) FROM journal_line j
        WHERE j.entry_id = b.opening_entry_id AND j.account = b.account), 0) AS expected,
      COALESCE((SELECT SUM(j.amount) FROM journal_line j WHERE j.account = b.account), 0) AS found
      FROM bank_account b HAVING expected <> found`,
  ],
  [
    'bank line settled without one live match, or matched while open',
    `SELECT CONCAT('line ', l.id) AS k, IF(l.state = 'settled', 1, 0) AS expected, COUNT(b.id) AS found
      FROM bank_line l LEFT JOIN bank_match b ON b.line_id = l.id AND b.undone_entry_id IS NULL
      GROUP BY l.id, l.state HAVING COUNT(b.id) <> IF(l.state = 'settled', 1, 0)`,
  ],
  [
    'met by two bank lines',
    `SELECT CONCAT(t.kind, ' ', t.ref_id) AS k, 1 AS expected, COUNT(*) AS found FROM bank_match_target t
      JOIN bank_match b ON b.id = t.match_id WHERE b.undone_entry_id IS NULL
      GROUP BY t.kind, t.ref_id HAVING COUNT(*) > 1`,
  ],
  [
    'on two paying-in slips',
    `SELECT CONCAT('means ', sm.means_id) AS k, 1 AS expected, COUNT(*) AS found FROM slip_means sm
      JOIN slip s ON s.id = sm.slip_id WHERE s.void_entry_id IS NULL
      GROUP BY sm.means_id HAVING COUNT(*) > 1`,
  ],
  [
    'payment means met by the bank',
    `SELECT CONCAT('means ', m.id) AS k, x.met AS expected, m.met AS found FROM receipt_means m
      JOIN (SELECT m.id, ${met('means', 'm.id')} AS met FROM receipt_means m) x ON x.id = m.id
      WHERE x.met <> m.met`,
  ],
  [
    'live mark of a match or slip',
    `SELECT CONCAT(t.kind, ' ', t.ref_id) AS k, b.undone_entry_id IS NULL AS expected,
      t.live IS NOT NULL AS found
      FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id
      WHERE (b.undone_entry_id IS NULL) <> (t.live IS NOT NULL)
    UNION ALL SELECT CONCAT('means ', sm.means_id), s.void_entry_id IS NULL, sm.live IS NOT NULL
      FROM slip_means sm JOIN slip s ON s.id = sm.slip_id
      WHERE (s.void_entry_id IS NULL) <> (sm.live IS NOT NULL)`,
  ],
  [
    'slip against what is on it',
    `SELECT s.number AS k, s.total AS expected, COALESCE(SUM(m.amount), 0) AS found FROM slip s
      LEFT JOIN slip_means sm ON sm.slip_id = s.id LEFT JOIN receipt_means m ON m.id = sm.means_id
      GROUP BY s.id, s.number, s.total HAVING s.total <> COALESCE(SUM(m.amount), 0)`,
  ],
  [
    'number series of slips, batches, notices and sundry money',
    `SELECT s.name AS k, s.next - 1 AS expected, CASE s.name
        WHEN 'slip' THEN (SELECT COUNT(*) FROM slip)
        WHEN 'batch' THEN (SELECT COUNT(*) FROM batch WHERE number IS NOT NULL)
        WHEN 'notice' THEN (SELECT COUNT(*) FROM notice)
        WHEN 'sundry' THEN (SELECT COUNT(*) FROM sundry_receipt) END AS found
      FROM series s WHERE s.name IN ('slip', 'batch', 'notice', 'sundry') HAVING expected <> found`,
  ],
]
