/** Batches of receipts that are keyed before they are posted, and deductions that open a dispute. */
export const name = '0006-batches'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  `CREATE TABLE batch (
    id INT AUTO_INCREMENT PRIMARY KEY, number VARCHAR(16) NULL
      UNIQUE, state VARCHAR(8) ${code} NOT NULL DEFAULT 'open', currency CHAR(3) ${code} NOT NULL,
      date DATE NOT NULL, text VARCHAR(120) NOT NULL DEFAULT '',
    control_total BIGINT NULL, control_count INT NULL, person_id INT NOT NULL,
      at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3), closed_at DATETIME(3) NULL,
      version INT NOT NULL DEFAULT 1,
    open_of INT AS (IF(state = 'open', person_id, NULL)) PERSISTENT, UNIQUE (open_of))`,
  `CREATE TABLE batch_receipt (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, batch_id INT NOT NULL, customer_id INT NOT NULL,
      body MEDIUMTEXT NOT NULL, amount BIGINT NOT NULL, item_id BIGINT NULL, version INT NOT NULL DEFAULT 1,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3), KEY (batch_id), KEY (item_id))`,
  `CREATE TABLE put_right (old_item_id BIGINT PRIMARY KEY, new_item_id BIGINT NOT NULL
    UNIQUE, person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3))`,
  `CREATE TABLE deduction (
    id BIGINT AUTO_INCREMENT PRIMARY KEY, item_id BIGINT NOT NULL, receipt_item_id BIGINT NOT NULL,
      currency CHAR(3) ${code} NOT NULL, amount BIGINT NOT NULL, reason VARCHAR(16) ${code} NOT NULL,
      note VARCHAR(300) NOT NULL DEFAULT '',
    withdrawn_at DATETIME(3) NULL, person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT
      CURRENT_TIMESTAMP(3), KEY (item_id), KEY (receipt_item_id))`,
]
