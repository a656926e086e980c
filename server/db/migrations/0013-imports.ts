/**
 * Full postal addresses of customers; how the tables of other programs are laid out, remembered by the names
 * of their columns.
 */
export const name = '0013-imports'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  `ALTER TABLE customer
    ADD COLUMN street VARCHAR(160) NOT NULL DEFAULT '',
    ADD COLUMN postcode VARCHAR(16) NOT NULL DEFAULT '',
    ADD COLUMN city VARCHAR(80) NOT NULL DEFAULT ''`,
  `CREATE TABLE import_layout (
    signature CHAR(64) ${code} PRIMARY KEY,
    map TEXT NOT NULL,
    person_id INT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3))`,
]
