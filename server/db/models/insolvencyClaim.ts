import { bytes, day, instant, key, table, text, whole } from './columns'

/** A claim as it was filed with the administrator of an insolvency. */
export const insolvencyClaim = table('insolvency_claim', ['id'], {
  id: key(''),
  customer_id: whole('the debtor'),
  administrator: text(80, 'who it was filed with'),
  address: text(200, 'lines with commas'),
  reference: text(60, 'of the court'),
  opened_on: day('of the proceedings'),
  dividend: whole('that is expected, hundredths of a per cent'),
  amount: whole('claimed, base minor units'),
  pdf: bytes('as it was filed'),
  on_date: day('of filing'),
  person_id: whole('who filed it'),
  at: instant('when, UTC'),
})
