import { key, table, text, whole } from './columns'

/** A cheque, cash, transfer or card of a receipt. Those of sundry money lie under the negative of its id. */
export const receiptMeans = table('receipt_means', ['id'], {
  id: key(''),
  item_id: whole('the receipt, or minus the sundry receipt'),
  means: text(12, ''),
  amount: whole('minor units'),
  base_amount: whole('base currency'),
  reference: text(80, 'such as the cheque number'),
  account: text(16, 'ledger account where it lies until the bank shows it'),
  met: whole('projection: 1 when the bank has shown it'),
})
