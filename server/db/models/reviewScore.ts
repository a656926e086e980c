import { day, optional, table, text, whole } from './columns'

/** How an account stood when the last model was learnt. */
export const reviewScore = table('review_score', ['customer_id'], {
  customer_id: whole('the account'),
  model_id: whole('its day is that of the score'),
  score: optional(whole('0 to 1000, tenths of a point; null: nothing known')),
  probability: optional(
    whole('more than 90 days late within a year, millionths; null: so now, or not known'),
  ),
  long_late: whole('1: more than 90 days late now'),
  most_open: whole('the most that was open in the last year, base minor units'),
  suggested: text(1, 'risk class; empty: nothing known to suggest by'),
  danger: whole('to sort by: the probability; above all of them what is late now'),
  days_late: optional(whole('of what was paid in the last year, weighted by amount')),
  usual_late: optional(whole('days late that half of the money came by')),
  spread: optional(whole('half of the money came within so many days of that')),
  pay_day: optional(whole('day of the month on which it pays; null: on any')),
  last_paid: optional(day('of the last payment')),
})
