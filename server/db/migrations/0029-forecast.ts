/** Payments out that are planned, for the forecast. */
export const name = '0029-forecast'

export const up = [
  `CREATE TABLE planned_payment (
    id INT NOT NULL AUTO_INCREMENT PRIMARY KEY,
    name VARCHAR(80) NOT NULL,
    kind VARCHAR(10) CHARACTER SET ascii NOT NULL,
    currency CHAR(3) CHARACTER SET ascii NOT NULL,
    amount BIGINT NOT NULL,
    from_date DATE NOT NULL,
    until_date DATE NULL,
    every VARCHAR(8) CHARACTER SET ascii NOT NULL,
    ended_on DATE NULL,
    version INT NOT NULL DEFAULT 1,
    person_id INT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    KEY (ended_on))`,
]
