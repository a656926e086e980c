import { changedBy, futureOf, partsOf, sourcesOf, valuesIn, type ForecastAsk } from './ask'
import { rowOfCustomer, type KnownLedger } from './fromLedger'
import type { Learnt } from './learnt'
import { usualLate } from './model'
import { ENDED } from './past'
import { noTrials, simulateItems } from './simulate'
import type { Source } from './sources'

/* What a forecast is made of, item by item. */

export interface ForecastItem {
  /** Of an order its place in the list that was asked with, and `source` is `orders`. */
  itemId: number
  customerId: number
  source: Source
  /** In what is asked for: open, and expected within the span. */
  open: number
  expected: number
  /** That it comes within the span. */
  chance: number
  /** Days after 1970 by which it came in a tenth, half and nine tenths of all trials; null: it did not. */
  days: [number | null, number | null, number | null]
  /** Days that it is past what is usual for its customer; 0: it is not. */
  past: number
}

/** Trials for single items: their days are told from so many. */
const ITEM_TRIALS = 200

/** What is asked for: one customer, or all of a source within some days (the first is 1). */
export type ItemsOf = { customerId: number } | { from: number; to: number; source: Source }

/** What came of one thing in all trials. */
class Seen {
  sum = 0
  came = 0
  readonly days: number[] = []

  add(day: number, amount: number, isWithin: boolean): void {
    this.days.push(day)
    if (!isWithin) return
    this.sum += amount
    this.came++
  }

  /** Share of trials in which it came, its average, and the days by which it came. */
  told(asOf: number) {
    const sorted = Float64Array.from(this.days).sort()
    const by = (q: number): number | null =>
      sorted.length > q * ITEM_TRIALS ? asOf + sorted[Math.floor(q * ITEM_TRIALS)]! : null
    return {
      expected: Math.round(this.sum / ITEM_TRIALS),
      chance: this.came / ITEM_TRIALS,
      days: [by(0.1), by(0.5), by(0.9)] as ForecastItem['days'],
    }
  }
}

/** What is expected item by item. */
export function forecastItems(
  { known, model }: Learnt,
  ask: ForecastAsk,
  of: ItemsOf,
  limit: number,
): { items: ForecastItem[]; count: number; expected: number } {
  const { past } = known
  const valueOf = valuesIn(ask)
  const source = sourcesOf(known, ask)
  const days = ask.weeks * 7
  const row = 'customerId' in of ? rowOfCustomer(known, of.customerId) : -1
  const span = 'source' in of ? of : { from: 1, to: days }
  const isWithin = (day: number): boolean => day >= span.from && day <= span.to
  const wants = (own: Source): boolean => !('source' in of) || own === of.source
  const found = new Map<number, Seen>()
  const ordered = new Map<number, Seen>()
  const seenIn = (map: Map<number, Seen>, key: number): Seen => {
    let seen = map.get(key)
    if (!seen) map.set(key, (seen = new Seen()))
    return seen
  }
  const part = partsOf(known, ask, valueOf)
  // Only single items are asked for: their sums lie here, and nobody reads them.
  const sums = noTrials(ask.asOf, days, ITEM_TRIALS)
  simulateItems(
    model,
    { ...past, part },
    {
      ...{ days, trials: ITEM_TRIALS, seed: ask.seed, knowledge: source.knowledge },
      changed: changedBy(known, ask),
      future: futureOf(known, ask, valueOf),
      ...(row >= 0 ? { only: (c: number) => c === row } : {}),
      paid: (item, _trial, day, amount) => {
        if (wants(source.of.get(item) ?? 'items')) seenIn(found, item).add(day, amount, isWithin(day))
      },
      futurePaid: ({ place }, _trial, day, amount) => {
        if (wants('orders')) seenIn(ordered, place).add(day, amount, isWithin(day))
      },
    },
    () => sums,
  )
  const wanted = 'customerId' in of ? openRows(known, row) : [...found.keys()]
  const items = [
    ...wanted.flatMap((i): ForecastItem[] => {
      const seen = found.get(i) ?? new Seen()
      if ('source' in of && !seen.came) return []
      const itemId = known.itemIds[i]!
      const customerId = known.customerIds[past.customer[i]!]!
      const own = source.of.get(i) ?? 'items'
      const usual = past.due[i]! + Math.round(usualLate(model, past.customer[i]!))
      return [
        {
          ...{ itemId, customerId, source: own, open: Math.round(part[i]!), ...seen.told(ask.asOf) },
          past: Math.max(0, ask.asOf - usual),
        },
      ]
    }),
    ...[...ordered].flatMap(([place, seen]): ForecastItem[] => {
      if ('source' in of && !seen.came) return []
      const { customerId, amount, currency } = ask.orders[place]!
      const open = Math.round(amount * valueOf(currency))
      return [{ itemId: place, customerId, source: 'orders', open, ...seen.told(ask.asOf), past: 0 }]
    }),
  ]
  items.sort((a, b) => b.expected - a.expected || a.itemId - b.itemId)
  return {
    items: items.slice(0, limit),
    count: items.length,
    expected: items.reduce((sum, i) => sum + i.expected, 0),
  }
}

function openRows({ past }: KnownLedger, customer: number): number[] {
  const rows: number[] = []
  for (let i = 0; i < past.count; i++)
    if (past.customer[i] === customer && past.ended[i] === ENDED.open) rows.push(i)
  return rows
}
