import { optional, table, text, whole } from './columns'

/** What a match is bound to. */
export const bankMatchTarget = table('bank_match_target', ['match_id', 'kind', 'ref_id'], {
  match_id: whole('the match'),
  kind: text(10, 'means, slip, reversal, receipt or return'),
  ref_id: whole('id in the table of its kind'),
  live: optional(whole('1 while the match stands, null after: nothing is met by two live matches')),
})
