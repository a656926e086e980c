import { instant, key, optional, table, text, whole } from './columns'

/** A claim that came with a short payment: what it left open is disputed. */
export const deduction = table('deduction', ['id'], {
  id: key(''),
  item_id: whole('what was paid short'),
  receipt_item_id: whole('the payment'),
  currency: text(3, 'ISO 4217'),
  amount: whole('what it left open, minor units'),
  reason: text(16, ''),
  note: text(300, ''),
  withdrawn_at: optional(instant('when, UTC')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
