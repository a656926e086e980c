import { day, table, text, whole } from './columns'

/** Projection: items that are open now. */
export const openItem = table('open_item', ['item_id'], {
  item_id: whole(''),
  customer_id: whole('the account'),
  currency: text(3, 'ISO 4217'),
  due_date: day(''),
  document_date: day(''),
  posting_date: day(''),
  open: whole('signed, credits negative'),
  base_open: whole('the same in base currency'),
})
