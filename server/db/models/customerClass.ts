import { table, text, whole } from './columns'

/** What its customers have in common. */
export const customerClass = table('customer_class', ['code'], {
  code: text(24, ''),
  name: text(80, ''),
  terms: text(80, 'payment terms'),
  policy: text(24, 'reminder policy'),
  keep_on_item: whole('1: an overpayment may be kept for one item'),
})
