/*
 * Credit exposure: what would be lost if a customer paid nothing any more. All amounts are base currency,
 * minor units. The definition is that of the trade (common practice): open receivables, delivered not
 * invoiced, open orders, receipts that may still come back; less credit on account and what somebody else
 * secures.
 */

export interface ExposureParts {
  /** Open debits. */
  receivables: number
  /** Unallocated credit, negative or zero. */
  onAccount: number
  /** Delivered and not invoiced yet. */
  delivered: number
  /** Ordered and neither delivered nor invoiced yet. */
  orders: number
  /** Received but not final: cheques that the bank has not shown yet. */
  notFinal: number
  /** What an insurer covers, at most what there is to cover; negative or zero. */
  secured: number
}

export interface Exposure {
  parts: ExposureParts
  total: number
}

/** An order as the order desk tells it. */
export interface OrderAmounts {
  amount: number
  delivered: number
  invoiced: number
  state: string
}

/** What of an order is delivered and not invoiced, and what is still to come. */
export function orderParts({ amount, delivered, invoiced, state }: OrderAmounts): {
  delivered: number
  orders: number
} {
  const done = Math.max(delivered, invoiced)
  return {
    delivered: Math.max(0, delivered - invoiced),
    // Nothing more is to come of one that is closed or cancelled.
    orders: state === 'open' ? Math.max(0, amount - done) : 0,
  }
}

/** What of an exposure is covered, as it is taken off; more than there is, is not. */
export const securedOf = (unsecured: number, insured: number): number =>
  -Math.min(insured, Math.max(0, unsecured)) || 0

/** Adds the parts up. `insured`: what is covered; more than there is, is not. */
export function exposureOf(parts: Omit<ExposureParts, 'secured'>, insured: number): Exposure {
  const unsecured = parts.receivables + parts.onAccount + parts.delivered + parts.orders + parts.notFinal
  const secured = securedOf(unsecured, insured)
  return { parts: { ...parts, secured }, total: unsecured + secured }
}

/** The parts of several accounts together. */
export function togetherOf(list: readonly Exposure[]): Exposure {
  const parts: ExposureParts = {
    receivables: 0,
    onAccount: 0,
    delivered: 0,
    orders: 0,
    notFinal: 0,
    secured: 0,
  }
  for (const one of list)
    for (const part of Object.keys(parts) as (keyof ExposureParts)[]) parts[part] += one.parts[part]
  return { parts, total: list.reduce((sum, one) => sum + one.total, 0) }
}

/** How much is left under a limit, and how much of it is used, in percent; null without a limit. */
export function headroomOf(total: number, limit: number | null): { headroom: number; used: number } | null {
  if (limit === null) return null
  const used = limit > 0 ? Math.round((1000 * total) / limit) / 10 : total > 0 ? 999 : 0
  return { headroom: limit - total, used }
}

export * from './check'
export * from './holds'
