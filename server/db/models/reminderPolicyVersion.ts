import { day, instant, key, longText, table, text, whole } from './columns'

/** What a policy says from a day on; the newest that began by a day holds on it. */
export const reminderPolicyVersion = table('reminder_policy_version', ['id'], {
  id: key(''),
  code: text(24, 'of reminder_policy'),
  valid_from: day('first day it holds'),
  form: longText('JSON, see contract/reminders/policy'),
  person_id: whole('who did it, 0: came with the program'),
  at: instant('when, UTC'),
})
