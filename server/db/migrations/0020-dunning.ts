/**
 * Reminders in full: policies with versions, reference rates, runs whose proposal lies in rows, interest by
 * period, notices that are withdrawn, accounts that are handed over.
 */
export const name = '0020-dunning'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'
const by = 'person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)'
const customer = (table: string) =>
  `CONSTRAINT ${table}_customer_id FOREIGN KEY (customer_id) REFERENCES customer (id)`

export const up = [
  // A chart that is there already gets the accounts of interest and compensation, and their series.
  `INSERT IGNORE INTO ledger_account (number, name, type, purpose)
    SELECT '4830', 'Late interest', 'income', 'late-interest' FROM ledger_account WHERE purpose = 'receivables'`,
  `INSERT IGNORE INTO ledger_account (number, name, type, purpose)
    SELECT '4840', 'Late-payment compensation', 'income', 'compensation' FROM ledger_account
      WHERE purpose = 'receivables'`,
  `INSERT IGNORE INTO series (name, prefix, next, width)
    SELECT 'interest', 'I-', 1, 5 FROM series WHERE name = 'entry'`,
  `INSERT IGNORE INTO series (name, prefix, next, width)
    SELECT 'compensation', 'LC-', 1, 5 FROM series WHERE name = 'entry'`,
  `CREATE TABLE reminder_policy_version (
    id INT AUTO_INCREMENT PRIMARY KEY,
    code VARCHAR(24) NOT NULL,
    valid_from DATE NOT NULL,
    form LONGTEXT NOT NULL,
    ${by},
    KEY (code, valid_from, id))`,
  `INSERT INTO reminder_policy_version (code, valid_from, form, person_id)
    SELECT code, '2000-01-01', JSON_OBJECT('levels', JSON_COMPACT(levels)), 0 FROM reminder_policy`,
  `ALTER TABLE reminder_policy DROP COLUMN levels`,
  `CREATE TABLE reference_rate (
    code VARCHAR(12) ${code} NOT NULL,
    valid_from DATE NOT NULL,
    percent VARCHAR(10) ${code} NOT NULL,
    source VARCHAR(80) NOT NULL DEFAULT '',
    ${by},
    PRIMARY KEY (code, valid_from))`,
  `ALTER TABLE reminder_run
    ADD COLUMN kind VARCHAR(8) ${code} NOT NULL DEFAULT 'reminder',
    ADD COLUMN scope TEXT NOT NULL DEFAULT '{}',
    ADD COLUMN edits LONGTEXT NOT NULL DEFAULT '{}',
    ADD COLUMN job_id INT NULL,
    ADD COLUMN prepared VARCHAR(12) ${code} NOT NULL DEFAULT '',
    MODIFY proposal LONGTEXT NULL`,
  `CREATE TABLE run_notice (
    run_id INT NOT NULL,
    key_text VARCHAR(64) NOT NULL,
    customer_id INT NOT NULL,
    currency CHAR(3) ${code} NOT NULL,
    level TINYINT NOT NULL,
    total BIGINT NOT NULL,
    fee BIGINT NOT NULL,
    interest BIGINT NOT NULL,
    channel VARCHAR(8) ${code} NOT NULL,
    included TINYINT NOT NULL DEFAULT 1,
    notice MEDIUMTEXT NOT NULL,
    PRIMARY KEY (run_id, key_text),
    KEY (run_id, customer_id))`,
  `CREATE TABLE run_left_out (
    id BIGINT AUTO_INCREMENT PRIMARY KEY,
    run_id INT NOT NULL,
    customer_id INT NOT NULL,
    item VARCHAR(40) NULL,
    currency CHAR(3) ${code} NOT NULL,
    open BIGINT NOT NULL,
    rule VARCHAR(16) ${code} NOT NULL,
    reason VARCHAR(300) NOT NULL,
    KEY (run_id, customer_id))`,
  // Proposals of before move into rows; what they say stays as it was.
  `INSERT INTO run_notice (run_id, key_text, customer_id, currency, level, total, fee, interest, channel, notice)
    SELECT r.id, j.key_text, c.id, j.currency, j.level, j.total, j.fee, 0, j.channel, j.notice
    FROM reminder_run r, JSON_TABLE(r.proposal, '$.notices[*]' COLUMNS (
      key_text VARCHAR(64) PATH '$.key', number VARCHAR(32) PATH '$.customer.number',
      currency VARCHAR(3) PATH '$.currency', level INT PATH '$.level', total BIGINT PATH '$.total',
      fee BIGINT PATH '$.fee', channel VARCHAR(8) PATH '$.channel', notice LONGTEXT PATH '$')) j
    JOIN customer c ON c.number = j.number`,
  `INSERT INTO run_left_out (run_id, customer_id, item, currency, open, rule, reason)
    SELECT r.id, c.id, j.item, j.currency, j.open, j.rule, j.reason
    FROM reminder_run r, JSON_TABLE(r.proposal, '$.leftOut[*]' COLUMNS (
      number VARCHAR(32) PATH '$.customer.number', item VARCHAR(40) PATH '$.item',
      currency VARCHAR(3) PATH '$.currency', open BIGINT PATH '$.open', rule VARCHAR(16) PATH '$.rule',
      reason VARCHAR(300) PATH '$.reason')) j
    JOIN customer c ON c.number = j.number`,
  `ALTER TABLE reminder_run DROP COLUMN proposal`,
  `ALTER TABLE notice
    ADD COLUMN key_text VARCHAR(64) NOT NULL DEFAULT '',
    ADD COLUMN policy VARCHAR(24) NOT NULL DEFAULT '',
    ADD COLUMN interest BIGINT NOT NULL DEFAULT 0,
    ADD COLUMN interest_item_id BIGINT NULL,
    ADD COLUMN holds TINYINT NOT NULL DEFAULT 0,
    ADD COLUMN hands_over TINYINT NOT NULL DEFAULT 0,
    ADD COLUMN withdrawn_on DATE NULL,
    ADD COLUMN withdrawn_by INT NULL,
    ADD COLUMN withdrawn_why VARCHAR(200) NOT NULL DEFAULT '',
    ADD KEY (interest_item_id)`,
  `UPDATE notice n JOIN customer c ON c.id = n.customer_id JOIN reminder_run r ON r.id = n.run_id
    SET n.key_text = CONCAT(c.number, ' ', n.currency), n.policy = r.policy`,
  `ALTER TABLE outbox ADD KEY (notice_id)`,
  // What counts for levels and dates: notices that were not withdrawn.
  `CREATE VIEW live_notice AS SELECT * FROM notice WHERE withdrawn_on IS NULL`,
  `CREATE TABLE interest_line (
    id BIGINT AUTO_INCREMENT PRIMARY KEY,
    document_item_id BIGINT NOT NULL,
    item_id BIGINT NOT NULL,
    from_date DATE NOT NULL,
    to_date DATE NOT NULL,
    days INT NOT NULL,
    rate VARCHAR(10) ${code} NOT NULL,
    base BIGINT NOT NULL,
    amount BIGINT NOT NULL,
    KEY (item_id, to_date),
    KEY (document_item_id))`,
  `CREATE TABLE compensation (
    document_item_id BIGINT NOT NULL PRIMARY KEY,
    for_item_id BIGINT NOT NULL,
    KEY (for_item_id))`,
  `CREATE TABLE handover (
    id INT AUTO_INCREMENT PRIMARY KEY,
    customer_id INT NOT NULL,
    agency VARCHAR(120) NOT NULL,
    on_date DATE NOT NULL,
    reason VARCHAR(300) NOT NULL,
    items LONGTEXT NOT NULL,
    amount BIGINT NOT NULL,
    ended_on DATE NULL,
    ended_why VARCHAR(200) NOT NULL DEFAULT '',
    after_entry BIGINT NOT NULL,
    ${by},
    KEY (customer_id, ended_on),
    ${customer('handover')})`,
  `CREATE TABLE handover_cost (
    id INT AUTO_INCREMENT PRIMARY KEY,
    handover_id INT NOT NULL,
    on_date DATE NOT NULL,
    currency CHAR(3) ${code} NOT NULL,
    amount BIGINT NOT NULL,
    text VARCHAR(200) NOT NULL,
    item_id BIGINT NULL,
    ${by},
    KEY (handover_id))`,
]
