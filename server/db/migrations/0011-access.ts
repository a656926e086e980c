/**
 * Who is let in and for how long: sessions are rows, wrong passwords are counted by name and by network, a
 * first password must be changed. Closings are remembered, so that a posting into a closed period can be
 * found. A bank line may stand in a file more often than a small number counts.
 */
export const name = '0011-access'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'
const at = 'at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3)'

export const up = [
  `ALTER TABLE person ADD COLUMN must_change TINYINT NOT NULL DEFAULT 0`,
  `CREATE TABLE session (
    id BIGINT AUTO_INCREMENT PRIMARY KEY,
    token_hash CHAR(64) ${code} NOT NULL UNIQUE,
    person_id INT NOT NULL,
    network VARCHAR(64) NOT NULL,
    agent VARCHAR(200) NOT NULL,
    used_at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    ${at}, KEY (person_id, used_at),
    CONSTRAINT session_person_id FOREIGN KEY (person_id) REFERENCES person (id))`,
  `CREATE TABLE sign_in_count (
    about CHAR(64) ${code} PRIMARY KEY,
    tries INT NOT NULL,
    barred_until DATETIME(3) NULL,
    right_at DATETIME(3) NULL,
    last_at DATETIME(3) NOT NULL,
    KEY (last_at))`,
  `DROP TABLE sign_in_failure`,
  `CREATE TABLE closing (
    id INT AUTO_INCREMENT PRIMARY KEY,
    until DATE NULL,
    after_entry BIGINT NOT NULL,
    person_id INT NULL, ${at})`,
  `INSERT INTO closing (until, after_entry)
    SELECT NULLIF(JSON_UNQUOTE(value), 'null'), (SELECT COALESCE(MAX(id), 0) FROM entry)
    FROM setting WHERE name = 'closedUntil'`,
  `ALTER TABLE bank_line MODIFY occurrence INT NOT NULL`,
  `ALTER TABLE audit ADD KEY by_what (what, id), ADD KEY by_person (person_id, id)`,
]
