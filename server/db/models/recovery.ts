import { table, whole } from './columns'

/** What of a write-off came back; its amount is that of the item. */
export const recovery = table('recovery', ['item_id'], {
  item_id: whole('the item, kind recovery'),
  write_off_id: whole('of write_off'),
})
