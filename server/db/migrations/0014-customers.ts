/**
 * The full master of customers and their classes: what is empty is inherited from the class. Contacts with
 * what each is for; groups of any depth; limits with a currency and dates; bank details that changed and wait
 * for a second person; accounts that are closed, or one with another.
 */
export const name = '0014-customers'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  `ALTER TABLE customer
    ADD COLUMN head_id INT NULL,
    ADD COLUMN method VARCHAR(12) ${code} NOT NULL DEFAULT '',
    ADD COLUMN risk_class VARCHAR(8) ${code} NOT NULL DEFAULT '',
    ADD COLUMN statement_cycle VARCHAR(12) ${code} NOT NULL DEFAULT '',
    ADD COLUMN refunds VARCHAR(3) ${code} NOT NULL DEFAULT '',
    ADD COLUMN limit_currency CHAR(3) ${code} NOT NULL DEFAULT '',
    ADD COLUMN limit_from DATE NULL,
    ADD COLUMN limit_until DATE NULL,
    ADD COLUMN insured_limit BIGINT NULL,
    ADD COLUMN insured_until DATE NULL,
    ADD COLUMN review_date DATE NULL,
    ADD COLUMN bic VARCHAR(11) ${code} NOT NULL DEFAULT '',
    ADD COLUMN bank_holder VARCHAR(70) NOT NULL DEFAULT '',
    ADD COLUMN bank_changed_by INT NULL,
    ADD COLUMN bank_changed_at DATETIME(3) NULL,
    ADD COLUMN closed_on DATE NULL,
    ADD COLUMN merged_into INT NULL,
    ADD KEY (head_id),
    ADD KEY (merged_into)`,
  // Groups had one level until now.
  `UPDATE customer SET head_id = parent_id WHERE parent_id IS NOT NULL`,
  `ALTER TABLE customer_class
    ADD COLUMN method VARCHAR(12) ${code} NOT NULL DEFAULT 'transfer',
    ADD COLUMN risk_class VARCHAR(8) ${code} NOT NULL DEFAULT '',
    ADD COLUMN statement_cycle VARCHAR(12) ${code} NOT NULL DEFAULT 'none',
    ADD COLUMN refunds VARCHAR(3) ${code} NOT NULL DEFAULT 'yes',
    ADD COLUMN credit_limit BIGINT NULL,
    ADD COLUMN version INT NOT NULL DEFAULT 1`,
  // Terms that are those of the class were copied from it: they are inherited from now on.
  `UPDATE customer c JOIN customer_class k ON k.code = c.class AND k.terms = c.terms SET c.terms = ''`,
  `CREATE TABLE contact (
    id INT AUTO_INCREMENT PRIMARY KEY,
    customer_id INT NOT NULL,
    name VARCHAR(120) NOT NULL,
    job VARCHAR(80) NOT NULL,
    email VARCHAR(190) NOT NULL,
    phone VARCHAR(40) NOT NULL,
    money TINYINT NOT NULL,
    reminders TINYINT NOT NULL,
    statements TINYINT NOT NULL,
    collections TINYINT NOT NULL,
    person_id INT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    KEY (customer_id),
    CONSTRAINT contact_customer_id FOREIGN KEY (customer_id) REFERENCES customer (id))`,
  `ALTER TABLE audit ADD KEY about (what, about, id)`,
]
