import { day, key, longText, optional, table, text, whole } from './columns'

/** What is collected of one customer by one mandate on a day. */
export const collection = table('collection', ['id'], {
  id: key(''),
  run_id: whole('of collection_run'),
  customer_id: whole('the account'),
  mandate_id: whole(''),
  number: optional(text(35, 'its end-to-end id, from confirming on')),
  sequence: text(4, 'FRST, RCUR, OOFF or FNAL'),
  amount: whole('minor units of euro'),
  collect_on: day(''),
  why: text(300, ''),
  credits: longText('JSON: credits taken off, see core/collections/propose'),
  state: text(9, 'proposed, or see core/collections COLLECTION_STATES'),
  file_id: optional(whole('of payment_file')),
  letter_id: optional(whole('the advance notice, of sent_letter')),
  receipt_item_id: optional(whole('once it is collected')),
  back_code: text(8, 'why it came back, ISO 20022'),
  back_on: optional(day('')),
  back_why: text(200, ''),
  back_done: text(8, 'what was done about it: again, stop, chase or correct'),
  again_of: optional(whole('the collection that came back')),
  times: whole('how often it was presented before'),
})
