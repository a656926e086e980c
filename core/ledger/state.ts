import type { IsoDate } from '../calendar'
import { accountsOf } from './kinds'
import { takeOff } from './open'
import type { Allocation, Chart, LedgerState, Line, Posting, StateItem } from './types'

/** The three append-only tables, in memory. */
export interface Books {
  state: LedgerState
  lines: Line[]
}

export function emptyBooks(base: string, today: IsoDate, chart: Chart): Books {
  return {
    state: {
      base,
      today,
      closedUntil: null,
      chart,
      items: new Map(),
      allocations: new Map(),
      lines: new Map(),
      policy: { discountGraceDays: 0, partPayments: 'lose', tolerance: 500 },
      accounts: accountsOf(chart),
      rates: new Map(),
    },
    lines: [],
  }
}

/**
 * Applies a posting in memory as the database would: keys become ids, open amounts follow. Returns the ids by
 * key.
 */
export function applyPosting(
  books: Books,
  posting: Posting,
): { items: Map<number, number>; allocations: Map<number, number> } {
  const { state } = books
  const items = new Map<number, number>()
  const allocations = new Map<number, number>()
  for (const item of posting.items) {
    const id = state.items.size + 1
    items.set(item.id, id)
    state.items.set(id, {
      ...item,
      id,
      number: item.number || `${item.series}-${id}`,
      bornOfItemId: item.bornOfItemId === null ? null : (items.get(item.bornOfItemId) ?? item.bornOfItemId),
      open: item.amount,
      baseOpen: item.baseAmount,
      reversed: false,
      moves: [],
    })
    if (item.reversesItemId !== null) state.items.get(item.reversesItemId)!.reversed = true
  }
  for (const allocation of posting.allocations) {
    const id = state.allocations.size + 1
    allocations.set(allocation.id, id)
    const real = {
      ...allocation,
      id,
      debitItemId: items.get(allocation.debitItemId) ?? allocation.debitItemId,
      creditItemId: items.get(allocation.creditItemId) ?? allocation.creditItemId,
    }
    state.allocations.set(id, { ...real, undone: false })
    if (real.undoesId !== null) state.allocations.get(real.undoesId)!.undone = true
    for (const [itemId, base] of [
      [real.debitItemId, real.debitBase],
      [real.creditItemId, real.creditBase],
    ] as const)
      state.items.set(itemId, takeOff(state.items.get(itemId)!, real.effective, real.amount, base))
  }
  for (const line of posting.lines) {
    const real = {
      ...line,
      item: line.item === null ? null : (items.get(line.item) ?? line.item),
      allocation: line.allocation === null ? null : (allocations.get(line.allocation) ?? line.allocation),
    }
    books.lines.push(real)
    if (real.item !== null && real.allocation === null)
      state.lines.set(real.item, [...(state.lines.get(real.item) ?? []), real])
  }
  return { items, allocations }
}

/** The state as a posting leaves what was there before: for the next decision of the same breath. */
export function afterPosting(state: LedgerState, posting: Posting): LedgerState {
  const items = new Map(state.items)
  for (const a of posting.allocations) {
    for (const [id, base] of [
      [a.debitItemId, a.debitBase],
      [a.creditItemId, a.creditBase],
    ] as const) {
      const item = items.get(id)
      if (item) items.set(id, takeOff(item, a.effective, a.amount, base))
    }
  }
  for (const { reversesItemId } of posting.items) {
    const item = reversesItemId === null ? undefined : items.get(reversesItemId)
    if (item) items.set(item.id, { ...item, reversed: true })
  }
  const undone = posting.allocations.flatMap(a => (a.undoesId === null ? [] : [a.undoesId]))
  if (!undone.length) return { ...state, items }
  const allocations = new Map(state.allocations)
  for (const id of undone) {
    const link = allocations.get(id)
    if (link) allocations.set(id, { ...link, undone: true })
  }
  return { ...state, items, allocations }
}

/** The state with none but these items: a decision among thousands then costs what its own items cost. */
export function narrowTo(state: LedgerState, itemIds: readonly number[]): LedgerState {
  return {
    ...state,
    items: new Map(
      itemIds.flatMap(id => {
        const item = state.items.get(id)
        return item ? [[id, item] as const] : []
      }),
    ),
  }
}

/** Several postings as one: the keys of the later ones are moved on, so that none meets another. */
export function mergePostings(
  kind: Posting['kind'],
  date: IsoDate,
  text: string,
  postings: readonly Posting[],
): Posting {
  const merged: Posting = {
    kind,
    date,
    text,
    items: [],
    allocations: [],
    lines: [],
  }
  for (const p of postings) {
    const items = merged.items.length
    const allocations = merged.allocations.length
    const item = (id: number) => (id < 0 ? id - items : id)
    const allocation = (id: number) => (id < 0 ? id - allocations : id)
    merged.items.push(
      ...p.items.map(i => ({
        ...i,
        id: item(i.id),
        bornOfItemId: i.bornOfItemId === null ? null : item(i.bornOfItemId),
      })),
    )
    merged.allocations.push(
      ...p.allocations.map(a => ({
        ...a,
        id: allocation(a.id),
        debitItemId: item(a.debitItemId),
        creditItemId: item(a.creditItemId),
      })),
    )
    merged.lines.push(
      ...p.lines.map(l => ({
        ...l,
        item: l.item === null ? null : item(l.item),
        allocation: l.allocation === null ? null : allocation(l.allocation),
      })),
    )
  }
  return merged
}

/**
 * Open amount as of a date: the amount less the allocations effective by then; 0 before the item was posted.
 */
export function openAsOf(item: StateItem, allocations: Iterable<Allocation>, asOf: IsoDate): number {
  if (item.postingDate > asOf) return 0
  let open = item.amount
  for (const a of allocations) {
    if (a.effective <= asOf && (a.debitItemId === item.id || a.creditItemId === item.id)) open -= a.amount
  }
  return open
}
