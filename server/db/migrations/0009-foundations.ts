/**
 * What the schema itself refuses: a payment met twice, money of nobody, a row that points nowhere. Rates say
 * where they come from; letters wait for a mail server that is away; bad bank files are set aside; Commands
 * can wait for a second signature.
 */
export const name = '0009-foundations'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'
const by = 'person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)'

const foreign = (table: string, column: string, to: string) =>
  `ALTER TABLE ${table} ADD CONSTRAINT ${table}_${column} FOREIGN KEY (${column}) REFERENCES ${to}`
const check = (table: string, what: string, holds: string) =>
  `ALTER TABLE ${table} ADD CONSTRAINT ${table}_${what} CHECK (${holds})`

export const up = [
  // A payment means is on one live slip, a bank line is matched once, and nothing is met by two lines.
  `ALTER TABLE slip_means ADD COLUMN live TINYINT NULL DEFAULT 1`,
  `UPDATE slip_means sm JOIN slip s ON s.id = sm.slip_id SET sm.live = NULL WHERE s.void_entry_id IS NOT
    NULL`,
  `ALTER TABLE slip_means ADD UNIQUE one_live_slip (means_id, live)`,
  `ALTER TABLE bank_match_target ADD COLUMN live TINYINT NULL DEFAULT 1`,
  `UPDATE bank_match_target t JOIN bank_match b ON b.id = t.match_id SET t.live = NULL
    WHERE b.undone_entry_id IS NOT NULL`,
  `ALTER TABLE bank_match_target ADD UNIQUE met_once (kind, ref_id, live)`,
  `ALTER TABLE bank_match ADD COLUMN live_line BIGINT
    AS (IF(undone_entry_id IS NULL, line_id, NULL)) PERSISTENT, ADD UNIQUE matched_once (live_line)`,

  `ALTER TABLE rate ADD COLUMN source VARCHAR(12) ${code} NOT NULL DEFAULT 'entered',
    ADD COLUMN person_id INT NULL, ADD COLUMN at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)`,

  // Postings hold this row; closing a period changes it.
  `INSERT IGNORE INTO setting (name, value) VALUES ('closedUntil', 'null')`,

  `ALTER TABLE outbox ADD COLUMN next_try DATETIME(3) NULL, ADD KEY due (state, next_try)`,
  `CREATE TABLE inbox_fault (
    id INT AUTO_INCREMENT PRIMARY KEY,
    file_hash CHAR(64) ${code} NOT NULL UNIQUE,
    file_name VARCHAR(120) NOT NULL,
    reason VARCHAR(500) NOT NULL,
    dismissed TINYINT NOT NULL DEFAULT 0,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3))`,
  `CREATE TABLE waiting_command (
    id INT AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(40) ${code} NOT NULL,
    ask LONGTEXT NOT NULL,
    about VARCHAR(64) NOT NULL,
    state VARCHAR(8) ${code} NOT NULL DEFAULT 'waiting',
    decided_by INT NULL,
    decided_at DATETIME(3) NULL,
    reason VARCHAR(200) NOT NULL DEFAULT '',
    result LONGTEXT NULL,
    ${by}, KEY (state, id))`,

  foreign('item', 'customer_id', 'customer (id)'),
  foreign('item', 'entry_id', 'entry (id)'),
  foreign('allocation', 'entry_id', 'entry (id)'),
  foreign('allocation', 'debit_item_id', 'item (id)'),
  foreign('allocation', 'credit_item_id', 'item (id)'),
  foreign('journal_line', 'entry_id', 'entry (id)'),
  foreign('journal_line', 'account', 'ledger_account (number)'),
  foreign('open_item', 'item_id', 'item (id)'),
  foreign('slip', 'entry_id', 'entry (id)'),
  foreign('slip_means', 'slip_id', 'slip (id)'),
  foreign('slip_means', 'means_id', 'receipt_means (id)'),
  foreign('bank_line', 'bank_account_id', 'bank_account (id)'),
  foreign('bank_match', 'line_id', 'bank_line (id)'),
  foreign('bank_match', 'entry_id', 'entry (id)'),
  foreign('bank_match_target', 'match_id', 'bank_match (id)'),
  foreign('notice_item', 'notice_id', 'notice (id)'),
  foreign('notice_item', 'item_id', 'item (id)'),

  check('item', 'amounts', 'amount > 0 AND base_amount >= 0 AND tax >= 0 AND tax < amount + 1'),
  check('item', 'dates', 'due_date >= document_date'),
  check('allocation', 'amount', 'amount <> 0 AND (amount < 0) = (undoes_id IS NOT NULL)'),
  check('open_item', 'open', 'open <> 0'),
  check('receipt_means', 'amount', 'amount > 0'),
  check('slip', 'amounts', 'cash_kept >= 0 AND cash_kept < total'),
  check('rate', 'positive', 'rate > 0'),
]
