/** Paying-in slips, and the base amount of each payment means. */
export const name = '0004-tray'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  'ALTER TABLE receipt_means ADD COLUMN base_amount BIGINT NOT NULL DEFAULT 0 AFTER amount',
  `UPDATE receipt_means m JOIN item i ON i.id = m.item_id
    SET m.base_amount = ROUND(i.base_amount * m.amount / i.amount)`,
  `CREATE TABLE slip (
    id INT AUTO_INCREMENT PRIMARY KEY, number VARCHAR(16) NOT NULL
      UNIQUE, date DATE NOT NULL, currency CHAR(3) ${code} NOT NULL, total BIGINT NOT NULL,
      cash_kept BIGINT NOT NULL,
    entry_id BIGINT NOT NULL, void_entry_id BIGINT NULL, void_reason VARCHAR(200) NOT NULL DEFAULT '',
      person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3))`,
  `CREATE TABLE slip_means (slip_id INT NOT NULL, means_id BIGINT NOT NULL, PRIMARY KEY (slip_id, means_id),
    KEY (means_id))`,
  `ALTER TABLE receipt_means ADD KEY (account, item_id)`,
]
