import type { IsoDate } from '../calendar'
import { afterPosting } from '../ledger/state'
import { refuse } from '../ledger/rules'
import type { LedgerState, Line, Posting, Refusal } from '../ledger/types'
import { reasonLabel } from '../payments/reasons'
import { reverse } from '../receipts/reversal'
import { isWithinWindow } from './dates'
import type { Scheme } from './mandate'
import type { CollectionState } from './state'

/** A collection that comes back. Minor units of euro. */
export interface ReturnedCollection {
  id: number
  number: string
  state: CollectionState | 'proposed'
  scheme: Scheme
  collectOn: IsoDate
  /** Its receipt; null where none was posted. */
  receiptId: number | null
  /** The lines to mirror: where the money of the receipt is now. */
  lines: readonly Line[]
  /** Reason of the return, a code of ISO 20022. */
  code: string
  date: IsoDate
  /** The bank's fee, charged on to the customer; 0 for none. */
  fee: number
}

/** Why a collection cannot come back; empty when it can. */
function returnRefusals(back: ReturnedCollection): Refusal[] {
  const { number, state, receiptId, collectOn, scheme, code, date } = back
  if (state !== 'collected' || receiptId === null)
    return [
      refuse(
        'return.state',
        'id',
        state === 'returned' ? `${number} came back before` : `${number} is ${state}: it was not collected`,
        'reload to see what became of it',
      ),
    ]
  if (isWithinWindow(collectOn, scheme, code, date)) return []
  return [
    refuse(
      'return.window',
      'on',
      `${number} was collected on ${collectOn}: the time to send it back for ${code} is over`,
      'if the bank took the money all the same, match its line as a return of the receipt',
    ),
  ]
}

/**
 * Collections that come back, one after another: each receipt is reversed, its items are open again at their
 * due dates, and the house's fee is charged on. All are posted, or none: the refusals tell of each that
 * cannot be.
 */
export function postReturns(
  ledger: LedgerState,
  returns: readonly ReturnedCollection[],
): { postings: Posting[]; refusals: Refusal[] } {
  const postings: Posting[] = []
  const refusals: Refusal[] = []
  let now = ledger
  for (const back of returns) {
    const own = returnRefusals(back)
    refusals.push(...own)
    if (own.length) continue
    const decision = reverse(now, {
      itemId: back.receiptId!,
      date: back.date,
      reason: `Direct debit returned: ${reasonLabel(back.code)}`,
      lines: back.lines,
      ...(back.fee ? { fee: { amount: back.fee, baseAmount: back.fee } } : {}),
    })
    if (!decision.ok) {
      refusals.push(...decision.refusals)
      continue
    }
    postings.push(decision.posting)
    if (returns.length > 1) now = afterPosting(now, decision.posting)
  }
  return { postings, refusals }
}
