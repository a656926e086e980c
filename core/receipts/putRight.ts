import type { IsoDate } from '../calendar'
import { postReceipt, reverse, type ReceiptIntent } from './receipts'
import { refuse } from '../ledger/rules'
import { afterPosting, mergePostings } from '../ledger/state'
import type { LedgerState, Line, Posting, Refusal } from '../ledger/types'

export interface PutRightIntent {
  itemId: number
  reason: string
  /** The day the wrong receipt is taken back: its own date, or later when that period is closed. */
  date: IsoDate
  lines: readonly Line[]
  /** The receipt as it should have been. */
  receipt: ReceiptIntent
}

/**
 * Puts a receipt right: customer, date, reference or amount. The wrong one is reversed with all its links,
 * the right one is posted; money that stays where it is goes out and in again in one entry, so that each
 * receipt keeps lines of its own that can be reversed.
 */
export function putRight(
  state: LedgerState,
  intent: PutRightIntent,
): { ok: true; postings: Posting[] } | { ok: false; refusals: Refusal[] } {
  const taken = reverse(state, {
    itemId: intent.itemId,
    date: intent.date,
    reason: intent.reason,
    lines: intent.lines,
  })
  if (!taken.ok) return taken
  const old = state.items.get(intent.itemId)!
  if (old.kind !== 'receipt')
    return {
      ok: false,
      refusals: [
        refuse('correct.kind', 'itemId', `${old.number} is not a receipt`, 'take it back where it came from'),
      ],
    }
  const right = postReceipt(afterPosting(state, taken.posting), intent.receipt)
  if (!right.ok)
    return { ok: false, refusals: right.refusals.map(r => ({ ...r, path: `receipt.${r.path}` })) }
  const text = `${old.number} put right: ${intent.reason}`
  // Two days, two entries: each item lies on the day of its entry.
  if (intent.date !== intent.receipt.date)
    return {
      ok: true,
      postings: [
        { ...taken.posting, text },
        { ...right.posting, text },
      ],
    }
  return {
    ok: true,
    postings: [mergePostings('correction', intent.date, text, [taken.posting, right.posting])],
  }
}
