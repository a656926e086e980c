import { table, whole } from './columns'

/** An item in a notice. */
export const noticeItem = table('notice_item', ['notice_id', 'item_id'], {
  notice_id: whole(''),
  item_id: whole(''),
  level: whole('it reached'),
  open: whole('then, minor units'),
})
