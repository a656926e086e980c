/** What is set aside for debts that will be lost: cases judged by name, and each run as it was worked out. */
export const name = '0025-allowance'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'
const by = 'person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)'

export const up = [
  `CREATE TABLE allowance_case (
    id INT NOT NULL AUTO_INCREMENT PRIMARY KEY,
    customer_id INT NOT NULL,
    item_id BIGINT NULL,
    kind VARCHAR(10) ${code} NOT NULL,
    rate INT NOT NULL,
    text VARCHAR(200) NOT NULL,
    on_date DATE NOT NULL,
    ended_on DATE NULL,
    ended_why VARCHAR(200) NULL,
    ${by},
    KEY (customer_id),
    KEY (ended_on),
    CONSTRAINT allowance_case_customer_id FOREIGN KEY (customer_id) REFERENCES customer (id))`,
  `CREATE TABLE allowance_run (
    id INT NOT NULL AUTO_INCREMENT PRIMARY KEY,
    date DATE NOT NULL,
    live TINYINT NULL DEFAULT 1,
    factor INT NOT NULL,
    reason VARCHAR(200) NOT NULL,
    bounds VARCHAR(60) ${code} NOT NULL,
    allowance BIGINT NOT NULL,
    difference BIGINT NOT NULL,
    entry_id BIGINT NULL,
    undone_entry_id BIGINT NULL,
    undone_why VARCHAR(200) NULL,
    ${by},
    UNIQUE KEY (date, live))`,
  `CREATE TABLE allowance_cell (
    run_id INT NOT NULL,
    risk_class VARCHAR(8) NOT NULL,
    currency CHAR(3) ${code} NOT NULL,
    band INT NOT NULL,
    gross_base BIGINT NOT NULL,
    exposed_base BIGINT NOT NULL,
    rate INT NOT NULL,
    allowance BIGINT NOT NULL,
    allowance_base BIGINT NOT NULL,
    PRIMARY KEY (run_id, risk_class, currency, band))`,
  `CREATE TABLE allowance_named (
    run_id INT NOT NULL,
    case_id INT NOT NULL,
    currency CHAR(3) ${code} NOT NULL,
    gross BIGINT NOT NULL,
    rate INT NOT NULL,
    allowance BIGINT NOT NULL,
    allowance_base BIGINT NOT NULL,
    PRIMARY KEY (run_id, case_id, currency))`,
]
