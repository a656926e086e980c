import { day, decimal, instant, key, longText, optional, table, text, whole } from './columns'

/** What was learnt of the ledger on a day: from a score to a probability. See core/review. */
export const reviewModel = table('review_model', ['id'], {
  id: key(''),
  as_of: day('the last day that it knows'),
  weights: text(300, 'of the parts of the score, as JSON'),
  a: decimal('of the law, with b and shape'),
  b: decimal(''),
  shape: decimal(''),
  observations: whole('that it was learnt from'),
  cases: whole('of them those in which it happened'),
  tested: optional(
    longText('what it said of the last year and what came, as JSON; null: too young a ledger'),
  ),
  at: instant('UTC'),
})
