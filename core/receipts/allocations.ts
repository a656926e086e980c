import type { IsoDate } from '../calendar'
import { planAdjustments } from './adjustments'
import { takeBackBorn } from './born'
import { isMoney, KINDS } from '../ledger/kinds'
import { takeOff } from '../ledger/open'
import { baseLeaving, dateRefusals, decide, linkLines, openRefusals, refuse } from '../ledger/rules'
import type { Allocation, Decision, LedgerState, Refusal, StateItem } from '../ledger/types'

export interface AllocateIntent {
  date: IsoDate
  /** With money received: the discount that its payment date earned, and a small difference written off. */
  pairs: {
    debitItemId: number
    creditItemId: number
    amount: number
    discount?: number
    difference?: number
  }[]
  lateDiscount?: boolean
}

/**
 * Checks pairs against what is open and turns them into allocations. `items` is a working copy: it is taken
 * down pair by pair, so that two pairs on one item cannot use the same money twice.
 */
export function planPairs(
  items: Map<number, StateItem>,
  date: IsoDate,
  pairs: AllocateIntent['pairs'],
  firstKey: number,
  path = 'allocations',
): { allocations: Allocation[]; refusals: Refusal[] } {
  const allocations: Allocation[] = []
  const refusals: Refusal[] = []
  pairs.forEach((pair, i) => {
    const at = `${path}.${i}`
    const debit = items.get(pair.debitItemId)
    const credit = items.get(pair.creditItemId)
    if (!debit || !credit || debit.side !== 'debit' || credit.side !== 'credit') {
      refusals.push(
        refuse(
          'allocation.items',
          at,
          'an allocation needs one debit item and one credit item',
          'choose an open item of this account',
        ),
      )
      return
    }
    if (debit.customerId !== credit.customerId) {
      refusals.push(
        refuse(
          'allocation.account',
          at,
          `${debit.number} is on another customer's account than ${credit.number || 'the receipt'}`,
          'allocate within one account',
        ),
      )
      return
    }
    if (debit.currency !== credit.currency) {
      refusals.push(
        refuse(
          'allocation.currency',
          at,
          `${debit.number} is in ${debit.currency}, ${credit.number || 'the receipt'} in ${credit.currency}`,
          `choose items in ${credit.currency}`,
        ),
      )
      return
    }
    if (!Number.isSafeInteger(pair.amount) || pair.amount <= 0) {
      refusals.push(
        refuse(
          'allocation.amount',
          `${at}.amount`,
          `the amount for ${debit.number} must be more than zero`,
          'enter an amount above zero',
        ),
      )
      return
    }
    const late = [debit, credit].find(item => item.postingDate > date)
    if (late) {
      refusals.push(
        refuse(
          'allocation.date',
          at,
          `${late.number || 'the receipt'} is dated ${late.postingDate}, after ${date}`,
          `use ${late.postingDate} or later`,
        ),
      )
      return
    }
    const short = [debit, credit].flatMap(item => openRefusals(item, date, pair.amount, `${at}.amount`))
    if (short.length) {
      refusals.push(short[0]!)
      return
    }
    const debitBase = baseLeaving(debit, pair.amount)
    const creditBase = baseLeaving(credit, pair.amount)
    allocations.push({
      id: firstKey - allocations.length,
      debitItemId: debit.id,
      creditItemId: credit.id,
      amount: pair.amount,
      debitBase,
      creditBase,
      effective: date,
      undoesId: null,
    })
    items.set(debit.id, takeOff(debit, date, pair.amount, debitBase))
    items.set(credit.id, takeOff(credit, date, pair.amount, creditBase))
  })
  return { allocations, refusals }
}

/**
 * Allocates credits to debits. No money moves; an exchange difference reaches the journal, and a discount or
 * small difference that goes with money received. Discount is judged by the day that money was paid, not by
 * the day of the allocation.
 */
export function allocate(state: LedgerState, intent: AllocateIntent): Decision {
  const refusals = dateRefusals(state, intent.date, 'date')
  if (!intent.pairs.length)
    refusals.push(
      refuse('allocation.some', 'allocations', 'nothing was chosen to allocate', 'choose at least one item'),
    )
  const working = new Map(state.items)
  const plan = refusals.length
    ? { allocations: [], refusals: [] }
    : planPairs(working, intent.date, intent.pairs, -1)
  refusals.push(...plan.refusals)
  const adjusted = refusals.length
    ? null
    : planAdjustments(
        state,
        working,
        intent.pairs.map((p, i) => {
          const credit = state.items.get(p.creditItemId)!
          // Several payments of one item earn its discount together, by the day of the last.
          const together = intent.pairs.filter(x => x.debitItemId === p.debitItemId)
          const paidOn = together
            .map(x => state.items.get(x.creditItemId)!.documentDate)
            .reduce((a, d) => (d > a ? d : a))
          return {
            itemId: p.debitItemId,
            bornOf: p.creditItemId,
            paid: together.reduce((a, x) => a + x.amount, 0),
            paidOn,
            discount: p.discount ?? 0,
            difference: p.difference ?? 0,
            path: `allocations.${i}`,
            received: isMoney(credit.kind),
          }
        }),
        {
          date: intent.date,
          late: intent.lateDiscount ?? false,
          firstItem: -1,
          firstAllocation: -1 - plan.allocations.length,
        },
      )
  return decide([...refusals, ...(adjusted?.refusals ?? [])], () => ({
    kind: 'allocation',
    date: intent.date,
    text: 'Allocation',
    items: adjusted!.made.map(m => m.item),
    allocations: [...plan.allocations, ...adjusted!.made.map(m => m.allocation)],
    lines: [...plan.allocations.flatMap(a => linkLines(state, a)), ...adjusted!.made.flatMap(m => m.lines)],
  }))
}

