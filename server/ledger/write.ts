import { assertBalanced, daysOutOfBounds, KINDS, takeOff } from '../../core/ledger'
import type { Allocation, LedgerState, NewItem, Posting, StateItem } from '../../core/ledger'
import { inserting, type Handle, type Statement } from '../db/handle'
import { projectDays, projectOpen, projectTotals } from './project'
import { takeSeries } from './series'

/** What a posting became: ids by key, numbers given, and its journal entry. */
export interface Written {
  entryId: number
  entryNumber: number
  /** From the posting's own series; empty when it has none. */
  number: string
  items: { id: number; number: string }[]
  allocations: number[]
}

/** A posting with its numbers and ids; its items, allocations and lines name each other by id. */
interface Numbered extends Posting {
  entryId: number
  entryNumber: number
  number: string
}

/** Of each table that postings refer to themselves, the series of its ids. */
const IDS = { entry: 'entry-id', item: 'item-id', allocation: 'allocation-id' } as const

/** How many numbers and ids the postings need, by series. */
function neededOf(postings: readonly Posting[]): Map<string, number> {
  const needed = new Map<string, number>()
  const add = (series: string, n: number) => {
    if (n) needed.set(series, (needed.get(series) ?? 0) + n)
  }
  for (const { series, items, allocations } of postings) {
    add('entry', 1)
    add(IDS.entry, 1)
    add(IDS.item, items.length)
    add(IDS.allocation, allocations.length)
    if (series) add(series, 1)
    for (const item of items) if (item.series && !item.number) add(item.series, 1)
  }
  return needed
}

/** The id of what a posting names: of its own by key, of what is there the id itself. */
function idOf(own: ReadonlyMap<number, number>, key: number): number {
  const id = key < 0 ? own.get(key) : key
  if (id === undefined) throw new Error(`a posting names ${key}, which is not in it`)
  return id
}

/**
 * Takes all numbers and ids in one go, and gives them out. Ids come from series too, so that all rows of a
 * posting are known before the first is written, and go to the database together.
 */
async function numberAll(tx: Handle, postings: readonly Posting[]): Promise<Numbered[]> {
  const takes = await takeSeries(tx, neededOf(postings))
  const taken = new Map<string, number>()
  const next = (series: string): string => {
    const n = taken.get(series) ?? 0
    taken.set(series, n + 1)
    return takes.get(series)!(n)
  }
  return postings.map(posting => {
    const itemIds = new Map(posting.items.map(i => [i.id, Number(next(IDS.item))]))
    const linkIds = new Map(posting.allocations.map(a => [a.id, Number(next(IDS.allocation))]))
    const itemId = (key: number) => idOf(itemIds, key)
    const linkId = (key: number) => idOf(linkIds, key)
    const items = posting.items.map(item => ({
      ...item,
      id: itemId(item.id),
      number: item.series && !item.number ? next(item.series) : item.number,
      bornOfItemId: item.bornOfItemId === null ? null : itemId(item.bornOfItemId),
    }))
    return {
      ...posting,
      entryId: Number(next(IDS.entry)),
      entryNumber: Number(next('entry')),
      number: posting.series ? next(posting.series) : '',
      items,
      allocations: posting.allocations.map(a => ({
        ...a,
        id: linkId(a.id),
        debitItemId: itemId(a.debitItemId),
        creditItemId: itemId(a.creditItemId),
      })),
      lines: posting.lines.map(line => ({
        ...line,
        item: line.item === null ? null : itemId(line.item),
        allocation: line.allocation === null ? null : linkId(line.allocation),
      })),
    }
  })
}

/** What stands behind the text of an entry and of its items: the number of the whole. */
const textWith = (text: string, whole: string): string => `${text} ${whole}`.trim().slice(0, 200)

function itemRow(item: NewItem, { entryId, number: whole }: Numbered, personId: number) {
  return {
    id: item.id,
    customer_id: item.customerId,
    entry_id: entryId,
    kind: item.kind,
    register: KINDS[item.kind].register,
    number: item.number,
    part: item.part,
    currency: item.currency,
    side: item.side,
    amount: item.amount,
    base_amount: item.baseAmount,
    tax: item.tax,
    document_date: item.documentDate,
    due_date: item.dueDate,
    posting_date: item.postingDate,
    discount_date: item.discounts[0]?.date ?? null,
    discount_amount: item.discounts[0]?.amount ?? null,
    discount2_date: item.discounts[1]?.date ?? null,
    discount2_amount: item.discounts[1]?.amount ?? null,
    order_ref: item.order,
    rest_use: item.rest?.use ?? '',
    rest_item_id: item.rest?.itemId ?? null,
    text: textWith(item.text, whole),
    reverses_item_id: item.reversesItemId,
    born_of_item_id: item.bornOfItemId,
    person_id: personId,
  }
}

