/*
 * The share that still waits after some time, from times that ended and times that have not ended yet
 * (Kaplan and Meier 1958). Example: of three, one is paid after 2 days, one waits since 3, one is paid after
 * 5: after 2 days two in three wait, after 5 none.
 */

/** At rising times, by weight: what ended then, and what is only known to have lasted so long. */
export interface Counted {
  ended: ArrayLike<number>
  left: ArrayLike<number>
}

/**
 * Of those that wait until a time, the share that ends then. Where a time stands for a span, what is left in
 * it is `within` it for so much of its length: 0 is Kaplan and Meier, 0.5 the actuarial estimate. A `prior`
 * is a share that is known before, with the weight of so many (a Beta distribution).
 */
export function endingShares(
  { ended, left }: Counted,
  { within = 0, prior }: { within?: number; prior?: { share: ArrayLike<number>; weight: number } } = {},
): Float64Array {
  const shares = new Float64Array(ended.length)
  let waiting = 0
  for (let n = 0; n < ended.length; n++) waiting += ended[n]! + left[n]!
  for (let n = 0; n < ended.length; n++) {
    const weight = prior?.weight ?? 0
    const atRisk = Math.max(0, waiting - within * left[n]!) + weight
    const ends = ended[n]! + weight * (prior?.share[n] ?? 0)
    shares[n] = atRisk > 1e-9 ? Math.min(1, ends / atRisk) : 0
    waiting -= ended[n]! + left[n]!
  }
  return shares
}

export interface Waiting {
  time: number
  /** Whether it ended then; otherwise it is only known to have lasted so long. */
  ended: boolean
  weight: number
}

export interface SurvivalCurve {
  /** Times at which something ended, rising. */
  times: Float64Array
  /** The share that waits beyond each of them. */
  share: Float64Array
  /** Of each share (Greenwood 1926); 0 when nothing waits. */
  variance: Float64Array
}

/** The curve of single times. Ends come before those that are only known to have lasted, at one time. */
export function survivalCurve(list: readonly Waiting[]): SurvivalCurve {
  const times = [...new Set(list.map(w => w.time))].sort((a, b) => a - b)
  const place = new Map(times.map((time, n) => [time, n]))
  const ended = new Float64Array(times.length)
  const left = new Float64Array(times.length)
  for (const w of list) (w.ended ? ended : left)[place.get(w.time)!]! += w.weight
  const shares = endingShares({ ended, left })
  const curve: { time: number; share: number; variance: number }[] = []
  let atRisk = list.reduce((sum, w) => sum + w.weight, 0)
  let share = 1
  let sum = 0
  times.forEach((time, n) => {
    share *= 1 - shares[n]!
    sum += atRisk > ended[n]! ? ended[n]! / (atRisk * (atRisk - ended[n]!)) : 0
    atRisk -= ended[n]! + left[n]!
    if (ended[n]! > 0) curve.push({ time, share, variance: share * share * sum })
  })
  return {
    times: Float64Array.from(curve, c => c.time),
    share: Float64Array.from(curve, c => c.share),
    variance: Float64Array.from(curve, c => c.variance),
  }
}
