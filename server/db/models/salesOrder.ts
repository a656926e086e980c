import { day, instant, key, table, text, whole } from './columns'

/** An order of a customer, as the order desk tells it: what is not invoiced yet adds to exposure. */
export const salesOrder = table('sales_order', ['id'], {
  id: key(''),
  number: text(48, ''),
  customer_id: whole('the account'),
  date: day('of the order'),
  currency: text(3, 'ISO 4217'),
  amount: whole('of the whole order, minor units'),
  delivered: whole('delivered of it'),
  invoiced: whole('invoiced of it'),
  state: text(10, 'open, closed (nothing more is delivered) or cancelled'),
  person_id: whole('who brought it'),
  at: instant('when it last changed, UTC'),
})
