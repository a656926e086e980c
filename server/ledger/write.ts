import { assertBalanced, daysOutOfBounds, KINDS, takeOff } from '../../core/ledger'
import type { LedgerState, NewItem, Posting, StateItem } from '../../core/ledger'
import type { Handle } from '../db/handle'
import { projectDays, projectItems } from './project'
import { takeSeries, type Take } from './series'

/** What a posting became: ids by key, numbers given, and its journal entry. */
export interface Written {
  entryId: number
  entryNumber: number
  /** From the posting's own series; empty when it has none. */
  number: string
  items: { id: number; number: string }[]
  allocations: number[]
}

/** A new item with the posting it belongs to. */
interface Own {
  item: NewItem
  p: number
}

/** The numbers that items get from their series, and those of the entries. */
async function numbersFor(tx: Handle, postings: readonly Posting[], own: readonly Own[]) {
  const needed = new Map<string, number>([['entry', postings.length]])
  const bySeries = ({ item }: Own) => (item.series && !item.number ? item.series : null)
  for (const o of own) {
    const series = bySeries(o)
    if (series) needed.set(series, (needed.get(series) ?? 0) + 1)
  }
  for (const { series } of postings) if (series) needed.set(series, (needed.get(series) ?? 0) + 1)
  const takes = await takeSeries(tx, needed)
  const at = new Map<string, number>()
  const next = (series: string): string => {
    const n = at.get(series) ?? 0
    at.set(series, n + 1)
    return takes.get(series)!(n)
  }
  const items = own.map(o => {
    const series = bySeries(o)
    return series ? next(series) : o.item.number
  })
  const whole = postings.map(p => (p.series ? next(p.series) : ''))
  return { items, whole, entry: takes.get('entry') as Take }
}

