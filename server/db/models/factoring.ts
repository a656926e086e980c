import { day, instant, key, longText, optional, table, text, whole } from './columns'

/** A factor with its terms. */
export const factorFacility = table('factor_facility', ['id'], {
  id: key(''),
  code: text(8, 'also of its commission'),
  name: text(80, ''),
  iban: text(34, 'its payments come from there'),
  terms: longText('see core/factoring Facility, JSON'),
  closed_on: optional(day('from then on nothing is offered to it')),
  version: whole('counted up with each change'),
  person_id: whole('who changed it last'),
  at: instant('when, UTC'),
})

/** Invoices that were offered to a factor together. */
export const factorSchedule = table('factor_schedule', ['id'], {
  id: key(''),
  facility_id: whole('of factor_facility'),
  number: text(20, ''),
  currency: text(3, ''),
  on_date: day('of the offer'),
  state: text(10, 'made, sent or taken-back'),
  count: whole('of its invoices'),
  total: whole('minor units'),
  content: longText('as it was given to the factor, CSV'),
  person_id: whole('who made it'),
  at: instant('when, UTC'),
})

/** An invoice on a schedule, with what has become of it. Minor units of its currency. */
export const factorItem = table('factor_item', ['id'], {
  id: key(''),
  schedule_id: whole('of factor_schedule'),
  item_id: whole('the invoice'),
  live: optional(whole('1 while it lies with a factor: with one only')),
  customer_id: whole('the debtor'),
  amount: whole('what was open when it was offered'),
  base: whole('the same in base'),
  state: text(10, 'see core/factoring FACTOR_STATES'),
  advance: whole('paid by the factor before the debtor paid'),
  collected: whole('paid to the factor'),
  commission: whole('without its tax'),
  commission_tax: whole(''),
  interest: whole(''),
  repaid: whole('of the advance set off'),
  sale_item_id: optional(whole('the item that closed it, where it was sold')),
  accepted_on: optional(day('')),
  advanced_on: optional(day('')),
  collected_on: optional(day('')),
  closing_link_id: optional(whole('of allocation: the factor paid it less its commission')),
})

/** A file of a factor. */
export const factorAnswer = table('factor_answer', ['id'], {
  id: key(''),
  facility_id: whole('of factor_facility'),
  file_name: text(120, ''),
  file_hash: text(64, 'SHA-256: the same file is taken once'),
  person_id: whole('who took it in'),
  at: instant('when, UTC'),
})

/** A line of it. */
export const factorEvent = table('factor_event', ['id'], {
  id: key(''),
  answer_id: whole('of factor_answer'),
  schedule_id: optional(whole('of factor_schedule')),
  factor_item_id: optional(whole('of factor_item')),
  kind: text(12, 'see core/factoring ANSWER_KINDS'),
  on_date: day(''),
  currency: text(3, ''),
  amount: whole('minor units'),
  settlement: text(40, 'empty outside of one'),
  text: text(200, ''),
  entry_id: optional(whole('of entry, where it posted')),
})

/** Money of debtors that is a factor's. */
export const factorPassed = table('factor_passed', ['item_id'], {
  item_id: whole('the item, kind passed-on'),
  facility_id: whole('of factor_facility'),
})
