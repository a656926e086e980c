import { daysLate, type IsoDate } from '../calendar'

/** A bucket of days late, bounds included; null is without end on that side. */
export interface Bucket {
  label: string
  from: number | null
  to: number | null
}

/** Upper bounds in days late of all buckets but the last. */
export const DEFAULT_BOUNDS = [30, 60, 90] as const

/**
 * Buckets from their upper bounds: not due (late ≤ 0), 1–30, 31–60, 61–90, 91+.
 * At most four bounds: Strata has six tones. Throws RangeError when they do not rise.
 */
export function bucketsOf(bounds: readonly number[] = DEFAULT_BOUNDS): Bucket[] {
  if (
    bounds.length < 1 ||
    bounds.length > 4 ||
    bounds.some((b, i) => !Number.isSafeInteger(b) || b <= (i ? bounds[i - 1]! : 0))
  ) {
    throw new RangeError('bucket bounds are one to four whole days late, rising, such as 30, 60, 90')
  }
  const late = bounds.map((to, i): Bucket => {
    const from = i ? bounds[i - 1]! + 1 : 1
    return { label: `${from}–${to}`, from, to }
  })
  const last = bounds[bounds.length - 1]! + 1
  return [{ label: 'Not due', from: null, to: 0 }, ...late, { label: `${last}+`, from: last, to: null }]
}

export function bucketIndex(buckets: readonly Bucket[], late: number): number {
  return buckets.findIndex(b => b.to === null || late <= b.to)
}

/** What aging needs of an open item: the signed open amount (debits positive) and the date it ages by. */
export interface AgingItem {
  open: number
  date: IsoDate
}
export interface AgedBalance {
  amounts: number[]
  onAccount: number
  total: number
}

/** Ages a balance: debits by bucket, unallocated credit in a figure of its own (negative), never netted. */
export function age(items: Iterable<AgingItem>, asOf: IsoDate, buckets: readonly Bucket[]): AgedBalance {
  const amounts = buckets.map(() => 0)
  let onAccount = 0
  for (const item of items) {
    if (item.open < 0) onAccount += item.open
    else amounts[bucketIndex(buckets, daysLate(item.date, asOf))]! += item.open
  }
  return { amounts, onAccount, total: amounts.reduce((a, b) => a + b, onAccount) }
}

/** Sets unallocated credit off against the oldest buckets first; what is left of it stays on account. */
export function netted(balance: AgedBalance): AgedBalance {
  const amounts = [...balance.amounts]
  let credit = -balance.onAccount
  for (let i = amounts.length - 1; i >= 0 && credit > 0; i--) {
    const used = Math.min(amounts[i]!, credit)
    amounts[i]! -= used
    credit -= used
  }
  return { amounts, onAccount: credit ? -credit : 0, total: balance.total }
}

export * from './bridge'
export * from './names'
export * from './page'
export * from './position'
