/** The plan as it stood on each day, transfers in it; what-ifs and forecasts that are kept. */
export const name = '0030-forecast-kept'

export const up = [
  `ALTER TABLE planned_payment
    DROP COLUMN version,
    ADD COLUMN on_date DATE NULL AFTER every,
    ADD COLUMN into_currency CHAR(3) CHARACTER SET ascii NULL,
    ADD COLUMN into_amount BIGINT NULL`,
  'UPDATE planned_payment SET on_date = DATE(at)',
  'ALTER TABLE planned_payment MODIFY COLUMN on_date DATE NOT NULL',
  `CREATE TABLE what_if (
    id INT NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL,
    body MEDIUMTEXT NOT NULL,
    on_date DATE NOT NULL,
    ended_on DATE NULL,
    person_id INT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    KEY (ended_on))`,
  `CREATE TABLE forecast_record (
    as_of DATE NOT NULL PRIMARY KEY,
    body MEDIUMTEXT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3))`,
]
