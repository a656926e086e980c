import { table, whole } from './columns'

/** An item that a promise is for. */
export const promiseItem = table('promise_item', ['promise_id', 'item_id'], {
  promise_id: whole(''),
  item_id: whole(''),
  amount: whole('promised of it, minor units'),
})
