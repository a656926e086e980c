import seedrandom from 'seedrandom'

/** Seeded chance: the same seed tells the same story. */
export interface Chance {
  /** 0 ≤ x < 1 */
  next: () => number
  /** Whole number, bounds included. */
  whole: (from: number, to: number) => number
  pick: <T>(list: readonly T[]) => T
  /** True with this probability. */
  happens: (p: number) => boolean
  /** About normal, by the sum of twelve. */
  around: (mean: number, deviation: number) => number
}

export function chance(seed: string): Chance {
  const next = seedrandom(seed)
  return {
    next,
    whole: (from, to) => from + Math.floor(next() * (to - from + 1)),
    pick: list => list[Math.floor(next() * list.length)]!,
    happens: p => next() < p,
    around: (mean, deviation) =>
      mean + deviation * (Array.from({ length: 12 }, next).reduce((a, b) => a + b, 0) - 6),
  }
}