/** The statements that put the rows of numbered postings into the ledger. */
function ledgerRows(state: LedgerState, postings: readonly Numbered[], personId: number): Statement[] {
  const entries = postings.map(p => ({
    id: p.entryId,
    number: p.entryNumber,
    date: p.date,
    kind: p.kind,
    text: textWith(p.text, p.number),
    person_id: personId,
  }))
  const means = postings.flatMap(p =>
    p.items.flatMap(item =>
      item.means.map(({ baseAmount, ...m }) => ({ item_id: item.id, base_amount: baseAmount, ...m })),
    ),
  )
  const allocations = postings.flatMap(p =>
    p.allocations.map(a => ({
      id: a.id,
      customer_id: state.items.get(a.debitItemId)!.customerId,
      entry_id: p.entryId,
      debit_item_id: a.debitItemId,
      credit_item_id: a.creditItemId,
      amount: a.amount,
      debit_base: a.debitBase,
      credit_base: a.creditBase,
      effective: a.effective,
      undoes_id: a.undoesId,
      person_id: personId,
    })),
  )
  const lines = postings.flatMap(p =>
    p.lines.map(line => ({
      entry_id: p.entryId,
      account: line.account,
      currency: line.currency,
      amount: line.amount,
      base_amount: line.baseAmount,
      customer_id: line.customerId,
      item_id: line.item,
      allocation_id: line.allocation,
    })),
  )
  return [
    ...inserting('entry', entries),
    ...inserting(
      'item',
      postings.flatMap(p => p.items.map(item => itemRow(item, p, personId))),
    ),
    ...inserting('receipt_means', means),
    ...inserting('allocation', allocations),
    ...inserting('journal_line', lines),
  ]
}

/**
 * Writes postings and keeps the projections in step, inside the door's transaction. `state` is brought up to
 * date too. A posting that does not balance, or that would leave an item below zero or above its amount on
 * any day, is a fault of the core and throws: nothing of it stays.
 */
export async function writePostings(
  tx: Handle,
  personId: number,
  state: LedgerState,
  postings: readonly Posting[],
): Promise<Written[]> {
  if (!postings.length) return []
  for (const p of postings) assertBalanced(p.lines)
  // All that needs no number comes first: from the numbers on, every other posting waits for this one.
  const { used, before } = useExisting(state, postings)
  tx.defer([...projectOpen([...used.values()], before), ...projectTotals(state, postings)])
  const numbered = await numberAll(tx, postings)
  const fresh = addFresh(state, numbered)
  tx.defer([
    ...ledgerRows(state, numbered, personId),
    ...projectOpen(fresh, new Map()),
    ...projectDays(numbered),
  ])
  return numbered.map(p => ({
    entryId: p.entryId,
    entryNumber: p.entryNumber,
    number: p.number,
    items: p.items.map(({ id, number }) => ({ id, number })),
    allocations: p.allocations.map(a => a.id),
  }))
}

/** Adds the new items and allocations to the state; answers the items as the postings leave them. */
function addFresh(state: LedgerState, postings: readonly Numbered[]): StateItem[] {
  const fresh = new Map<number, StateItem>()
  for (const item of postings.flatMap(p => p.items)) {
    fresh.set(item.id, { ...item, open: item.amount, baseOpen: item.baseAmount, reversed: false, moves: [] })
    const reversed = item.reversesItemId === null ? undefined : state.items.get(item.reversesItemId)
    if (reversed) state.items.set(reversed.id, { ...reversed, reversed: true })
  }
  for (const a of postings.flatMap(p => p.allocations)) {
    for (const [id, base] of endsOf(a)) {
      const item = fresh.get(id)
      if (item) fresh.set(id, takeOff(item, a.effective, a.amount, base))
    }
    state.allocations.set(a.id, { ...a, undone: false })
    const undone = a.undoesId === null ? undefined : state.allocations.get(a.undoesId)
    if (undone) state.allocations.set(undone.id, { ...undone, undone: true })
  }
  for (const item of fresh.values()) {
    assertWithinBounds(item)
    state.items.set(item.id, item)
  }
  return [...fresh.values()]
}

/** The two items of an allocation, each with its base worth. */
const endsOf = (a: Allocation): [itemId: number, base: number][] => [
  [a.debitItemId, a.debitBase],
  [a.creditItemId, a.creditBase],
]

function assertWithinBounds(item: StateItem): void {
  const [day] = daysOutOfBounds(item)
  if (day) throw new Error(`item ${item.id} would be used twice, or stand above its amount, on ${day}`)
}

/** Takes off what the postings use of items that are there; answers these, and what was open of them. */
function useExisting(state: LedgerState, postings: readonly Posting[]) {
  const used = new Map<number, StateItem>()
  const before = new Map<number, { open: number; baseOpen: number }>()
  for (const a of postings.flatMap(p => p.allocations)) {
    for (const [id, base] of endsOf(a)) {
      if (id < 0) continue
      const item = state.items.get(id)
      if (!item) throw new Error(`item ${id} is not in the locked state`)
      if (!used.has(id)) before.set(id, { open: item.open, baseOpen: item.baseOpen })
      const next = takeOff(item, a.effective, a.amount, base)
      state.items.set(id, next)
      used.set(id, next)
    }
  }
  for (const item of used.values()) assertWithinBounds(item)
  return { used, before }
}