export interface UnallocateIntent {
  date: IsoDate
  allocationIds: number[]
  reason: string
}

/** The opposite of an allocation, with the very same amounts. */
export function undo(allocation: Allocation, date: IsoDate, key: number): Allocation {
  return {
    ...allocation,
    id: key,
    amount: -allocation.amount,
    debitBase: -allocation.debitBase,
    creditBase: -allocation.creditBase,
    effective: date,
    undoesId: allocation.id,
  }
}

/**
 * Why links cannot be undone; empty when they can. `reversed`: the item that is reversed with them; null when
 * the links alone are undone.
 */
export function undoRefusals(
  state: LedgerState,
  date: IsoDate,
  ids: readonly number[],
  path: string,
  reversed: number | null,
): Refusal[] {
  const refusals: Refusal[] = []
  const keeperOf = (allocation: Allocation) =>
    [allocation.debitItemId, allocation.creditItemId]
      .filter(itemId => itemId !== reversed)
      .map(itemId => state.items.get(itemId))
      .find(item => {
        const links = item && KINDS[item.kind].links
        return links === 'holds' || (links === 'whole' && reversed === null)
      })
  ids.forEach((id, i) => {
    const allocation = state.allocations.get(id)
    if (!allocation || allocation.undoesId !== null) {
      refusals.push(
        refuse(
          'unallocate.known',
          `${path}.${i}`,
          `there is no allocation ${id} to undo`,
          'choose from the links of this item',
        ),
      )
    } else if (allocation.undone) {
      refusals.push(
        refuse(
          'unallocate.once',
          `${path}.${i}`,
          'this allocation was undone before',
          'reload to see the account as it is now',
        ),
      )
    } else if (
      [allocation.debitItemId, allocation.creditItemId].some(
        item => state.items.get(item)?.kind === 'reversal',
      )
    ) {
      refusals.push(
        refuse(
          'unallocate.reversal',
          `${path}.${i}`,
          'this link belongs to a reversal and stays',
          'enter the receipt again instead',
        ),
      )
    } else if ((state.items.get(allocation.creditItemId)?.bornOfItemId ?? null) !== null) {
      refusals.push(
        refuse(
          'unallocate.born',
          `${path}.${i}`,
          `${state.items.get(allocation.creditItemId)!.number} came with a payment`,
          "take back the payment's link, this goes with it",
        ),
      )
    } else if (keeperOf(allocation)) {
      const keeper = keeperOf(allocation)!
      refusals.push(
        refuse(
          'unallocate.whole',
          `${path}.${i}`,
          `this link is all that ${keeper.number} does`,
          `take ${keeper.number} itself back`,
        ),
      )
    } else if (date < allocation.effective) {
      refusals.push(
        refuse(
          'unallocate.date',
          'date',
          `the allocation took effect on ${allocation.effective}`,
          `use ${allocation.effective} or later`,
        ),
      )
    }
  })
  if (new Set(ids).size !== ids.length)
    refusals.push(refuse('unallocate.once', path, 'an allocation is named twice', 'name each once'))
  return refusals
}

/** Undoes allocations: both items are open again, the debit at its original due date. */
export function unallocate(state: LedgerState, intent: UnallocateIntent): Decision {
  const refusals = dateRefusals(state, intent.date, 'date')
  if (!intent.allocationIds.length)
    refusals.push(
      refuse('allocation.some', 'allocationIds', 'nothing was chosen to undo', 'choose at least one link'),
    )
  refusals.push(...undoRefusals(state, intent.date, intent.allocationIds, 'allocationIds', null))
  return decide(refusals, () => {
    const links = intent.allocationIds.map(id => state.allocations.get(id)!)
    const allocations = links.map((a, i) => undo(a, intent.date, -1 - i))
    const born = takeBackBorn(
      state,
      links,
      intent.date,
      intent.reason || 'Unallocated',
      -1,
      -1 - allocations.length,
    )
    const exchange = allocations.flatMap(a => linkLines(state, a))
    return {
      kind: 'unallocation',
      date: intent.date,
      text: intent.reason || 'Unallocated',
      items: born.items,
      allocations: [...allocations, ...born.allocations],
      lines: [...exchange, ...born.lines],
    }
  })
}
