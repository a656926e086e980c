import { instant, key, optional, table, text, whole } from './columns'

/** A customer and its account. */
export const customer = table('customer', ['id'], {
  id: key(''),
  number: text(32, 'ours, unique'),
  name: text(160, ''),
  class: text(24, 'its class'),
  country: text(2, 'ISO 3166'),
  language: text(2, 'ISO 639'),
  currency: text(3, 'ISO 4217'),
  terms: text(80, 'payment terms as text'),
  credit_limit: optional(whole('base currency minor units; null without limit')),
  contact: text(120, 'whom to ring about money'),
  email: text(190, 'for letters'),
  phone: text(40, ''),
  iban: text(34, 'it pays from'),
  vat_number: text(20, ''),
  parent_id: optional(whole('head of its group')),
  policy: text(24, 'reminder policy; empty: that of the class'),
  controller_id: optional(whole('who chases it')),
  sales_id: optional(whole('who sells to it')),
  version: whole('goes up with each change: a stale edit is refused'),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
  street: text(160, 'and number, for letters'),
  postcode: text(16, ''),
  city: text(80, ''),
})
