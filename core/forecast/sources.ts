/*
 * Where money comes from and goes to, by how sure it is.
 */

export const SOURCES = {
  items: { label: 'Open items', sure: 'as they pay', isOut: false },
  promises: { label: 'Promises', sure: 'as promises are kept', isOut: false },
  collections: { label: 'On its way', sure: 'unless it comes back', isOut: false },
  disputes: { label: 'Disputed', sure: 'once they are solved', isOut: false },
  factor: { label: 'From factors', sure: 'by their terms', isOut: false },
  orders: { label: 'Orders', sure: 'once they are invoiced', isOut: false },
  sales: { label: 'New sales', sure: 'least sure', isOut: false },
  refunds: { label: 'Refunds', sure: 'approved', isOut: true },
  planned: { label: 'Payments out', sure: 'as planned', isOut: true },
  transfers: { label: 'Transfers', sure: 'as planned', isOut: false },
} as const
export type Source = keyof typeof SOURCES
export const SOURCE_NAMES = Object.keys(SOURCES) as Source[]

/** What customers pay, by whatever way. */
export const FROM_CUSTOMERS: readonly Source[] = [
  'items',
  'promises',
  'collections',
  'disputes',
  'orders',
  'sales',
]
