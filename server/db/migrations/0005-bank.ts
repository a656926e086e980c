/**
 * Bank accounts, their statements and lines, what each line was matched to, what was learnt; advances,
 * conversions, what a rest is kept for.
 */
export const name = '0005-bank'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'
const by = 'person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)'

export const up = [
  `ALTER TABLE item ADD COLUMN rest_use VARCHAR(8) ${code} NOT NULL DEFAULT '',
    ADD COLUMN rest_item_id BIGINT NULL`,
  // Document numbers as payers write them: capitals and digits only.
  `ALTER TABLE item ADD COLUMN number_key VARCHAR(48) ${code} AS (REGEXP_REPLACE(UPPER(number), '[^A-Z0-9]',
    '')) PERSISTENT, ADD KEY (number_key)`,
  'ALTER TABLE item ADD KEY (born_of_item_id)',
  `ALTER TABLE customer_class ADD COLUMN keep_on_item TINYINT NOT NULL DEFAULT 0`,
  `CREATE TABLE bank_account (
    id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(80) NOT NULL, iban VARCHAR(34) NOT NULL,
      currency CHAR(3) ${code} NOT NULL, account VARCHAR(16) ${code} NOT NULL,
    csv_map TEXT NULL, active TINYINT NOT NULL DEFAULT 1, version INT NOT NULL DEFAULT 1, ${by},
      UNIQUE (iban, currency), UNIQUE (account))`,
  `CREATE TABLE bank_statement (
    id INT AUTO_INCREMENT PRIMARY KEY, bank_account_id INT NOT NULL, number VARCHAR(80) NOT NULL,
      format VARCHAR(10) ${code} NOT NULL, from_date DATE NOT NULL, to_date DATE NOT NULL,
    opening BIGINT NULL, closing BIGINT NULL, file_name VARCHAR(120) NOT NULL,
      file_hash CHAR(64) ${code} NOT NULL, fresh INT NOT NULL, known INT NOT NULL, ${by},
      KEY (bank_account_id, to_date), KEY (file_hash))`,
  `CREATE TABLE bank_line (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, bank_account_id INT NOT NULL, statement_id INT NOT NULL,
      fingerprint CHAR(64) ${code} NOT NULL, occurrence SMALLINT NOT NULL,
    booking_date DATE NOT NULL, value_date DATE NOT NULL, currency CHAR(3) ${code} NOT NULL,
      amount BIGINT NOT NULL, name VARCHAR(160) NOT NULL, iban VARCHAR(34) NOT NULL,
      text VARCHAR(1000) NOT NULL,
    reference VARCHAR(60) NOT NULL, end_to_end_id VARCHAR(60) NOT NULL, bank_reference VARCHAR(60) NOT NULL,
      code VARCHAR(40) NOT NULL, return_reason VARCHAR(8) NOT NULL,
    state VARCHAR(8) ${code} NOT NULL DEFAULT 'open', version INT NOT NULL DEFAULT 1,
      proposals MEDIUMTEXT NULL, confidence DECIMAL(4,3) NOT NULL DEFAULT 0, tie TINYINT NOT NULL DEFAULT 0,
      held VARCHAR(300) NOT NULL DEFAULT '',
    UNIQUE (bank_account_id, fingerprint, occurrence), KEY (state, booking_date, id), KEY (statement_id),
      KEY (bank_account_id, booking_date), KEY (iban), KEY (amount))`,
  `CREATE TABLE bank_match (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, line_id BIGINT NOT NULL, kind VARCHAR(10) ${code} NOT NULL,
      entry_id BIGINT NOT NULL, told VARCHAR(500) NOT NULL, confidence DECIMAL(4,3) NULL,
      automatic TINYINT NOT NULL DEFAULT 0,
    undone_entry_id BIGINT NULL, undone_reason VARCHAR(200) NOT NULL DEFAULT '', undone_by INT NULL,
      undone_at DATETIME(3) NULL, ${by}, KEY (line_id), KEY (entry_id))`,
  `CREATE TABLE bank_match_target (match_id BIGINT NOT NULL, kind VARCHAR(10) ${code} NOT NULL,
    ref_id BIGINT NOT NULL, PRIMARY KEY (match_id, kind, ref_id), KEY (kind, ref_id))`,
  `CREATE TABLE payer_learnt (
    id INT AUTO_INCREMENT PRIMARY KEY, iban VARCHAR(34) NOT NULL, name VARCHAR(160) NOT NULL,
      customer_id INT NOT NULL, times INT NOT NULL DEFAULT 1, ${by}, UNIQUE (iban, name, customer_id),
      KEY (customer_id))`,
  `CREATE TABLE ledger_rule (
    id INT AUTO_INCREMENT PRIMARY KEY, iban VARCHAR(34) NOT NULL, words VARCHAR(120) NOT NULL,
      account VARCHAR(16) ${code} NOT NULL, money_in TINYINT NOT NULL, ${by},
      UNIQUE (iban, words, account, money_in))`,
]
