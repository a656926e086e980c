import { day, instant, key, optional, table, text, whole } from './columns'

/** What a customer disputes, and how that ended. */
export const dispute = table('dispute', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  currency: text(3, 'ISO 4217'),
  reason: text(16, 'see core/disputes'),
  fault: text(10, 'unknown, us, customer or carrier'),
  text: text(500, ''),
  owner_id: whole('who sees to it'),
  deadline: day('until when it is to be resolved'),
  opened_on: day('business date'),
  deduction_id: optional(whole('the deduction of a payment that it comes from')),
  resolution: text(12, 'credited, settled, written-off, upheld; empty while it is open'),
  resolved_on: optional(day('business date')),
  resolved_by: optional(whole('')),
  resolution_text: text(500, ''),
  entry_id: optional(whole('what its resolution posted')),
  version: whole('counted up with each change'),
  person_id: whole('who opened it'),
  at: instant('UTC'),
})
