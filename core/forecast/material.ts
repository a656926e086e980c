import type { ForecastAsk } from './ask'
import { soldLately } from './otherMoney'
import type { KnownLedger } from './fromLedger'
import type { Learnt } from './learnt'
import type { Model } from './model'
import { COLUMNS, emptyPast, ENDED, type House } from './past'
import { PayDays } from './payDays'
import type { Sales } from './sales'
import { EDGES } from './shape'

/*
 * What a page needs to try customers, payments and rates otherwise by itself: of the house only those from
 * whom something may come, of their items only the open ones. The same seed gives the same figures.
 */

export interface Material {
  ask: ForecastAsk
  known: KnownLedger
  /** Days between which payment days are known. */
  calendar: { from: number; to: number }
  model: Omit<Model, 'calendar'>
  sales: Sales
}

/** More customers than this, and their material is too large to send: the server tries what-ifs then. */
export const MOST_MATERIAL = 5000

/** Of a house what is needed to try its open items and orders; null when that is too much to send. */
export function materialOf(learnt: Learnt, ask: ForecastAsk): Material | null {
  const { known, model } = learnt
  const { past } = known
  const orderers = new Set(ask.orders.map(o => o.customerId))
  const items = [...past.customer.keys()].filter(i => past.ended[i] === ENDED.open)
  const owing = new Set(items.map(i => past.customer[i]!))
  const rows = [...known.customerIds.keys()].filter(c => owing.has(c) || orderers.has(known.customerIds[c]!))
  if (rows.length > MOST_MATERIAL) return null
  const place = new Map(rows.map((row, n) => [row, n]))
  const some = emptyPast(items.length)
  for (const column of COLUMNS) items.forEach((i, n) => (some[column][n] = past[column][i]!))
  items.forEach((i, n) => (some.customer[n] = place.get(past.customer[i]!)!))
  const customerIds = Uint32Array.from(rows, c => known.customerIds[c]!)
  const house: House = {
    customers: rows.length,
    group: Uint16Array.from(rows, c => known.house.group[c]!),
    groups: known.house.groups,
    ids: Uint32Array.from(rows, c => known.house.ids?.[c] ?? c),
  }
  const pick = (column: Float64Array): Float64Array => Float64Array.from(rows, c => column[c]!)
  const { calendar, waits, sizes, season, together, common, halving } = model
  return {
    ask,
    calendar: { from: calendar.from, to: calendar.to },
    sales: soldLately(learnt, ask),
    known: {
      ...{ asOf: known.asOf, past: some, house, customerIds, after: null },
      itemIds: Uint32Array.from(items, i => known.itemIds[i]!),
      currency: Uint8Array.from(items, i => known.currency[i]!),
      currencyNames: known.currencyNames,
      open: Float64Array.from(items, i => known.open[i]!),
      openBase: Float64Array.from(items, i => known.openBase[i]!),
    },
    model: {
      ...{ asOf: model.asOf, house, sizes, season, together, common, halving },
      run: Uint8Array.from(rows, c => model.run[c]!),
      slack: pick(model.slack),
      spread: pick(model.spread),
      unsure: pick(model.unsure),
      paidItems: pick(model.paidItems),
      alive: pick(model.alive),
      share: pick(model.share),
      late: pick(model.late),
      lastPaid: Int32Array.from(rows, c => model.lastPaid[c]!),
      waits: Float32Array.from(
        rows.flatMap(c => [...waits.subarray(c * EDGES.length, (c + 1) * EDGES.length)]),
      ),
    },
  }
}

/** The house again, of what was sent. */
export const learntFrom = ({ known, model, calendar, sales }: Material): Learnt => ({
  known,
  sales,
  model: { ...model, calendar: new PayDays(calendar.from, calendar.to) },
})

/** A house as it is sent to a page, which tries what-ifs by itself then. */
export interface SentHouse {
  material: Material
  /** Per cent from which somebody is told. */
  alert: number
  /** Ids of customers by number. */
  numbers: Map<string, number>
  /** Of each planned money of the question its payment; 0 for none. */
  plannedIds: number[]
}
