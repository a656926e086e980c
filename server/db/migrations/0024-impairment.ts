/** Debts that are given up, and what of them comes back. */
export const name = '0024-impairment'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'
const by = 'person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)'
const account = (number: string, words: string, type: string, purpose: string) =>
  `INSERT IGNORE INTO ledger_account (number, name, type, purpose)
    SELECT '${number}', '${words}', '${type}', '${purpose}' FROM ledger_account WHERE purpose = 'receivables'`

export const up = [
  account('1190', 'Allowance for doubtful debts', 'asset', 'allowance'),
  account('4920', 'Debts recovered', 'income', 'recovery'),
  account('6870', 'Change in allowance', 'expense', 'allowance-change'),
  `INSERT IGNORE INTO series (name, prefix, next, width)
    SELECT 'recovery', 'RC-', 1, 5 FROM series WHERE name = 'entry'`,
  `CREATE TABLE write_off (
    item_id BIGINT NOT NULL PRIMARY KEY,
    of_item_id BIGINT NOT NULL,
    customer_id INT NOT NULL,
    reason VARCHAR(16) ${code} NOT NULL,
    text VARCHAR(200) NOT NULL,
    against VARCHAR(9) ${code} NOT NULL,
    commission VARCHAR(10) ${code} NOT NULL,
    tax BIGINT NOT NULL,
    tax_base BIGINT NOT NULL,
    relief VARCHAR(7) ${code} NOT NULL,
    relief_why VARCHAR(200) NOT NULL,
    relief_on DATE NULL,
    relief_entry_id BIGINT NULL,
    ${by},
    KEY (of_item_id),
    KEY (customer_id),
    KEY (relief),
    CONSTRAINT write_off_customer_id FOREIGN KEY (customer_id) REFERENCES customer (id))`,
  // What is kept to be refunded is told on the first screen: few of many items.
  'ALTER TABLE item ADD KEY rest_use (rest_use)',
  `CREATE TABLE recovery (
    item_id BIGINT NOT NULL PRIMARY KEY,
    write_off_id BIGINT NOT NULL,
    KEY (write_off_id))`,
]
