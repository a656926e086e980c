import type { HoldCause } from '../../../core/exposure'
import { day, instant, kept, key, optional, table, text, whole, wordOf } from './columns'

/** A time during which nothing was to be shipped to a customer, and why. */
export const hold = table('hold', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  cause: wordOf<HoldCause>(12, 'hand, or the rule that set it: see core/exposure'),
  reason: text(200, 'in words'),
  person_id: optional(whole('who set it; null: a rule')),
  on_date: day('business date on which it began'),
  at: instant('since when, UTC'),
  ended_at: optional(instant('UTC')),
  ended_on: optional(day('business date on which it ended')),
  ended_by: optional(whole('who released it; null: its cause went')),
  end_reason: text(200, ''),
  released_until: optional(day('last day on which its rule does not set it again')),
  open_cause: kept(text(12, 'the cause while it lasts: one hold of a cause at a time')),
})
