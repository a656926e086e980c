import { KINDS, sideOf } from './kinds'
import type { NewItem } from './types'

/** What must be said of a new item; the rest follows from its kind, from its day, or is nothing. */
export type ItemSaid = Pick<
  NewItem,
  'id' | 'customerId' | 'kind' | 'currency' | 'amount' | 'baseAmount' | 'postingDate'
> &
  Partial<NewItem>

/** An item of a posting. `id` is its key: negative, and unlike the others of the posting. */
export function newItem(said: ItemSaid): NewItem {
  const documentDate = said.documentDate ?? said.postingDate
  return {
    number: '',
    series: KINDS[said.kind].series,
    part: 1,
    side: said.side ?? sideOf(said.kind),
    tax: 0,
    discounts: [],
    documentDate,
    dueDate: documentDate,
    reversesItemId: null,
    bornOfItemId: null,
    order: '',
    text: '',
    means: [],
    ...said,
  }
}
