import { key, optional, table, text, whole } from './columns'

/** What is due and not collected, with the reason. */
export const collectionLeftOut = table('collection_left_out', ['id'], {
  id: key(''),
  run_id: whole('of collection_run'),
  customer_id: whole('the account'),
  item: optional(text(40, 'null: all of the account')),
  amount: whole('minor units of euro'),
  rule: text(10, 'see core/collections COLLECTION_LEFT_OUT'),
  reason: text(300, ''),
})
