import { day, instant, key, longText, optional, table, text, whole } from './columns'

/** A statement, a copy or another letter as it was sent: all that its PDF is drawn from. */
export const sentLetter = table('sent_letter', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  kind: text(12, 'statement, copy, plan or upheld'),
  number: text(40, 'of the document; of a statement its day'),
  as_of: day('of a statement: what it tells'),
  on_date: day('business date on which it was sent'),
  letter: longText('as JSON'),
  job_id: optional(whole('the job that sent it; one of a number for a customer and job')),
  person_id: whole('who sent it'),
  at: instant('UTC'),
})
