import { optional, table, text, whole } from './columns'

/** What its customers have in common. */
export const customerClass = table('customer_class', ['code'], {
  code: text(24, ''),
  name: text(80, ''),
  terms: text(80, 'payment terms'),
  policy: text(24, 'reminder policy'),
  keep_on_item: whole('1: an overpayment may be kept for one item'),
  method: text(12, 'how its customers pay as a rule'),
  risk_class: text(8, 'A the best to E; empty: none'),
  statement_cycle: text(12, 'none, monthly or quarterly'),
  refunds: text(3, 'yes or no'),
  credit_limit: optional(whole('base currency minor units; null without limit')),
  version: whole('goes up with each change: a stale edit is refused'),
})
