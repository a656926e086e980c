import type { IsoDate } from '../calendar'
import { lowestOpenFrom } from '../ledger/open'
import { afterPosting } from '../ledger/state'
import type { LedgerState, Posting, Refusal } from '../ledger/types'
import { earnedDiscount } from '../receipts/adjustments'
import type { CreditPair } from '../receipts/credits'
import { postParts, type PaidPart } from '../receipts/parts'

/** A collection as it was sent to the bank. Minor units of euro. */
export interface SentCollection {
  id: number
  number: string
  customerId: number
  amount: number
  collectOn: IsoDate
  items: readonly { id: number; amount: number; discount: number }[]
  credits: readonly CreditPair[]
}

/** What became of a collection: its postings, and what of its money found no item. */
export interface Collected {
  postings: Posting[]
  refusals: Refusal[]
  onAccount: number
}

/**
 * The receipt of a collection on its day. The bank takes what was sent, whatever became of the items since:
 * what was paid or credited meanwhile leaves that much of the money on account, and a credit that was used
 * elsewhere is not taken.
 */
export function postCollection(ledger: LedgerState, sent: SentCollection, date: IsoDate): Collected {
  const credits = sent.credits.filter(c => {
    const credit = ledger.items.get(c.creditItemId)
    const debit = ledger.items.get(c.debitItemId)
    return (
      credit !== undefined &&
      debit !== undefined &&
      lowestOpenFrom(credit, date) >= c.amount &&
      lowestOpenFrom(debit, date) >= c.amount
    )
  })
  const allocations = sent.items.flatMap(({ id, amount, discount }) => {
    const item = ledger.items.get(id)
    if (!item) return []
    const taken = credits.filter(c => c.debitItemId === id).reduce((a, c) => a + c.amount, 0)
    const most = Math.min(amount, lowestOpenFrom(item, date) - taken)
    if (most <= 0) return []
    const isWhole = most === amount && most + discount + taken <= lowestOpenFrom(item, date)
    const earned = discount > 0 && isWhole ? earnedDiscount(ledger, item, sent.collectOn, most) : 0
    return [{ itemId: id, amount: most, discount: Math.min(discount, earned) }]
  })
  const assigned = allocations.reduce((a, x) => a + x.amount, 0)
  const part: PaidPart = {
    customerId: sent.customerId,
    amount: sent.amount,
    allocations,
    credits,
    onAccount: sent.amount - assigned,
  }
  const payment = {
    date,
    paidOn: sent.collectOn,
    currency: 'EUR',
    text: `Direct debit ${sent.number}`,
    rate: '1',
    means: 'debit' as const,
    reference: sent.number,
    lateDiscount: false,
  }
  return { ...postParts(ledger, payment, [part]), onAccount: part.onAccount }
}

/** Collections one after another, each after what those before it left. */
export function postCollections(
  ledger: LedgerState,
  sent: readonly SentCollection[],
  dateOf: (collection: SentCollection) => IsoDate,
): {
  done: { id: number; postings: number[]; onAccount: number }[]
  postings: Posting[]
  refusals: Refusal[]
} {
  const postings: Posting[] = []
  const refusals: Refusal[] = []
  const done: { id: number; postings: number[]; onAccount: number }[] = []
  const items = new Map(ledger.items)
  for (const collection of sent) {
    const own = { ...ledger, items: ownItems(items, collection) }
    const made = postCollection(own, collection, dateOf(collection))
    if (made.refusals.length) {
      refusals.push(...made.refusals.map(r => ({ ...r, message: `${collection.number}: ${r.message}` })))
      continue
    }
    let now = own
    const first = postings.length
    for (const posting of made.postings) {
      postings.push(posting)
      now = afterPosting(now, posting)
    }
    for (const [id, item] of now.items) items.set(id, item)
    done.push({
      id: collection.id,
      postings: made.postings.map((_, n) => first + n),
      onAccount: made.onAccount,
    })
  }
  return { done, postings, refusals }
}

function ownItems(
  items: LedgerState['items'],
  { items: paid, credits }: SentCollection,
): LedgerState['items'] {
  const ids = [...paid.map(i => i.id), ...credits.flatMap(c => [c.creditItemId, c.debitItemId])]
  return new Map(
    ids.flatMap(id => {
      const item = items.get(id)
      return item ? [[id, item] as const] : []
    }),
  )
}
