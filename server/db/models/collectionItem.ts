import { table, whole } from './columns'

/** What a collection takes off an item. */
export const collectionItem = table('collection_item', ['collection_id', 'item_id'], {
  collection_id: whole(''),
  item_id: whole(''),
  amount: whole('by money, minor units'),
  discount: whole('earned on the day of collection'),
})
