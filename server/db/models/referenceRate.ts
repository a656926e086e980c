import { day, instant, table, text, whole } from './columns'

/** A reference rate of late interest from a day on. */
export const referenceRate = table('reference_rate', ['code', 'valid_from'], {
  code: text(12, 'which, such as ECB'),
  valid_from: day('first day it holds'),
  percent: text(10, 'a year, decimal text'),
  source: text(80, ''),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
