import { day, instant, key, longText, optional, table, text, whole, wordOf } from './columns'

/** A Command that waits for a second signature. */
export const waitingCommand = table('waiting_command', ['id'], {
  id: key(''),
  name: text(40, 'of the Command'),
  ask: longText('what was asked for, JSON'),
  about: text(64, ''),
  state: wordOf<'waiting' | 'signed' | 'declined' | 'returned' | 'withdrawn'>(
    10,
    'waiting, signed, declined, returned or withdrawn',
  ),
  decided_by: optional(whole('')),
  decided_at: optional(instant('UTC')),
  reason: text(200, 'of declining or sending back'),
  result: optional(longText('JSON')),
  person_id: whole('who asked for it'),
  at: instant('when, UTC'),
  kind: text(16, 'see core/signOff'),
  amount: optional(whole('what is at stake, minor units')),
  currency: text(3, 'ISO 4217; empty without an amount'),
  customer_id: optional(whole('the account it is about')),
  told: longText('what would change as it was seen when it was asked for, JSON'),
  on_date: day('business date on which it was asked for'),
})
