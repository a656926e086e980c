import { instant, key, table, text, whole } from './columns'

/** Two records that were one customer. */
export const customerMerge = table('customer_merge', ['id'], {
  id: key(''),
  from_id: whole('the record whose number only finds the other'),
  into_id: whole('the record that stays'),
  reason: text(200, ''),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
