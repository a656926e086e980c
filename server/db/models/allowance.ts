import { day, instant, key, optional, table, text, whole } from './columns'

/** A customer, or one claim, that is judged by name: it leaves the matrix while the case runs. */
export const allowanceCase = table('allowance_case', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  item_id: optional(whole('one claim alone; all of the account without one')),
  kind: text(10, 'insolvency, dispute or lawyer'),
  rate: whole('of it is lost, hundredths of a per cent'),
  text: text(200, 'in words of who judged it'),
  on_date: day('from then on'),
  ended_on: optional(day('')),
  ended_why: optional(text(200, '')),
  person_id: whole('who judged it'),
  at: instant('when, UTC'),
})

/** An allowance as it was posted. */
export const allowanceRun = table('allowance_run', ['id'], {
  id: key(''),
  date: day('as of which it was worked out'),
  live: optional(whole('1 while it stands: of a day there is one')),
  factor: whole('looking forward: 10,000 leaves the rates'),
  reason: text(200, 'of the factor'),
  bounds: text(60, 'upper bounds of the bands in days late, with commas'),
  allowance: whole('what should be set aside, base minor units'),
  difference: whole('what was posted, base minor units'),
  entry_id: optional(whole('of entry; none where nothing differed')),
  undone_entry_id: optional(whole('of entry, that took it back')),
  undone_why: optional(text(200, '')),
  person_id: whole('who posted it'),
  at: instant('when, UTC'),
})

/** A cell of its matrix. */
export const allowanceCell = table('allowance_cell', ['run_id', 'risk_class', 'currency', 'band'], {
  run_id: whole('of allowance_run'),
  risk_class: text(8, 'of the customers; empty for none'),
  currency: text(3, 'of the claims'),
  band: whole('place of the age band, 0 for not due'),
  gross_base: whole('base minor units'),
  exposed_base: whole('without what insurers bear and what is judged by name'),
  rate: whole('hundredths of a per cent'),
  allowance: whole('minor units of the currency'),
  allowance_base: whole('base minor units'),
})

/** A named case of it. */
export const allowanceNamed = table('allowance_named', ['run_id', 'case_id', 'currency'], {
  run_id: whole('of allowance_run'),
  case_id: whole('of allowance_case'),
  currency: text(3, 'of the claims'),
  gross: whole('minor units of the currency'),
  rate: whole('hundredths of a per cent'),
  allowance: whole('minor units of the currency'),
  allowance_base: whole('base minor units'),
})
