import { table, text, whole } from './columns'

/** How a customer was seen to pay, counted from what was confirmed. */
export const payerHabit = table('payer_habit', ['customer_id', 'kind', 'amount'], {
  customer_id: whole('the account'),
  kind: text(8, 'oldest: the oldest first; other: not so; short: kept back an amount'),
  amount: whole('kept back, minor units; else 0'),
  times: whole('how often'),
})
