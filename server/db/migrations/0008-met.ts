/**
 * Whether the bank has shown a payment means: a projection of the lines matched to it, so that what still
 * waits is found at once. Receipts are listed by date.
 */
export const name = '0008-met'

export const up = [
  'ALTER TABLE receipt_means ADD COLUMN met TINYINT NOT NULL DEFAULT 0, ADD KEY waiting (account, met)',
  `UPDATE receipt_means m SET m.met = 1 WHERE EXISTS (SELECT 1 FROM bank_match_target t
    JOIN bank_match b ON b.id = t.match_id WHERE t.kind = 'means' AND t.ref_id = m.id
    AND b.undone_entry_id IS NULL)`,
  'ALTER TABLE item ADD KEY by_kind (kind, document_date, currency, amount)',
]
