import type { IsoDate } from '../calendar'
import { takeOffItem } from '../documents'
import { amountWords } from '../money'
import {
  assertBalanced,
  refuse,
  refused,
  type Decided,
  type LedgerState,
  type Posting,
  type Refusal,
} from '../ledger'
import { disputedNow, type DisputedItem, type Resolution } from './dispute'

export interface OpenDispute {
  id: number
  version: number
  items: readonly DisputedItem[]
  /** Empty while it is open. */
  resolution: Resolution | ''
}

export interface DisputeState {
  ledger: LedgerState
  dispute: OpenDispute
}

export interface ResolveAsk {
  resolution: Resolution
  /** What was seen: somebody else may have resolved it meanwhile. */
  version: number
  /** What is given up, item by item; nothing when it is upheld. */
  amounts: readonly DisputedItem[]
}

/** What resolving posts, by how it ends; null: nothing. */
const POSTS: Readonly<Record<Resolution, 'credit-note' | 'write-off' | null>> = {
  credited: 'credit-note',
  settled: 'credit-note',
  'written-off': 'write-off',
  upheld: null,
}

/** What is given up of each item that is still open: all that is disputed, unless amounts were said. */
function givenUp({ ledger, dispute }: DisputeState, ask: ResolveAsk): DisputedItem[] {
  if (POSTS[ask.resolution] === null) return []
  if (ask.amounts.length) return [...ask.amounts]
  return dispute.items
    .map(({ itemId, amount }) => ({
      itemId,
      amount: disputedNow(amount, ledger.items.get(itemId)?.open ?? 0),
    }))
    .filter(i => i.amount > 0)
}

function resolveRefusals(state: DisputeState, ask: ResolveAsk, amounts: readonly DisputedItem[]): Refusal[] {
  const { dispute, ledger } = state
  if (dispute.resolution !== '')
    return [refuse('dispute.open', 'resolution', 'this dispute is resolved already', 'read it again')]
  if (dispute.version !== ask.version)
    return [
      refuse(
        'dispute.version',
        'version',
        'somebody changed this dispute meanwhile',
        'read it again, then resolve it',
      ),
    ]
  if (POSTS[ask.resolution] === null) return []
  if (!amounts.length)
    return [
      refuse(
        'dispute.left',
        'amounts',
        'nothing of it is open any more',
        'uphold it: nothing is to be posted',
      ),
    ]
  const refusals: Refusal[] = []
  for (const [n, { itemId, amount }] of amounts.entries()) {
    const disputed = dispute.items.find(i => i.itemId === itemId)
    const item = ledger.items.get(itemId)
    if (!disputed || !item)
      refusals.push(
        refuse('dispute.item', `amounts.${n}`, 'this item is not disputed here', 'choose one that is'),
      )
    else if (amount > disputedNow(disputed.amount, item.open))
      refusals.push(
        refuse(
          'dispute.amount',
          `amounts.${n}.amount`,
          `${amountWords(disputedNow(disputed.amount, item.open), item.currency)} of ${item.number} are disputed`,
          `at most ${amountWords(disputedNow(disputed.amount, item.open), item.currency)}`,
        ),
      )
  }
  const all = dispute.items.reduce(
    (sum, i) => sum + disputedNow(i.amount, ledger.items.get(i.itemId)?.open ?? 0),
    0,
  )
  const given = amounts.reduce((sum, i) => sum + i.amount, 0)
  if (ask.resolution === 'settled' && given >= all && !refusals.length)
    refusals.push(
      refuse(
        'dispute.part',
        'amounts',
        'all that is disputed is credited',
        'say credited instead, or credit less',
      ),
    )
  return refusals
}

/** What resolving a dispute posts: credit notes or write-offs of what is given up, each allocated at once. */
export function decideResolve(state: DisputeState, ask: ResolveAsk): Decided<DisputedItem[]> {
  const { ledger, dispute } = state
  const amounts = givenUp(state, ask)
  const refusals = resolveRefusals(state, ask, amounts)
  const kind = POSTS[ask.resolution]
  if (kind !== null && !refusals.length) refusals.push(...closedRefusals(ledger))
  if (refusals.length) return refused(refusals)
  if (kind === null) return { ok: true, postings: [], facts: [] }
  const posting: Posting = {
    kind: 'document',
    date: ledger.today,
    text: `Dispute ${dispute.id}: ${kind === 'credit-note' ? 'credited' : 'written off'}`,
    items: [],
    allocations: [],
    lines: [],
  }
  amounts.forEach(({ itemId, amount }, n) => {
    const item = ledger.items.get(itemId)!
    const text = `${kind === 'credit-note' ? 'Credit' : 'Write-off'} for ${item.number}, dispute ${dispute.id}`
    const part = takeOffItem(ledger, item, amount, kind, text, -1 - n)
    posting.items.push(...part.items)
    posting.allocations.push(...part.allocations)
    posting.lines.push(...part.lines)
  })
  assertBalanced(posting.lines)
  return { ok: true, postings: [posting], facts: amounts }
}

function closedRefusals({ closedUntil, today }: { closedUntil: IsoDate | null; today: IsoDate }): Refusal[] {
  if (closedUntil === null || today > closedUntil) return []
  return [
    refuse('period.closed', 'date', `the books are closed up to ${closedUntil}`, 'wait for the next period'),
  ]
}
