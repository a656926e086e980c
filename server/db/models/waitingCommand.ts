import { instant, key, longText, optional, table, text, whole } from './columns'

/** A Command that waits for a second signature. */
export const waitingCommand = table('waiting_command', ['id'], {
  id: key(''),
  name: text(40, 'of the Command'),
  ask: longText('what was asked for, JSON'),
  about: text(64, ''),
  state: text(8, 'waiting, posted or declined'),
  decided_by: optional(whole('')),
  decided_at: optional(instant('UTC')),
  reason: text(200, 'of declining'),
  result: optional(longText('JSON')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
