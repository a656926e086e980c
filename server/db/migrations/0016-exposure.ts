/**
 * Orders and deliveries that add to exposure; holds with their history; two records of one customer made one.
 */
export const name = '0016-exposure'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'
const by = 'person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)'

export const up = [
  `CREATE TABLE sales_order (
    id BIGINT AUTO_INCREMENT PRIMARY KEY,
    number VARCHAR(48) NOT NULL UNIQUE,
    customer_id INT NOT NULL,
    date DATE NOT NULL,
    currency CHAR(3) ${code} NOT NULL,
    amount BIGINT NOT NULL,
    delivered BIGINT NOT NULL,
    invoiced BIGINT NOT NULL,
    state VARCHAR(10) ${code} NOT NULL,
    ${by},
    KEY (customer_id, state),
    CONSTRAINT sales_order_customer_id FOREIGN KEY (customer_id) REFERENCES customer (id),
    CONSTRAINT sales_order_amounts CHECK (amount >= 0 AND delivered >= 0 AND invoiced >= 0))`,
  `CREATE TABLE hold (
    id INT AUTO_INCREMENT PRIMARY KEY,
    customer_id INT NOT NULL,
    cause VARCHAR(12) ${code} NOT NULL,
    reason VARCHAR(200) NOT NULL,
    person_id INT NULL,
    on_date DATE NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    ended_at DATETIME(3) NULL,
    ended_on DATE NULL,
    ended_by INT NULL,
    end_reason VARCHAR(200) NOT NULL DEFAULT '',
    released_until DATE NULL,
    open_cause VARCHAR(12) ${code} AS (IF(ended_at IS NULL, cause, NULL)) PERSISTENT,
    UNIQUE one_of_a_cause (customer_id, open_cause),
    KEY (ended_at, customer_id),
    CONSTRAINT hold_customer_id FOREIGN KEY (customer_id) REFERENCES customer (id))`,
  `CREATE TABLE customer_merge (
    id INT AUTO_INCREMENT PRIMARY KEY,
    from_id INT NOT NULL UNIQUE,
    into_id INT NOT NULL,
    reason VARCHAR(200) NOT NULL,
    ${by},
    CONSTRAINT customer_merge_from_id FOREIGN KEY (from_id) REFERENCES customer (id),
    CONSTRAINT customer_merge_into_id FOREIGN KEY (into_id) REFERENCES customer (id))`,
  // What is posted may only be added to. Whose it is may change in one way: two records were one all along.
  `CREATE PROCEDURE merge_customer(IN from_id INT, IN into_id INT) SQL SECURITY DEFINER
    BEGIN
      UPDATE item SET customer_id = into_id WHERE customer_id = from_id;
      UPDATE allocation SET customer_id = into_id WHERE customer_id = from_id;
      UPDATE journal_line SET customer_id = into_id
        WHERE customer_id = from_id;
    END`,
  `ALTER TABLE journal_line ADD KEY (customer_id)`,
]
