import type { IsoDate } from '../calendar'
import { refuse, type Refusal } from '../ledger'
import { amountWords } from '../money'

/*
 * What a customer disputes: items, whole or in part, with a reason. A dispute changes what is asked for,
 * never what is owed: only its resolution posts anything.
 */

/** Why; a deduction claims one of these too. Common practice of the trade. */
export const DISPUTE_REASONS = {
  price: 'Price',
  quantity: 'Quantity',
  quality: 'Quality',
  'late-delivery': 'Late delivery',
  'not-ordered': 'Not ordered',
  'not-delivered': 'Not delivered',
  'credit-missing': 'Credit is missing',
  duplicate: 'Invoiced twice',
  paid: 'Says it is paid',
  freight: 'Freight',
  other: 'Other',
} as const
export type DisputeReason = keyof typeof DISPUTE_REASONS
export const REASONS = Object.keys(DISPUTE_REASONS) as DisputeReason[]

/** Whose fault it was, as far as it is known. */
export const FAULTS = {
  unknown: 'Not known',
  us: 'Ours',
  customer: 'Customer’s',
  carrier: 'Carrier’s',
} as const
export type Fault = keyof typeof FAULTS

/**
 * How a dispute ends. `credited`: a credit note takes it off. `written-off`: given up without one. `settled`:
 * a part is credited, the rest is owed. `upheld`: all of it is owed and chased again.
 */
export const RESOLUTIONS = {
  credited: 'Credited',
  settled: 'Settled in part',
  'written-off': 'Written off',
  upheld: 'Upheld',
} as const
export type Resolution = keyof typeof RESOLUTIONS

export interface DisputedItem {
  itemId: number
  /** Minor units of the item's currency. */
  amount: number
}

/** What of an item is disputed now: no more than is open of it. */
export const disputedNow = (amount: number, open: number): number => Math.max(0, Math.min(amount, open))

/** Until when a dispute should be resolved when nobody says: so many days. Ours. */
export const DEADLINE_DAYS = 14

export interface DisputeAsk {
  items: readonly DisputedItem[]
  deadline: IsoDate
}

export interface AccountToDispute {
  today: IsoDate
  open: readonly { itemId: number; number: string; currency: string; open: number; disputed: number }[]
}

/** Why a dispute cannot be opened as it is said. */
export function disputeRefusals(state: AccountToDispute, ask: DisputeAsk): Refusal[] {
  const refusals: Refusal[] = []
  if (ask.deadline < state.today)
    refusals.push(
      refuse('dispute.deadline', 'deadline', `${ask.deadline} is over`, `a day from ${state.today} on`),
    )
  const currencies = new Set<string>()
  const seen = new Set<number>()
  for (const [n, { itemId, amount }] of ask.items.entries()) {
    const item = state.open.find(i => i.itemId === itemId)
    if (!item || seen.has(itemId)) {
      const why = item ? 'an item is named twice' : 'nothing of this item is open'
      refusals.push(refuse('dispute.item', `items.${n}`, why, 'choose open debits of the account'))
      continue
    }
    seen.add(itemId)
    currencies.add(item.currency)
    const most = item.open - item.disputed
    const money = (minor: number) => amountWords(minor, item.currency)
    if (amount > most)
      refusals.push(
        refuse(
          'dispute.amount',
          `items.${n}.amount`,
          item.disputed
            ? `${money(item.open)} of ${item.number} are open, ${money(item.disputed)} disputed already`
            : `${money(item.open)} of ${item.number} are open`,
          most > 0 ? `at most ${money(most)}` : 'resolve the dispute that is there',
        ),
      )
  }
  if (currencies.size > 1)
    refusals.push(
      refuse('dispute.currency', 'items', 'items of several currencies', 'open a dispute for each currency'),
    )
  return refusals
}
