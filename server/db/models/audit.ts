import { instant, key, longText, optional, table, text, whole } from './columns'

/** The trail of who did what. Append-only. */
export const audit = table('audit', ['id'], {
  id: key(''),
  what: text(64, 'name of the Command, or of the thing that changed'),
  about: text(64, 'what it concerns, in a word'),
  before_value: optional(longText('as it was')),
  after_value: optional(longText('as it is, or what was asked for')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
