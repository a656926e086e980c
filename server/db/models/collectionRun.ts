import { day, instant, key, longText, optional, table, text, whole } from './columns'

/** A collection of what is due, proposed for a day. */
export const collectionRun = table('collection_run', ['id'], {
  id: key(''),
  collect_on: day(''),
  due_by: day('items due by then'),
  made_on: day('business date of the proposal'),
  scheme: text(4, 'only CORE or B2B; empty: both'),
  again_of: longText('JSON: ids of collections that came back and are presented again; empty list for none'),
  bank_account_id: whole('where the money comes'),
  state: text(9, 'proposed, confirmed or discarded'),
  edits: longText('JSON by customer number'),
  version: whole(''),
  confirmed_by: optional(whole('')),
  confirmed_at: optional(instant('UTC')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
  job_id: optional(whole('at work on it')),
})
