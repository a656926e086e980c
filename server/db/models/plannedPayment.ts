import { day, instant, key, optional, table, text, whole } from './columns'

/**
 * A payment out that is planned, once or by a rule. Rows are never changed: a change ends one and begins
 * another, so that a forecast of a past day knows the plan of that day.
 */
export const plannedPayment = table('planned_payment', ['id'], {
  id: key(''),
  name: text(80, 'what for'),
  kind: text(10, 'see core/forecast PLANNED_KINDS'),
  currency: text(3, 'ISO 4217'),
  amount: whole('minor units, positive'),
  from_date: day('the first'),
  until_date: optional(day('none later; empty: for good')),
  every: text(8, 'see core/forecast EVERY'),
  on_date: day('planned, by the business date'),
  ended_on: optional(day('taken out of the plan, or planned anew')),
  person_id: whole('who planned it'),
  at: instant('when, UTC'),
  into_currency: optional(text(3, 'of a transfer: where it arrives, ISO 4217')),
  into_amount: optional(whole('of a transfer: what arrives, minor units')),
})
