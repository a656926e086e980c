/** People, settings, customers and the three append-only tables of the ledger with their projections. */
export const name = '0001-ledger'

const by = 'person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)'
const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  `CREATE TABLE person (
    id INT AUTO_INCREMENT PRIMARY KEY, email VARCHAR(190) NOT NULL
      UNIQUE, name VARCHAR(120) NOT NULL, role VARCHAR(20) ${code} NOT NULL,
    password_hash VARCHAR(100) NOT NULL, active TINYINT NOT NULL DEFAULT 1,
      at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3))`,
  `CREATE TABLE setting (name VARCHAR(64) ${code} PRIMARY KEY, value TEXT NOT NULL)`,
  `CREATE TABLE series (name VARCHAR(32) ${code} PRIMARY
    KEY, prefix VARCHAR(16) NOT NULL, next BIGINT NOT NULL, width TINYINT NOT NULL)`,
  `CREATE TABLE ledger_account (number VARCHAR(16) ${code} PRIMARY
    KEY, name VARCHAR(80) NOT NULL, type VARCHAR(12) ${code} NOT NULL, purpose VARCHAR(24) ${code} UNIQUE)`,
  `CREATE TABLE rate (currency CHAR(3) ${code}, date DATE, rate DECIMAL(18,8) NOT NULL, PRIMARY
    KEY (currency, date))`,
  `CREATE TABLE customer_class (code VARCHAR(24) PRIMARY
    KEY, name VARCHAR(80) NOT NULL, terms VARCHAR(80) NOT NULL, policy VARCHAR(24) NOT NULL)`,
  `CREATE TABLE customer (
    id INT AUTO_INCREMENT PRIMARY KEY, number VARCHAR(32) NOT NULL
      UNIQUE, name VARCHAR(160) NOT NULL, class VARCHAR(24) NOT NULL DEFAULT '',
    country CHAR(2) ${code} NOT NULL, language CHAR(2) ${code} NOT NULL, currency CHAR(3) ${code} NOT NULL,
      terms VARCHAR(80) NOT NULL,
    credit_limit BIGINT NULL, contact VARCHAR(120) NOT NULL DEFAULT '',
      email VARCHAR(190) NOT NULL DEFAULT '', phone VARCHAR(40) NOT NULL DEFAULT '',
    iban VARCHAR(34) NOT NULL DEFAULT '', vat_number VARCHAR(20) NOT NULL DEFAULT '', parent_id INT NULL,
      policy VARCHAR(24) NOT NULL DEFAULT '',
    controller_id INT NULL, sales_id INT NULL, version INT NOT NULL DEFAULT 1, ${by},
    KEY (name), KEY (class), KEY (parent_id), KEY (sales_id), KEY (controller_id), KEY (iban))`,
  `CREATE TABLE entry (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, number BIGINT NOT NULL
      UNIQUE, date DATE NOT NULL, kind VARCHAR(16) ${code} NOT NULL, text VARCHAR(200) NOT NULL,
    ${by}, KEY (date, id))`,
  `CREATE TABLE item (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, customer_id INT NOT NULL, entry_id BIGINT NOT NULL,
      kind VARCHAR(12) ${code} NOT NULL, register VARCHAR(12) ${code} NOT NULL,
    number VARCHAR(48) NOT NULL, part SMALLINT NOT NULL, currency CHAR(3) ${code} NOT NULL,
      side ENUM('debit','credit') NOT NULL,
    amount BIGINT NOT NULL, base_amount BIGINT NOT NULL, tax BIGINT NOT NULL, document_date DATE NOT NULL,
      due_date DATE NOT NULL, posting_date DATE NOT NULL,
    discount_date DATE NULL, discount_amount BIGINT NULL, discount2_date DATE NULL,
      discount2_amount BIGINT NULL,
    order_ref VARCHAR(48) NOT NULL DEFAULT '', text VARCHAR(200) NOT NULL DEFAULT '',
      reverses_item_id BIGINT NULL UNIQUE, ${by},
    UNIQUE (register, number, part), KEY (customer_id, posting_date), KEY (posting_date), KEY (number),
      KEY (amount), KEY (entry_id))`,
  `CREATE TABLE receipt_means (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, item_id BIGINT NOT NULL, means VARCHAR(12) ${code} NOT NULL,
      amount BIGINT NOT NULL, reference VARCHAR(80) NOT NULL,
    account VARCHAR(16) ${code} NOT NULL, KEY (item_id), KEY (reference))`,
  `CREATE TABLE allocation (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, customer_id INT NOT NULL, entry_id BIGINT NOT NULL,
      debit_item_id BIGINT NOT NULL, credit_item_id BIGINT NOT NULL,
    amount BIGINT NOT NULL, debit_base BIGINT NOT NULL, credit_base BIGINT NOT NULL, effective DATE NOT NULL,
      undoes_id BIGINT NULL UNIQUE, ${by},
    KEY (debit_item_id), KEY (credit_item_id), KEY (entry_id), KEY (customer_id, effective),
    KEY as_of (effective, debit_item_id, credit_item_id, amount, debit_base, credit_base))`,
  `CREATE TABLE journal_line (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, entry_id BIGINT NOT NULL, account VARCHAR(16) ${code} NOT NULL,
      currency CHAR(3) ${code} NOT NULL,
    amount BIGINT NOT NULL, base_amount BIGINT NOT NULL, customer_id INT NULL, item_id BIGINT NULL,
      allocation_id BIGINT NULL,
    KEY (entry_id), KEY (item_id), KEY (account, currency, amount, base_amount))`,
  // Projections: what is open now, the totals by customer, and the daily movement of each ledger account.
  // `npm run verify` recomputes all three.
  `CREATE TABLE open_item (
    item_id BIGINT PRIMARY KEY, customer_id INT NOT NULL, currency CHAR(3) ${code} NOT NULL,
      due_date DATE NOT NULL, document_date DATE NOT NULL, posting_date DATE NOT NULL,
    open BIGINT NOT NULL, base_open BIGINT NOT NULL,
    KEY aging (customer_id, due_date, posting_date, currency, open, base_open))`,
  `CREATE TABLE account_total (
    customer_id INT NOT NULL, currency CHAR(3) ${code} NOT NULL, debit BIGINT NOT NULL,
      credit BIGINT NOT NULL, base_debit BIGINT NOT NULL, base_credit BIGINT NOT NULL,
    PRIMARY KEY (customer_id, currency))`,
  `CREATE TABLE account_day (
    account VARCHAR(16) ${code} NOT NULL, date DATE NOT NULL, currency CHAR(3) ${code} NOT NULL,
      amount BIGINT NOT NULL, base_amount BIGINT NOT NULL,
    PRIMARY KEY (account, date, currency))`,
  `CREATE TABLE sign_in_failure (id BIGINT AUTO_INCREMENT PRIMARY
    KEY, email VARCHAR(190) NOT NULL, address VARCHAR(64) NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3), KEY (email, at), KEY (address, at))`,
  `CREATE TABLE idempotency (
    person_id INT NOT NULL, idempotency_key VARCHAR(80) ${code} NOT NULL,
      request_hash CHAR(64) ${code} NOT NULL, result MEDIUMTEXT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3), PRIMARY KEY (person_id, idempotency_key))`,
  `CREATE TABLE audit (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, what VARCHAR(64) NOT NULL, about VARCHAR(64) NOT NULL,
      before_value TEXT NULL, after_value TEXT NULL, ${by}, KEY (at))`,
  `CREATE TABLE note (id BIGINT AUTO_INCREMENT PRIMARY
    KEY, customer_id INT NOT NULL, text VARCHAR(2000) NOT NULL, on_date DATE NOT NULL, ${by},
    KEY (customer_id, id))`,
  `CREATE TABLE job (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, kind VARCHAR(32) ${code} NOT NULL,
      state VARCHAR(12) ${code} NOT NULL DEFAULT 'queued', params TEXT NOT NULL, upload LONGBLOB NULL,
    done BIGINT NOT NULL DEFAULT 0, total BIGINT NOT NULL DEFAULT 0, step VARCHAR(80) NOT NULL DEFAULT '',
      result LONGTEXT NULL, cancel TINYINT NOT NULL DEFAULT 0,
    heartbeat DATETIME(3) NULL, ${by}, KEY (state, id))`,
]
