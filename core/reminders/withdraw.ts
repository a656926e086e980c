import type { IsoDate } from '../calendar'
import { amountWords } from '../money'
import { refuse, refused } from '../ledger/rules'
import type { Decided, LedgerState, Posting, Refusal } from '../ledger/types'
import { reverse } from '../receipts'
import type { RunState } from './confirm'

/** A notice that went out, as far as taking it back looks at it. */
export interface SentNotice {
  id: number
  key: string
  number: string
  customer: { number: string; name: string }
  /** Ids of its fee and interest, null for none. */
  feeItemId: number | null
  interestItemId: number | null
  /** A later notice took one of its items further: that one goes first. */
  followedBy: string | null
}

export interface WithdrawState {
  ledger: LedgerState
  state: RunState
  /** Those of the run that were not withdrawn before. */
  notices: readonly SentNotice[]
}

export interface WithdrawAsk {
  /** Keys of the notices; null: all of the run. */
  keys: readonly string[] | null
  reason: string
}

/** Which of the postings belong to which notice. */
export interface Withdrawing {
  notices: { notice: SentNotice; postings: number[] }[]
}

/**
 * Takes notices back: fee and interest are reversed (what was paid on them is on account again), and their
 * items have the level of before, because the notice does not count any more. Those withdrawn before stay so.
 */
export function decideWithdraw(state: WithdrawState, ask: WithdrawAsk): Decided<Withdrawing> {
  const { ledger } = state
  if (state.state !== 'confirmed' && state.state !== 'withdrawn')
    return refused([
      refuse('withdraw.sent', 'run', 'this run was not confirmed: nothing went out', 'discard it instead'),
    ])
  const wanted = ask.keys && new Set(ask.keys)
  const chosen = wanted ? state.notices.filter(n => wanted.has(n.key)) : state.notices
  const refusals: Refusal[] = []
  if (!ask.reason.trim())
    refusals.push(refuse('withdraw.reason', 'reason', 'taking back needs a reason', 'say why in a few words'))
  for (const n of chosen)
    if (n.followedBy !== null)
      refusals.push(
        refuse(
          'withdraw.followed',
          n.key,
          `${n.customer.name} got notice ${n.followedBy} after this one`,
          `withdraw ${n.followedBy} first`,
        ),
      )
  if (refusals.length) return refused(refusals)
  const postings: Posting[] = []
  const notices: Withdrawing['notices'] = []
  for (const notice of chosen) {
    const own: number[] = []
    for (const itemId of [notice.feeItemId, notice.interestItemId]) {
      const item = itemId === null ? undefined : ledger.items.get(itemId)
      // What was reversed or given up by itself before needs nothing more.
      if (!item || item.reversed) continue
      const credited = creditedOf(ledger, item.id)
      if (credited === item.amount) continue
      if (credited > 0) {
        refusals.push(
          refuse(
            'withdraw.credited',
            notice.key,
            `${amountWords(credited, item.currency)} of ${item.number} were credited before`,
            `credit the rest of ${item.number} instead`,
          ),
        )
        continue
      }
      const decision = reverse(ledger, {
        itemId: item.id,
        date: dayOf(ledger.today, item.postingDate),
        reason: ask.reason,
        lines: ledger.lines.get(item.id) ?? [],
      })
      if (!decision.ok) {
        refusals.push(...decision.refusals.map(r => ({ ...r, path: notice.key })))
        continue
      }
      own.push(postings.length)
      postings.push(decision.posting)
    }
    notices.push({ notice, postings: own })
  }
  return refusals.length ? refused(refusals) : { ok: true, postings, facts: { notices } }
}

/** What credit notes took off an item. */
function creditedOf({ allocations, items }: LedgerState, itemId: number): number {
  let sum = 0
  for (const a of allocations.values())
    if (a.debitItemId === itemId && items.get(a.creditItemId)?.kind === 'credit-note') sum += a.amount
  return sum
}

const dayOf = (today: IsoDate, posted: IsoDate): IsoDate => (posted > today ? posted : today)
