import type { IsoDate } from '../calendar'
import { allocate } from './allocations'
import { postReceipt, type ReceiptIntent } from './receipts'
import { refuse } from '../ledger/rules'
import { afterPosting } from '../ledger/state'
import type { LedgerState, Means, Posting, Refusal } from '../ledger/types'

/** What of a payment belongs to one customer. */
export interface PaidPart {
  customerId: number
  amount: number
  allocations: ReceiptIntent['allocations']
  credits: { creditItemId: number; debitItemId: number; amount: number }[]
  onAccount: number
}

/** What all receipts of one payment have in common. `paidOn` is the day by which discount is judged. */
export interface Payment {
  date: IsoDate
  paidOn?: IsoDate
  currency: string
  text: string
  rate: string
  means: Means
  reference: string
  account?: string
  lateDiscount: boolean
}

/**
 * Posts a receipt for each part, with the credits that were taken off. The postings follow one another: each
 * sees what those before it left.
 */
export function postParts(
  state: LedgerState,
  payment: Payment,
  parts: readonly PaidPart[],
): { postings: Posting[]; refusals: Refusal[] } {
  const { means, reference, account, ...rest } = payment
  const postings: Posting[] = []
  const refusals: Refusal[] = []
  let now = state
  for (const [i, part] of parts.entries()) {
    const receipt = postReceipt(now, {
      ...rest,
      customerId: part.customerId,
      allocations: part.allocations,
      onAccount: part.onAccount,
      means: [{ means, amount: part.amount, reference, account }],
    })
    if (!receipt.ok) {
      refusals.push(...receipt.refusals.map(r => ({ ...r, path: `parts.${i}.${r.path}` })))
      continue
    }
    postings.push(receipt.posting)
    now = afterPosting(now, receipt.posting)
    if (!part.credits.length) continue
    const credits = allocate(now, { date: payment.date, pairs: part.credits })
    if (!credits.ok) {
      refusals.push(...credits.refusals.map(r => ({ ...r, path: `parts.${i}.${r.path}` })))
      continue
    }
    postings.push(credits.posting)
    now = afterPosting(now, credits.posting)
  }
  return { postings, refusals }
}

/**
 * One receipt per item instead of one lump per customer; money on account is a receipt of its own. Credits
 * stay with the item they go against.
 */
export function byItem(parts: readonly PaidPart[]): PaidPart[] {
  return parts.flatMap(p => [
    ...p.allocations.map(a => ({
      customerId: p.customerId,
      amount: a.paid ?? a.amount,
      allocations: [a],
      credits: p.credits.filter(c => c.debitItemId === a.itemId),
      onAccount: 0,
    })),
    ...(p.onAccount
      ? [
          {
            customerId: p.customerId,
            amount: p.onAccount,
            allocations: [],
            credits: [],
            onAccount: p.onAccount,
          },
        ]
      : []),
  ])
}

/** Why parts cannot stand for a payment of so much. */
export function partRefusals(parts: readonly PaidPart[], amount: number): Refusal[] {
  const sum = parts.reduce((a, p) => a + p.amount, 0)
  return sum === amount
    ? []
    : [
        refuse(
          'payment.assigned',
          'parts',
          `the parts make ${sum} minor units, the payment is ${amount}`,
          'let them add up',
        ),
      ]
}
