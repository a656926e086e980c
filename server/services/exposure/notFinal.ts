import { NOT_FINAL } from '../collections/lists'

/*
 * Receipts that are not final: what they paid is still at risk. Cheques until the bank has shown them, in the
 * Tray or on a slip on its way; direct debits while the debtor may ask for the money back without a reason.
 */

const CHEQUES = `SELECT i.customer_id AS customerId, COALESCE(NULLIF(m.reference, ''), i.number) AS number,
    i.document_date AS date, m.base_amount AS amount, i.id
  FROM receipt_means m JOIN item i ON i.id = m.item_id
  WHERE m.means = 'cheque' AND m.met = 0
    AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)
    AND NOT EXISTS (SELECT 1 FROM slip_means s JOIN bank_match_target t ON t.kind = 'slip'
      AND t.ref_id = s.slip_id AND t.live = 1 WHERE s.means_id = m.id AND s.live = 1)`

/** Wants `notFinalSince` of the day among its values. */
const DEBITS = `SELECT k.customer_id, k.number, k.collect_on, r.base_amount, r.id
  FROM collection k JOIN mandate m ON m.id = k.mandate_id JOIN item r ON r.id = k.receipt_item_id
  WHERE ${NOT_FINAL}`

/** One row a receipt: customerId, number, date, amount in base currency, id of its item. */
export const NOT_FINAL_RECEIPTS = `${CHEQUES} UNION ALL ${DEBITS}`
