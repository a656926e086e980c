/**
 * Money received that is no customer's. Its payment means lie in `receipt_means` under the negative of its
 * id.
 */
export const name = '0007-sundry'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  `CREATE TABLE sundry_receipt (
    id INT AUTO_INCREMENT PRIMARY KEY, number VARCHAR(16) NOT NULL
      UNIQUE, date DATE NOT NULL, currency CHAR(3) ${code} NOT NULL, amount BIGINT NOT NULL,
      payer VARCHAR(160) NOT NULL, text VARCHAR(200) NOT NULL, account VARCHAR(16) ${code} NOT NULL,
    entry_id BIGINT NOT NULL, void_entry_id BIGINT NULL, void_reason VARCHAR(200) NOT NULL DEFAULT '',
      person_id INT NOT NULL, at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3))`,
]
