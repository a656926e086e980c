import { day, instant, key, optional, table, text, whole } from './columns'

/** A file on an account. Its bytes lie under the data folder, by their hash. */
export const attachment = table('attachment', ['id'], {
  id: key(''),
  customer_id: whole('the account'),
  name: text(160, 'as it was called'),
  type: text(40, 'media type, as its bytes say'),
  bytes: whole('its size'),
  hash: text(64, 'SHA-256 of the bytes, hexadecimal'),
  text: text(300, ''),
  on_date: day('business date'),
  removed_at: optional(instant('UTC; it is not shown any more')),
  person_id: whole('who put it there'),
  at: instant('UTC'),
})