function itemRow(
  item: NewItem,
  whole: string,
  number: string,
  entryId: number,
  bornOf: number | null,
  personId: number,
) {
  return {
    customer_id: item.customerId,
    entry_id: entryId,
    kind: item.kind,
    register: KINDS[item.kind].register,
    number,
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
    text: `${item.text} ${whole}`.trim().slice(0, 200),
    reverses_item_id: item.reversesItemId,
    born_of_item_id: bornOf,
    person_id: personId,
  }
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
  const own = postings.flatMap((posting, p) => posting.items.map((item): Own => ({ item, p })))
  const numbers = await numbersFor(tx, postings, own)
  const entryIds = await tx.insert(
    'entry',
    postings.map((p, i) => ({
      number: Number(numbers.entry(i)),
      date: p.date,
      kind: p.kind,
      text: `${p.text} ${numbers.whole[i]!}`.trim().slice(0, 200),
      person_id: personId,
    })),
  )
  const written: Written[] = postings.map((_, i) => ({
    entryId: entryIds[i]!,
    entryNumber: Number(numbers.entry(i)),
    number: numbers.whole[i]!,
    items: [],
    allocations: [],
  }))

  const { ids, keys, originOf } = await writeItems(tx, personId, own, numbers, entryIds)
  const touched = new Map<number, StateItem>()
  const before = new Map<number, { open: number; baseOpen: number }>()
  own.forEach(({ item, p }, i) => {
    const id = ids[i]!
    const number = numbers.items[i]!
    written[p]!.items.push({ id, number })
    const bornOfItemId = originOf(i)
    const open = { open: item.amount, baseOpen: item.baseAmount, reversed: false, moves: [] }
    const real: StateItem = { ...item, id, bornOfItemId, number, ...open }
    state.items.set(id, real)
    touched.set(id, real)
    before.set(id, { open: 0, baseOpen: 0 })
    const reversed = item.reversesItemId === null ? undefined : state.items.get(item.reversesItemId)
    if (reversed) state.items.set(reversed.id, { ...reversed, reversed: true })
  })
  await tx.insert(
    'receipt_means',
    own.flatMap(({ item }, i) =>
      item.means.map(({ baseAmount, ...m }) => ({ item_id: ids[i], base_amount: baseAmount, ...m })),
    ),
  )

  const real = (p: number, key: number) => (key < 0 ? keys[p]!.get(key)! : key)
  const links = postings.flatMap((posting, p) =>
    posting.allocations.map(a => ({
      p,
      key: a.id,
      row: { ...a, debitItemId: real(p, a.debitItemId), creditItemId: real(p, a.creditItemId) },
    })),
  )
  for (const { row } of links) {
    for (const [id, base] of [
      [row.debitItemId, row.debitBase],
      [row.creditItemId, row.creditBase],
    ] as const) {
      const item = state.items.get(id)
      if (!item) throw new Error(`item ${id} is not in the locked state`)
      if (!touched.has(id)) before.set(id, { open: item.open, baseOpen: item.baseOpen })
      const next = takeOff(item, row.effective, row.amount, base)
      state.items.set(id, next)
      touched.set(id, next)
    }
  }
  for (const item of touched.values()) {
    const [day] = daysOutOfBounds(item)
    if (day) throw new Error(`item ${item.id} would be used twice, or stand above its amount, on ${day}`)
  }
  const linkIds = await tx.insert(
    'allocation',
    links.map(({ p, row }) => ({
      customer_id: state.items.get(row.debitItemId)!.customerId,
      entry_id: entryIds[p],
      debit_item_id: row.debitItemId,
      credit_item_id: row.creditItemId,
      amount: row.amount,
      debit_base: row.debitBase,
      credit_base: row.creditBase,
      effective: row.effective,
      undoes_id: row.undoesId,
      person_id: personId,
    })),
  )
  const linkKeys = postings.map(() => new Map<number, number>())
  links.forEach(({ p, key, row }, i) => {
    const id = linkIds[i]!
    linkKeys[p]!.set(key, id)
    written[p]!.allocations.push(id)
    state.allocations.set(id, { ...row, id, undone: false })
    const undone = row.undoesId === null ? undefined : state.allocations.get(row.undoesId)
    if (undone) state.allocations.set(undone.id, { ...undone, undone: true })
  })

  const linkOf = (p: number, key: number) => (key < 0 ? linkKeys[p]!.get(key)! : key)
  await tx.insert(
    'journal_line',
    postings.flatMap((posting, p) =>
      posting.lines.map(line => ({
        entry_id: entryIds[p],
        account: line.account,
        currency: line.currency,
        amount: line.amount,
        base_amount: line.baseAmount,
        customer_id: line.customerId,
        item_id: line.item === null ? null : real(p, line.item),
        allocation_id: line.allocation === null ? null : linkOf(p, line.allocation),
      })),
    ),
  )
  await projectItems(tx, [...touched.values()], before)
  await projectDays(tx, postings)
  return written
}

/**
 * Writes the items; those born of another of their posting come after it, when its id is known: a discount
 * after its receipt, a conversion's credit after its debit.
 */
async function writeItems(
  tx: Handle,
  personId: number,
  own: readonly Own[],
  numbers: { items: readonly string[]; whole: readonly string[] },
  entryIds: readonly number[],
) {
  const keys = entryIds.map(() => new Map<number, number>())
  const ids: number[] = []
  const originOf = (i: number): number | null => {
    const { item, p } = own[i]!
    return item.bornOfItemId !== null && item.bornOfItemId < 0
      ? keys[p]!.get(item.bornOfItemId)!
      : item.bornOfItemId
  }
  for (let left = [...own.keys()]; left.length;) {
    const pass = left.filter(i => {
      const { item, p } = own[i]!
      return (item.bornOfItemId ?? 0) >= 0 || keys[p]!.has(item.bornOfItemId!)
    })
    if (!pass.length) throw new Error('an item is born of one that is not in its posting')
    const now = new Set(pass)
    left = left.filter(i => !now.has(i))
    const fresh = await tx.insert(
      'item',
      pass.map(i => {
        const { item, p } = own[i]!
        return itemRow(item, numbers.whole[p]!, numbers.items[i]!, entryIds[p]!, originOf(i), personId)
      }),
    )
    pass.forEach((i, n) => {
      ids[i] = fresh[n]!
      keys[own[i]!.p]!.set(own[i]!.item.id, fresh[n]!)
    })
  }
  return { ids, keys, originOf }
}
