/**
 * Reviews: what was learnt of the ledger, and how each account stands by it. Views: what a person keeps of a
 * list to see again.
 */
export const name = '0017-review'

const code = 'CHARACTER SET ascii COLLATE ascii_bin'

export const up = [
  `ALTER TABLE customer ADD KEY (limit_until)`,
  `CREATE TABLE review_model (
    id INT AUTO_INCREMENT PRIMARY KEY,
    as_of DATE NOT NULL,
    weights VARCHAR(300) ${code} NOT NULL,
    a DECIMAL(14,9) NOT NULL,
    b DECIMAL(14,9) NOT NULL,
    shape DECIMAL(14,9) NOT NULL,
    observations INT NOT NULL,
    cases INT NOT NULL,
    tested TEXT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    KEY (as_of))`,
  `CREATE TABLE review_score (
    customer_id INT PRIMARY KEY,
    model_id INT NOT NULL,
    score INT NULL,
    probability INT NULL,
    long_late TINYINT NOT NULL,
    most_open BIGINT NOT NULL,
    suggested CHAR(1) ${code} NOT NULL,
    danger INT NOT NULL,
    days_late INT NULL,
    KEY (danger),
    CONSTRAINT review_score_customer_id FOREIGN KEY (customer_id) REFERENCES customer (id),
    CONSTRAINT review_score_model_id FOREIGN KEY (model_id) REFERENCES review_model (id))`,
  `CREATE TABLE kept_figure (
    name VARCHAR(40) ${code} PRIMARY KEY,
    as_of DATE NOT NULL,
    value TEXT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3))`,
  `CREATE TABLE saved_view (
    id INT AUTO_INCREMENT PRIMARY KEY,
    screen VARCHAR(24) ${code} NOT NULL,
    name VARCHAR(60) NOT NULL,
    shared TINYINT NOT NULL,
    state TEXT NOT NULL,
    person_id INT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    UNIQUE one_of_a_name (person_id, screen, name),
    CONSTRAINT saved_view_person_id FOREIGN KEY (person_id) REFERENCES person (id))`,
]
