/**
 * Sign-off: what waits for a second person is of a kind, with an amount and a customer; it can be sent back,
 * withdrawn and talked about; somebody stands in for who is away.
 */
export const name = '0015-sign-off'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  `ALTER TABLE waiting_command
    MODIFY state VARCHAR(10) ${code} NOT NULL DEFAULT 'waiting',
    ADD COLUMN kind VARCHAR(16) ${code} NOT NULL DEFAULT '',
    ADD COLUMN amount BIGINT NULL,
    ADD COLUMN currency CHAR(3) ${code} NOT NULL DEFAULT '',
    ADD COLUMN customer_id INT NULL,
    ADD COLUMN told TEXT NOT NULL DEFAULT '[]',
    ADD COLUMN on_date DATE NOT NULL DEFAULT '1970-01-01',
    ADD KEY (customer_id, state)`,
  `UPDATE waiting_command SET on_date = DATE(at)`,
  `UPDATE waiting_command SET state = 'signed' WHERE state = 'posted'`,
  `CREATE TABLE sign_off_comment (
    id INT AUTO_INCREMENT PRIMARY KEY,
    waiting_id INT NOT NULL,
    text VARCHAR(500) NOT NULL,
    person_id INT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    KEY (waiting_id),
    CONSTRAINT sign_off_comment_waiting_id FOREIGN KEY (waiting_id) REFERENCES waiting_command (id))`,
  `CREATE TABLE deputy (
    id INT AUTO_INCREMENT PRIMARY KEY,
    absent_id INT NOT NULL,
    deputy_id INT NOT NULL,
    from_date DATE NOT NULL,
    until_date DATE NOT NULL,
    person_id INT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    KEY (deputy_id, until_date),
    CONSTRAINT deputy_absent_id FOREIGN KEY (absent_id) REFERENCES person (id),
    CONSTRAINT deputy_deputy_id FOREIGN KEY (deputy_id) REFERENCES person (id))`,
]
