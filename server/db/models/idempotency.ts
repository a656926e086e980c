import { instant, longText, table, text, whole } from './columns'

/** What a request with an Idempotency-Key was answered. */
export const idempotency = table('idempotency', ['person_id', 'idempotency_key'], {
  person_id: whole('who did it'),
  idempotency_key: text(80, 'from the header'),
  request_hash: text(64, 'SHA-256 of the request'),
  result: longText('the answer, JSON'),
  at: instant('when, UTC'),
})
