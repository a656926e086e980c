import { instant, key, longText, optional, table, whole } from './columns'

/** A receipt keyed into a batch. */
export const batchReceipt = table('batch_receipt', ['id'], {
  id: key(''),
  batch_id: whole('the batch'),
  customer_id: whole('the account'),
  body: longText('as it would be posted, JSON'),
  amount: whole('minor units'),
  item_id: optional(whole('the receipt it became')),
  version: whole('goes up with each change: a stale edit is refused'),
  at: instant('when, UTC'),
})
