import { day, table, text, whole } from './columns'

/** A date of a promise, or an instalment of a plan. `paid` and `state` are what the worker kept last. */
export const promisePart = table('promise_part', ['promise_id', 'date'], {
  promise_id: whole(''),
  date: day('promised for'),
  amount: whole('minor units'),
  until: day('last day on which the money is in time'),
  paid: whole('by then, minor units'),
  state: text(10, 'due, kept, partly or broken'),
})
