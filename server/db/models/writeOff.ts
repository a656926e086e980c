import { day, instant, optional, table, text, whole } from './columns'

/** Why and how an item was written off; the item itself is of kind write-off. */
export const writeOff = table('write_off', ['item_id'], {
  item_id: whole('the item, kind write-off'),
  of_item_id: whole('what it closed, or a part of it'),
  customer_id: whole('the account'),
  reason: text(16, ''),
  text: text(200, 'in words of who gave it up'),
  against: text(9, 'expense or allowance'),
  commission: text(10, 'of the seller: kept or taken-back'),
  tax: whole('within, minor units'),
  tax_base: whole('the same in base'),
  relief: text(7, 'none, waits or claimed'),
  relief_why: text(200, ''),
  relief_on: optional(day('')),
  relief_entry_id: optional(whole('of entry, where it was claimed later')),
  person_id: whole('who did it'),
  at: instant('when, UTC'),
})
