import { day, key, table, text, whole } from './columns'

/** Late interest of an item for a period of one rate and one balance. */
export const interestLine = table('interest_line', ['id'], {
  id: key(''),
  document_item_id: whole('the interest as an item'),
  item_id: whole('what it is charged on'),
  from_date: day('first day, counted'),
  to_date: day('last day, counted'),
  days: whole('as the convention counts them'),
  rate: text(10, 'percent a year'),
  base: whole('minor units'),
  amount: whole('minor units'),
})
