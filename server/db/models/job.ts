import { bytes, instant, key, longText, optional, table, text, whole } from './columns'

/** Work that takes over a second. */
export const job = table('job', ['id'], {
  id: key(''),
  kind: text(32, ''),
  state: text(12, 'queued, running, done, failed or cancelled'),
  params: longText('JSON'),
  upload: optional(bytes('the file it works on')),
  done: whole('so far'),
  total: whole('of so many'),
  step: text(80, 'what it does now'),
  result: optional(longText('JSON')),
  cancel: whole('1: asked to stop'),
  heartbeat: optional(instant('last sign of life, UTC')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
