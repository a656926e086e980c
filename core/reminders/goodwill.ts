import { takeOffItem } from '../documents'
import { KINDS } from '../ledger/kinds'
import { assertBalanced, refuse, refused } from '../ledger/rules'
import type { Decided, LedgerState, Refusal } from '../ledger/types'
import { amountWords } from '../money'

export interface GoodwillAsk {
  itemId: number
  /** Minor units; what of the charge is given up. */
  amount: number
  reason: string
}

/**
 * Gives up a fee, interest or compensation, whole or in part, as goodwill: a credit note against the income
 * it was posted to.
 */
export function decideGoodwill({ ledger }: { ledger: LedgerState }, ask: GoodwillAsk): Decided {
  const item = ledger.items.get(ask.itemId)
  if (!item || KINDS[item.kind].remindable !== 'along')
    return refused([
      refuse('goodwill.charge', 'itemId', 'this is no fee or interest', 'choose one of the account'),
    ])
  const refusals: Refusal[] = []
  if (item.open <= 0)
    refusals.push(
      refuse('goodwill.open', 'itemId', `nothing of ${item.number} is open`, 'unallocate its payment first'),
    )
  else if (ask.amount < 1 || ask.amount > item.open)
    refusals.push(
      refuse(
        'goodwill.amount',
        'amount',
        `${amountWords(item.open, item.currency)} of ${item.number} are open`,
        `more than zero, at most ${amountWords(item.open, item.currency)}`,
      ),
    )
  if (!ask.reason.trim())
    refusals.push(refuse('goodwill.reason', 'reason', 'goodwill needs a reason', 'say why in a few words'))
  if (refusals.length) return refused(refusals)
  const text = `Goodwill: ${ask.reason.trim()}`
  const posting = {
    kind: 'document' as const,
    date: ledger.today,
    text,
    ...takeOffItem(ledger, item, ask.amount, 'credit-note', text, -1),
  }
  assertBalanced(posting.lines)
  return { ok: true, postings: [posting], facts: null }
}
