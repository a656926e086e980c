import { optional, table, text, whole } from './columns'

/** How the money of a refund reaches the customer. */
export const refund = table('refund', ['item_id'], {
  item_id: whole('the item, kind refund'),
  customer_id: whole('the account'),
  method: text(8, 'transfer, cheque, card or cash'),
  iban: text(34, 'where it goes, as it was when it was made'),
  bic: text(11, ''),
  holder: text(120, 'of the account'),
  file_id: optional(whole('of payment_file; of the one that is live')),
  reason: text(8, 'code of ISO 20022 by which the bank refused it'),
  reason_text: text(200, ''),
  card_slip: text(40, 'of the card terminal; asked while it has not answered'),
})
