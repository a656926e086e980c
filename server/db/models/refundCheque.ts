import { day, instant, key, optional, table, text, whole } from './columns'

/** A cheque that was written for a refund. */
export const refundCheque = table('refund_cheque', ['id'], {
  id: key(''),
  refund_item_id: whole('of refund'),
  bank_account_id: whole('on which it is drawn'),
  number: text(20, ''),
  issued_on: day(''),
  void_on: optional(day('')),
  void_why: text(200, ''),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
