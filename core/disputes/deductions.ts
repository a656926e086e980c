import { refuse } from '../ledger/rules'
import type { LedgerState, Refusal } from '../ledger/types'

/** Why a customer paid less than was asked; what it leaves stays open and disputed. */
export interface Deduction {
  reason: string
  note: string
}

/** One item of a payment, as far as a deduction needs it. Minor units of the item. */
export interface ShortPaid {
  itemId: number
  amount: number
  discount?: number
  difference?: number
  deduction?: Deduction | null
}

/** What a payment leaves open of an item. `state`: before the payment. */
export const leftBy = (state: Pick<LedgerState, 'items'>, paid: ShortPaid): number =>
  (state.items.get(paid.itemId)?.open ?? 0) - paid.amount - (paid.discount ?? 0) - (paid.difference ?? 0)

/** Why a deduction cannot be claimed: the payment leaves nothing open that it could be. */
export function deductionRefusals(state: Pick<LedgerState, 'items'>, paid: readonly ShortPaid[]): Refusal[] {
  const without = paid.findIndex(p => p.deduction && leftBy(state, p) <= 0)
  if (without < 0) return []
  const message = 'nothing is left open that could be a deduction'
  return [
    refuse(
      'deduction.amount',
      `allocations.${without}.deduction`,
      message,
      'pay less, or leave the deduction out',
    ),
  ]
}

/**
 * The deductions of a payment with what each leaves open, in the item's currency. `state`: before the
 * payment.
 */
export function deductionsOf(state: Pick<LedgerState, 'items'>, paid: readonly ShortPaid[]) {
  return paid.flatMap(p => {
    const item = state.items.get(p.itemId)
    if (!p.deduction || !item) return []
    return [{ itemId: p.itemId, currency: item.currency, amount: leftBy(state, p), ...p.deduction }]
  })
}
