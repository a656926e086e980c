import type { Changed } from './simulate'

/* What customers do otherwise in a what-if, put together. */

/** One thing that a customer does otherwise; `discount` in basis points. */
export interface CustomerChange {
  id: number
  days: number
  never: boolean
  discount: number
}

export const AS_USUAL: Changed = { days: 0, overdue: 0, share: 1 }

/** By customer: days add up, discounts are given one on the other, and who never pays pays nothing. */
export function changesOf(list: readonly CustomerChange[]): Map<number, Changed> {
  const changes = new Map<number, Changed>()
  for (const { id, days, never, discount } of list) {
    const before = changes.get(id) ?? AS_USUAL
    const share = never ? 0 : before.share * (1 - discount / 10_000)
    changes.set(id, { ...before, days: before.days + days, share })
  }
  return changes
}

/** What one unit of a currency becomes. */
export const ratesOf = (
  list: readonly { currency: string; perCent: number }[],
): { currency: string; times: number }[] =>
  list.map(({ currency, perCent }) => ({ currency, times: 1 + perCent / 100 }))
