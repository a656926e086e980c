import { table, whole } from './columns'

/** An item that is disputed, whole or in part. */
export const disputeItem = table('dispute_item', ['dispute_id', 'item_id'], {
  dispute_id: whole(''),
  item_id: whole(''),
  amount: whole('disputed of it, minor units'),
})
