import { share } from '../money'
import { baseLeaving } from '../ledger/rules'
import { newItem } from '../ledger/item'
import type { LedgerState, Line, Posting, StateItem } from '../ledger/types'
import { incomeOf } from './documents'

/**
 * A credit that takes so much off an item: its base amount is what leaves the item, so that nothing is left
 * as an exchange difference. A credit note takes back its share of tax; a write-off does not (what tax may be
 * claimed back for a bad debt is a rule of its own).
 */
export function takeOffItem(
  state: LedgerState,
  item: StateItem,
  amount: number,
  kind: 'credit-note' | 'write-off',
  text: string,
  key: number,
): Pick<Posting, 'items' | 'allocations' | 'lines'> {
  const base = baseLeaving(item, amount)
  const isCredit = kind === 'credit-note'
  const tax = isCredit ? share(amount, item.tax, item.amount) : 0
  const taxBase = share(base, tax, amount)
  const line = { currency: item.currency, customerId: item.customerId, item: key, allocation: null }
  const lines: Line[] = [
    {
      ...line,
      account: state.chart[isCredit ? incomeOf(item.kind) : 'write-off'],
      amount: amount - tax,
      baseAmount: base - taxBase,
    },
  ]
  if (tax) lines.push({ ...line, account: state.chart.tax, amount: tax, baseAmount: taxBase })
  lines.push({ ...line, account: state.chart.receivables, amount: -amount, baseAmount: -base })
  return {
    items: [
      newItem({
        id: key,
        customerId: item.customerId,
        kind,
        series: kind,
        currency: item.currency,
        amount,
        baseAmount: base,
        tax,
        postingDate: state.today,
        text,
      }),
    ],
    allocations: [
      {
        id: key,
        debitItemId: item.id,
        creditItemId: key,
        amount,
        debitBase: base,
        creditBase: base,
        effective: state.today,
        undoesId: null,
      },
    ],
    lines,
  }
}
