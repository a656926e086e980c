// The package brings no types.
// eslint-disable-next-line @typescript-eslint/triple-slash-reference
/// <reference path="./jstat.d.ts" />
import jStat from 'jstat'

/* The standard normal distribution, for millions of questions. */

const STEPS = 128
const FAR = 8
const TABLE = Float64Array.from({ length: 2 * FAR * STEPS + 2 }, (_, n) =>
  jStat.normal.cdf(n / STEPS - FAR, 0, 1),
)

export const normalPdf = (z: number): number => jStat.normal.pdf(z, 0, 1)

/** From a table in steps of 1/128, straight between them: right to five decimals. */
export function normalCdf(z: number): number {
  if (z <= -FAR) return 0
  if (z >= FAR) return 1
  const at = (z + FAR) * STEPS
  const below = Math.floor(at)
  return TABLE[below]! + (TABLE[below + 1]! - TABLE[below]!) * (at - below)
}

/** Draws, from a source of numbers between 0 and 1. */
export const normalFrom =
  (next: () => number): (() => number) =>
  () =>
    jStat.normal.inv(Math.max(next(), Number.EPSILON), 0, 1)
