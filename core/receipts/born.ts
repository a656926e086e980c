import { type IsoDate } from '../calendar'
import { newItem } from '../ledger/item'
import { linkLines } from '../ledger/rules'
import type { Allocation, LedgerState, Posting, StateAllocation, StateItem } from '../ledger/types'

/**
 * What was born with links that are taken back goes back with them: the adjustment's own link is undone, and
 * a reversal closes it. A link to a conversion takes the conversion's other side back too. `links` are credit
 * and debit item of the links taken back.
 */
export function takeBackBorn(
  state: LedgerState,
  links: readonly { creditItemId: number; debitItemId: number }[],
  date: IsoDate,
  reason: string,
  firstItem: number,
  firstAllocation: number,
): Pick<Posting, 'items' | 'allocations' | 'lines'> {
  const back: Pick<Posting, 'items' | 'allocations' | 'lines'> = { items: [], allocations: [], lines: [] }
  const done = new Set<number>()
  const close = (born: StateItem, own: StateAllocation | undefined) => {
    if (done.has(born.id)) return
    done.add(born.id)
    const key = firstItem - back.items.length
    if (own) {
      const undone: Allocation = {
        ...own,
        id: firstAllocation - back.allocations.length,
        amount: -own.amount,
        debitBase: -own.debitBase,
        creditBase: -own.creditBase,
        effective: date,
        undoesId: own.id,
      }
      back.allocations.push(undone)
      back.lines.push(...linkLines(state, undone))
    }
    const [debitItemId, creditItemId] = born.side === 'credit' ? [key, born.id] : [born.id, key]
    back.items.push(
      newItem({
        id: key,
        customerId: born.customerId,
        kind: 'reversal',
        currency: born.currency,
        side: born.side === 'credit' ? 'debit' : 'credit',
        amount: born.amount,
        baseAmount: born.baseAmount,
        postingDate: date,
        reversesItemId: born.id,
        text: reason,
      }),
    )
    back.allocations.push({
      id: firstAllocation - back.allocations.length,
      debitItemId,
      creditItemId,
      amount: born.amount,
      debitBase: born.baseAmount,
      creditBase: born.baseAmount,
      effective: date,
      undoesId: null,
    })
    back.lines.push(
      ...(state.lines.get(born.id) ?? []).map(l => ({
        ...l,
        amount: -l.amount,
        baseAmount: -l.baseAmount,
        item: key,
        allocation: null,
      })),
    )
  }
  const bornOn = (origin: number, debitItemId?: number) =>
    [...state.allocations.values()]
      .filter(
        a => !a.undone && a.undoesId === null && (debitItemId === undefined || a.debitItemId === debitItemId),
      )
      .map(own => ({ own, born: state.items.get(own.creditItemId) }))
      .filter(
        (x): x is { own: StateAllocation; born: StateItem } =>
          x.born !== undefined && x.born.bornOfItemId === origin && !x.born.reversed,
      )
  for (const link of links) {
    const debit = state.items.get(link.debitItemId)
    if (debit?.kind === 'conversion') {
      // The other side of the conversion closes an item in its own currency; discounts of that item belong to
      // this link.
      for (const { own, born } of bornOn(debit.id)) {
        for (const x of bornOn(link.creditItemId, own.debitItemId)) close(x.born, x.own)
        close(born, own)
      }
      close(debit, undefined)
    }
    for (const { own, born } of bornOn(link.creditItemId, link.debitItemId)) close(born, own)
  }
  return back
}
