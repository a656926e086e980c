/*
 * How right a forecast was (textbooks on forecasting, from memory).
 */

/** Loss of a quantile: q × (y − f) when it was too low, (q − 1) × (y − f) when too high. */
export const pinball = (q: number, forecast: number, came: number): number =>
  Math.max(q * (came - forecast), (q - 1) * (came - forecast))

/** The share of what came that lay within its band. NaN of nothing. */
export const coverage = (list: readonly { low: number; high: number; came: number }[]): number =>
  list.filter(({ low, high, came }) => came >= low && came <= high).length / list.length

/** Mean of what a forecast missed. NaN of nothing. */
export const meanAbsoluteError = (list: readonly { forecast: number; came: number }[]): number =>
  list.reduce((sum, { forecast, came }) => sum + Math.abs(came - forecast), 0) / list.length

/** The quantile of sorted values, between two by their distance (type 7 of Hyndman and Fan 1996). */
export function quantileOf(sorted: ArrayLike<number>, q: number): number {
  const at = (sorted.length - 1) * q
  const below = Math.floor(at)
  const [low, high] = [sorted[below]!, sorted[Math.min(sorted.length - 1, below + 1)]!]
  return low + (high - low) * (at - below)
}
