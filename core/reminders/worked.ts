import { addDays, daysLate, type IsoDate } from '../calendar'
import type { Move } from '../ledger'

/** An item as far as the effect of reminders on it is measured. Base currency, minor units. */
export interface ObservedItem {
  id: number
  dueDate: IsoDate
  amount: number
  moves: readonly Move[]
  /** Levels it was reminded at, by day. */
  reminded: readonly { level: number; policy: string; on: IsoDate }[]
}

/** After so many days money is counted. */
export const WITHIN_DAYS = [7, 14, 30] as const

/** What came after notices of one policy and level, beside items left alone at the same age. */
export interface LevelEffect {
  policy: string
  level: number
  notices: number
  /** Open when they were sent. */
  claimed: number
  /** Collected within 7, 14 and 30 days, of those whose days are over. */
  collected: number[]
  /** The same as a share of what was claimed, 0 to 1; null while no day of that many is over. */
  share: (number | null)[]
  /** Of items of the same age that were not reminded then: how many, and the share that came. */
  alone: { count: number; share: (number | null)[] }
}

const openOn = (item: ObservedItem, day: IsoDate): number =>
  item.amount - item.moves.reduce((sum, m) => (m.effective <= day ? sum + m.amount : sum), 0)

/** Ages are compared by weeks: days late, up to the next of these. */
const AGE_WEEKS = 7

interface Tally {
  claimed: number
  came: number
}

/** What was open of an item on a day, and how much of it came within days after. */
function cameAfter(item: ObservedItem, day: IsoDate, within: number): Tally {
  const claimed = openOn(item, day)
  return { claimed, came: Math.max(0, claimed - openOn(item, addDays(day, within))) }
}

/**
 * Cash that came after each level, beside items left alone at the same age: an item counts as left alone on a
 * day when nothing was sent for it in the thirty days before and after. Days that are not over by `today`
 * are not counted. It compares, it does not prove: those who are reminded differ from those who are not.
 */
export function effectOfLevels(items: readonly ObservedItem[], today: IsoDate): LevelEffect[] {
  const alone = aloneByAge(items, today)
  const groups = new Map<
    string,
    { policy: string; level: number; sent: { item: ObservedItem; on: IsoDate }[] }
  >()
  for (const item of items)
    for (const { policy, level, on } of item.reminded) {
      if (level === 0 || openOn(item, on) <= 0) continue
      const key = `${policy} ${level}`
      const group = groups.get(key) ?? { policy, level, sent: [] }
      groups.set(key, group)
      group.sent.push({ item, on })
    }
  const effects = [...groups.values()].map(({ policy, level, sent }): LevelEffect => {
    const tallies = WITHIN_DAYS.map(within => {
      const over = sent.filter(s => addDays(s.on, within) <= today)
      return over.reduce<Tally>(
        (sum, s) => {
          const { claimed, came } = cameAfter(s.item, s.on, within)
          return { claimed: sum.claimed + claimed, came: sum.came + came }
        },
        { claimed: 0, came: 0 },
      )
    })
    const others = WITHIN_DAYS.map((_, n) => ageMatched(sent, alone, n))
    return {
      policy,
      level,
      notices: sent.length,
      claimed: sent.reduce((sum, s) => sum + openOn(s.item, s.on), 0),
      collected: tallies.map(t => t.came),
      share: tallies.map(t => (t.claimed ? t.came / t.claimed : null)),
      alone: { count: others[0]?.count ?? 0, share: others.map(o => o.share) },
    }
  })
  return effects.sort((a, b) => (a.policy === b.policy ? a.level - b.level : a.policy < b.policy ? -1 : 1))
}

const weekOf = (item: ObservedItem, day: IsoDate): number =>
  Math.floor(daysLate(item.dueDate, day) / AGE_WEEKS)

interface Alone {
  count: number
  tallies: Tally[]
}

/** Once a week of its lateness, while nobody wrote about it: what was open of an item and what came. */
function aloneByAge(items: readonly ObservedItem[], today: IsoDate): Map<number, Alone> {
  const byWeek = new Map<number, Alone>()
  const longest = WITHIN_DAYS.at(-1)!
  for (const item of items)
    for (let week = 0; week < 30; week++) {
      const day = addDays(item.dueDate, week * AGE_WEEKS + 3)
      if (addDays(day, longest) > today) break
      if (openOn(item, day) <= 0) break
      const near = item.reminded.some(r => r.on >= addDays(day, -longest) && r.on <= addDays(day, longest))
      if (near) continue
      const own = byWeek.get(week) ?? { count: 0, tallies: WITHIN_DAYS.map(() => ({ claimed: 0, came: 0 })) }
      byWeek.set(week, own)
      own.count++
      WITHIN_DAYS.forEach((within, n) => {
        const { claimed, came } = cameAfter(item, day, within)
        own.tallies[n]!.claimed += claimed
        own.tallies[n]!.came += came
      })
    }
  return byWeek
}

/** The share of those left alone, weighted by the ages of those that were reminded; null without any. */
function ageMatched(
  sent: readonly { item: ObservedItem; on: IsoDate }[],
  alone: ReadonlyMap<number, Alone>,
  n: number,
): { count: number; share: number | null } {
  let weight = 0
  let sum = 0
  const weeks = new Set<number>()
  for (const { item, on } of sent) {
    const week = weekOf(item, on)
    const own = alone.get(week)
    if (!own || own.tallies[n]!.claimed === 0) continue
    weeks.add(week)
    const claimed = openOn(item, on)
    weight += claimed
    sum += claimed * (own.tallies[n]!.came / own.tallies[n]!.claimed)
  }
  const count = [...weeks].reduce((total, week) => total + alone.get(week)!.count, 0)
  return { count, share: weight ? sum / weight : null }
}
