import type { IsoDate } from '../calendar'
import type { Move, StateItem } from './types'

/*
 * What is open of an item on the days to come. An effect dated D takes from every day from D on, so it needs
 * enough open on each of them, not only now: a receipt that was allocated from the 2nd to the 16th and is
 * free since then has nothing to give on the 10th, or the same money would be used twice on the days between.
 */

/** So much of an item is taken off, with effect from a day; negative gives back. `base` in base currency. */
export function takeOff(item: StateItem, effective: IsoDate, amount: number, base: number): StateItem {
  return {
    ...item,
    open: item.open - amount,
    baseOpen: item.baseOpen - base,
    moves: [...item.moves, { effective, amount }],
  }
}

/** Open as of the end of a day, before the item was posted as if it had been. */
export function openOn(item: Pick<StateItem, 'amount' | 'moves'>, day: IsoDate): number {
  return item.amount - sum(item.moves.filter(m => m.effective <= day))
}

/** The least that is open on any day from one on. */
export function lowestOpenFrom(item: Pick<StateItem, 'amount' | 'moves'>, day: IsoDate): number {
  return Math.min(...[day, ...daysAfter(item.moves, day)].map(d => openOn(item, d)))
}

/** The first day from one on from which so much is open on every later day; null when there is none. */
export function firstDayWithOpen(
  item: Pick<StateItem, 'amount' | 'moves'>,
  day: IsoDate,
  amount: number,
): IsoDate | null {
  return [day, ...daysAfter(item.moves, day)].find(d => lowestOpenFrom(item, d) >= amount) ?? null
}

/** The days from the first move on which an item stands below zero or above its amount. For checks. */
export function daysOutOfBounds(item: Pick<StateItem, 'amount' | 'moves'>): IsoDate[] {
  const days = [...new Set(item.moves.map(m => m.effective))].sort()
  return days.filter(day => openOn(item, day) < 0 || openOn(item, day) > item.amount)
}

const sum = (moves: readonly Move[]): number => moves.reduce((a, m) => a + m.amount, 0)
const daysAfter = (moves: readonly Move[], day: IsoDate): IsoDate[] =>
  [...new Set(moves.map(m => m.effective).filter(d => d > day))].sort()
