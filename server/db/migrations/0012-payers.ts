/**
 * What more a bank tells of a line, how customers were seen to pay, orders as payers write them. Confidences
 * get a fourth decimal: 0.9996 and 0.9991 are different things.
 */
export const name = '0012-payers'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  `ALTER TABLE bank_line
    ADD COLUMN entry_reference VARCHAR(60) NOT NULL DEFAULT '',
    ADD COLUMN details MEDIUMTEXT NULL,
    ADD COLUMN asks TINYINT NOT NULL DEFAULT 0,
    MODIFY confidence DECIMAL(5,4) NOT NULL DEFAULT 0,
    ADD KEY entry (bank_account_id, entry_reference)`,
  // The entry that a bank account opened with.
  `ALTER TABLE bank_account ADD COLUMN opening_entry_id BIGINT NULL`,
  `ALTER TABLE bank_match MODIFY confidence DECIMAL(5,4) NULL`,
  `ALTER TABLE item ADD COLUMN order_key VARCHAR(48) ${code}
    AS (REGEXP_REPLACE(UPPER(order_ref), '[^A-Z0-9]', '')) PERSISTENT, ADD KEY (order_key)`,
  `CREATE TABLE payer_habit (
    customer_id INT NOT NULL,
    kind VARCHAR(8) ${code} NOT NULL,
    amount BIGINT NOT NULL,
    times INT NOT NULL,
    PRIMARY KEY (customer_id, kind, amount),
    CONSTRAINT payer_habit_customer_id FOREIGN KEY (customer_id) REFERENCES customer (id))`,
]
