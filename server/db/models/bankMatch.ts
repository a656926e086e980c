import type { UnmatchState } from '../../../core/banking'
import { decimal, instant, kept, key, optional, table, text, whole, wordOf } from './columns'

/** What a line was taken for, and by whom; undone it stays in the history. */
export const bankMatch = table('bank_match', ['id'], {
  id: key(''),
  line_id: whole('the line'),
  kind: wordOf<NonNullable<UnmatchState['matched']>>(10, 'receipt, covered, ledger or return'),
  entry_id: whole('the journal entry that wrote it'),
  told: text(500, 'what and why, in a sentence or two'),
  confidence: optional(decimal('of the proposal taken; null by hand')),
  automatic: whole('1 taken by rule'),
  undone_entry_id: optional(whole('the entry that took it back')),
  undone_reason: text(200, 'why'),
  undone_by: optional(whole('who')),
  undone_at: optional(instant('when, UTC')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
  live_line: kept(whole('kept by the database from the others')),
})
