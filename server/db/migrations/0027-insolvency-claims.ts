/** Claims that were filed in insolvencies, with the dividend that is expected. */
export const name = '0027-insolvency-claims'

export const up = [
  `CREATE TABLE insolvency_claim (
    id INT NOT NULL AUTO_INCREMENT PRIMARY KEY,
    customer_id INT NOT NULL,
    administrator VARCHAR(80) NOT NULL,
    address VARCHAR(200) NOT NULL,
    reference VARCHAR(60) NOT NULL,
    opened_on DATE NOT NULL,
    dividend INT NOT NULL,
    amount BIGINT NOT NULL,
    pdf MEDIUMBLOB NOT NULL,
    on_date DATE NOT NULL,
    person_id INT NOT NULL,
    at DATETIME(3) NOT NULL DEFAULT CURRENT_TIMESTAMP(3),
    KEY (customer_id),
    CONSTRAINT insolvency_claim_customer_id FOREIGN KEY (customer_id) REFERENCES customer (id))`,
]
