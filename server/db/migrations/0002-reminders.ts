/** Reminder policies, runs, notices, pauses, and the outbox that sends them. */
export const name = '0002-reminders'

const by = 'person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)'
const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  `CREATE TABLE reminder_policy (code VARCHAR(24) PRIMARY
    KEY, name VARCHAR(80) NOT NULL, levels TEXT NOT NULL, version INT NOT NULL DEFAULT 1)`,
  `CREATE TABLE reminder_run (
    id INT AUTO_INCREMENT PRIMARY KEY, as_of DATE NOT NULL, policy VARCHAR(24) NOT NULL,
      state VARCHAR(12) ${code} NOT NULL, proposal LONGTEXT NOT NULL,
    version INT NOT NULL DEFAULT 1, confirmed_by INT NULL, confirmed_at DATETIME(3) NULL, ${by})`,
  `CREATE TABLE notice (
    id INT AUTO_INCREMENT PRIMARY KEY, number VARCHAR(32) NOT NULL
      UNIQUE, run_id INT NOT NULL, customer_id INT NOT NULL, level TINYINT NOT NULL, on_date DATE NOT NULL,
    deadline DATE NOT NULL, currency CHAR(3) ${code} NOT NULL, total BIGINT NOT NULL, fee BIGINT NOT NULL,
      fee_item_id BIGINT NULL, channel VARCHAR(8) ${code} NOT NULL,
    letter LONGTEXT NOT NULL, KEY (customer_id, on_date), KEY (run_id), KEY (fee_item_id))`,
  `CREATE TABLE notice_item (notice_id INT NOT NULL, item_id BIGINT NOT NULL, level TINYINT NOT NULL,
    open BIGINT NOT NULL, PRIMARY KEY (notice_id, item_id), KEY (item_id, level))`,
  `CREATE TABLE pause (
    id INT AUTO_INCREMENT PRIMARY KEY, customer_id INT NOT NULL, item_id BIGINT NULL,
      reason VARCHAR(200) NOT NULL, until_date DATE NOT NULL, ended TINYINT NOT NULL DEFAULT 0,
    ${by}, KEY (customer_id, until_date))`,
  `CREATE TABLE outbox (
    id INT AUTO_INCREMENT PRIMARY KEY, notice_id INT NULL, customer_id INT NOT NULL,
      recipient VARCHAR(190) NOT NULL, subject VARCHAR(200) NOT NULL, text TEXT NOT NULL,
    message_id VARCHAR(120) ${code} NOT NULL UNIQUE, state VARCHAR(8) ${code} NOT NULL DEFAULT 'queued',
      tries INT NOT NULL DEFAULT 0, reply VARCHAR(300) NOT NULL DEFAULT '', sent_at DATETIME(3) NULL,
    ${by}, KEY (state, id), KEY (customer_id))`,
]
