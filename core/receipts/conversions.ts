import type { IsoDate } from '../calendar'
import { newItem } from '../ledger/item'
import { takeOff } from '../ledger/open'
import { baseLeaving, openRefusals, refuse } from '../ledger/rules'
import type { Allocation, LedgerState, Line, NewItem, Refusal, StateItem } from '../ledger/types'

/**
 * A receipt that pays items in another currency: for each, a debit in the receipt's currency takes the money
 * off the receipt and a credit in the item's currency brings it to the item, at the same base amount. The
 * exchange difference is realised where the credit meets the item. Its lines are those of the two items; the
 * link's exchange difference is the caller's (`linkLines`). `working` is taken down. Amounts: `amount` in the
 * item's currency, `paid` in the receipt's.
 */
export function planConversions(
  state: LedgerState,
  working: Map<number, StateItem>,
  date: IsoDate,
  receiptKey: number,
  pairs: readonly { itemId: number; amount: number; paid: number }[],
  firstItem: number,
  firstAllocation: number,
): { items: NewItem[]; allocations: Allocation[]; lines: Line[]; refusals: Refusal[] } {
  const made = {
    items: [] as NewItem[],
    allocations: [] as Allocation[],
    lines: [] as Line[],
    refusals: [] as Refusal[],
  }
  for (const [i, pair] of pairs.entries()) {
    const item = working.get(pair.itemId)
    const receipt = working.get(receiptKey)!
    if (!item || item.side !== 'debit' || item.customerId !== receipt.customerId) {
      made.refusals.push(
        refuse(
          'allocation.items',
          `allocations.${i}`,
          'there is no such open item on this account',
          'choose an open item of this account',
        ),
      )
      continue
    }
    if (pair.amount <= 0 || pair.paid <= 0) {
      made.refusals.push(
        refuse(
          'allocation.amount',
          `allocations.${i}.amount`,
          `the amounts for ${item.number} must be more than zero`,
          'enter what it pays and what was paid',
        ),
      )
      continue
    }
    if (item.postingDate > date) {
      made.refusals.push(
        refuse(
          'allocation.date',
          `allocations.${i}`,
          `${item.number} is dated ${item.postingDate}, after ${date}`,
          `use ${item.postingDate} or later`,
        ),
      )
      continue
    }
    const short = [
      ...openRefusals(item, date, pair.amount, `allocations.${i}.amount`),
      ...openRefusals(receipt, date, pair.paid, `allocations.${i}.paid`),
    ]
    if (short.length) {
      made.refusals.push(short[0]!)
      continue
    }
    const base = baseLeaving(receipt, pair.paid)
    const debitKey = firstItem - made.items.length
    const creditKey = debitKey - 1
    const common = {
      customerId: item.customerId,
      kind: 'conversion' as const,
      baseAmount: base,
      postingDate: date,
    }
    made.items.push(
      newItem({
        ...common,
        id: debitKey,
        side: 'debit',
        currency: receipt.currency,
        amount: pair.paid,
        bornOfItemId: receiptKey,
        text: `Paid in ${receipt.currency} for ${item.number}`,
      }),
      newItem({
        ...common,
        id: creditKey,
        side: 'credit',
        currency: item.currency,
        amount: pair.amount,
        bornOfItemId: debitKey,
        text: `${item.number}, paid in ${receipt.currency}`,
      }),
    )
    const itemBase = baseLeaving(item, pair.amount)
    const first = firstAllocation - made.allocations.length
    const toItem: Allocation = {
      id: first - 1,
      debitItemId: item.id,
      creditItemId: creditKey,
      amount: pair.amount,
      debitBase: itemBase,
      creditBase: base,
      effective: date,
      undoesId: null,
    }
    made.allocations.push(
      {
        id: first,
        debitItemId: debitKey,
        creditItemId: receiptKey,
        amount: pair.paid,
        debitBase: base,
        creditBase: base,
        effective: date,
        undoesId: null,
      },
      toItem,
    )
    const line = { customerId: item.customerId, allocation: null }
    made.lines.push(
      {
        ...line,
        item: debitKey,
        account: state.chart.receivables,
        currency: receipt.currency,
        amount: pair.paid,
        baseAmount: base,
      },
      {
        ...line,
        item: debitKey,
        account: state.chart.exchange,
        currency: receipt.currency,
        amount: -pair.paid,
        baseAmount: -base,
      },
      {
        ...line,
        item: creditKey,
        account: state.chart.exchange,
        currency: item.currency,
        amount: pair.amount,
        baseAmount: base,
      },
      {
        ...line,
        item: creditKey,
        account: state.chart.receivables,
        currency: item.currency,
        amount: -pair.amount,
        baseAmount: -base,
      },
    )
    working.set(receiptKey, takeOff(receipt, date, pair.paid, base))
    working.set(item.id, takeOff(item, date, pair.amount, itemBase))
  }
  return made
}
