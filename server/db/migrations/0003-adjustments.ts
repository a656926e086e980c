/** Discounts and small differences are credit items born of a receipt. */
export const name = '0003-adjustments'

export const up = [
  'ALTER TABLE item ADD COLUMN born_of_item_id BIGINT NULL AFTER reverses_item_id, ADD KEY (born_of_item_id)',
]
