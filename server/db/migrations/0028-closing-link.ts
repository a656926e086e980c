/** The link by which a factor's payment less its commission closed an invoice: it may be taken back. */
export const name = '0028-closing-link'

export const up = [
  'ALTER TABLE factor_item ADD COLUMN closing_link_id BIGINT NULL, ADD KEY (closing_link_id)',
]
