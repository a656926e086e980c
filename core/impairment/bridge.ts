import { share, WHOLE } from '../money'
import { type Allowance, type AllowanceCell } from './allowance'

/*
 * From the last allowance to this one, in parts that add up. Base currency, minor units.
 */

/** What the bridge needs of an allowance that stands. */
export interface Stood {
  cells: readonly Pick<AllowanceCell, 'riskClass' | 'currency' | 'band' | 'allowanceBase' | 'rate'>[]
  named: readonly { id: number; allowanceBase: number }[]
}

export interface AllowanceBridge {
  opening: number
  /** Debts written off against it since; negative. */
  used: number
  /** More exposed, at the rates of then. */
  added: number
  /** Less exposed, at the rates of then, without what was used; negative. */
  released: number
  /** Other rates on what is exposed now. */
  rates: number
  /** Named cases: new, ended, or judged otherwise. */
  named: number
  closing: number
}

const keyOf = (cell: Stood['cells'][number]) => `${cell.riskClass} ${cell.currency} ${cell.band}`
const sumOf = (list: readonly { allowanceBase: number }[]) =>
  list.reduce((sum, c) => sum + c.allowanceBase, 0)

/**
 * The parts from one allowance to the next. `used`: what was taken from it by write-offs, positive. What was
 * used was exposed before: it is no release.
 */
export function allowanceBridge(last: Stood | null, now: Allowance, used: number): AllowanceBridge {
  const before = new Map((last?.cells ?? []).map(c => [keyOf(c), c]))
  const opening = last ? sumOf(last.cells) + sumOf(last.named) : 0
  let more = 0
  let less = 0
  let rates = 0
  for (const cell of now.cells) {
    const then = before.get(keyOf(cell))
    const atOldRate = then ? share(Math.max(0, cell.exposedBase), then.rate, WHOLE) : cell.allowanceBase
    const moved = atOldRate - (then?.allowanceBase ?? 0)
    if (moved > 0) more += moved
    else less += moved
    rates += cell.allowanceBase - atOldRate
    before.delete(keyOf(cell))
  }
  for (const gone of before.values()) less -= gone.allowanceBase
  const named = sumOf(now.named) - sumOf(last?.named ?? [])
  // What was lost beyond what was set aside for it counts as added.
  const rest = less + used
  const closing = sumOf(now.cells) + sumOf(now.named)
  return {
    opening,
    used: -used || 0,
    added: more + Math.max(0, rest),
    released: Math.min(0, rest),
    rates,
    named,
    closing,
  }
}
