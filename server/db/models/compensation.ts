import { table, whole } from './columns'

/** Which debt a fixed compensation was claimed for: once for each. */
export const compensation = table('compensation', ['document_item_id'], {
  document_item_id: whole('the compensation as an item'),
  for_item_id: whole('the debt'),
})
