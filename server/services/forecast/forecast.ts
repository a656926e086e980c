import { z } from 'zod'
import { cell } from '../../db/rows'
import type { ForecastAnswer, ForecastCustomerRow, ForecastPart, partQuery } from '../../../contract/forecast'
import { fromDayNumber, type IsoDate } from '../../../core/calendar'
import {
  dated,
  hasStopped,
  runWords,
  SOURCE_NAMES,
  SOURCES,
  type Forecast,
  type ForecastCustomer,
  type ForecastItem,
  type SentHouse,
} from '../../../core/forecast'
import type { Handle } from '../../db/handle'
import { askForecaster } from '../../forecaster'
import { findCustomer } from '../accounts/customers'
import { ProblemError } from '../common/problems'
import { sheetFile, type SheetFile } from '../common/sheet'
import { gather, NOW, type Gathered, type Query, type WhatIf } from './gather'
import type { ToldOrder } from './orders'
import { watched } from './runs'

type PartQuery = z.output<typeof partQuery>

export const readForecast = (db: Handle, q: Query, signal?: AbortSignal): Promise<ForecastAnswer> =>
  forecastIf(db, q, NOW, signal)

/** The forecast if something were otherwise. Nothing is posted or kept. */
export const forecastIf = (
  db: Handle,
  q: Query,
  whatIf: WhatIf,
  signal?: AbortSignal,
): Promise<ForecastAnswer> =>
  watched(q.run, signal, async run => {
    const gathered = await gather(db, q, whatIf)
    const on = { asOf: gathered.ask.asOf }
    return told(db, gathered, await askForecaster(db, on, 'forecast', gathered.ask, run), q.by)
  })

async function told(
  db: Handle,
  { settings, asOf, currency, ask, withoutRate, sooner }: Gathered,
  f: Forecast,
  by: Query['by'],
): Promise<ForecastAnswer> {
  const { alert } = settings.forecastPolicy
  const names = await namesOf(
    db,
    f.customers.map(c => c.id),
  )
  return {
    ...{ asOf, currency, seed: f.seed, start: ask.start, floor: ask.floor, alert },
    ...dated(f, by, alert),
    customers: f.customers.map(c => customerRow(c, names.get(c.id)!)),
    learnt: { items: f.learnt, halving: f.halving, withoutRate, sooner },
  }
}

/** What a page needs to try what-ifs by itself; null when the house is too large for that. */
export async function readMaterial(db: Handle, q: Query): Promise<SentHouse | null> {
  const { ask, money, settings } = await gather(db, q, NOW)
  const material = await askForecaster(db, { asOf: ask.asOf }, 'material', ask)
  if (!material) return null
  const numbers = await numbersOf(db, [...material.known.customerIds])
  const { alert } = settings.forecastPolicy
  return { material, alert, numbers, plannedIds: money.map(m => m.plannedId) }
}

async function numbersOf(db: Handle, ids: readonly number[]): Promise<Map<string, number>> {
  const rows = await db.find('customer', { id: [0, ...ids] }, { columns: ['id', 'number'] })
  return new Map(rows.map(r => [r.number, r.id]))
}

export async function namesOf(db: Handle, ids: readonly number[]) {
  const rows = await db.find('customer', { id: [0, ...ids] }, { columns: ['id', 'number', 'name'] })
  return new Map(rows.map(r => [r.id, { number: r.number, name: r.name }]))
}

/** Fewer payments than this, and a customer is told by what others do. */
const KNOWN_ITEMS = 3

/** How a customer usually pays, in a sentence. */
function whyOf({ late, spread, run, items }: ForecastCustomer): string {
  const days = Math.round(late)
  const when =
    Math.abs(days) < 2
      ? 'on the due day'
      : days > 0
        ? `${days} days late`
        : `${-days} days before the due day`
  const pays = `usually ${when}, within ${Math.max(1, Math.round(spread))} days`
  const onRun = runWords(run)
  const known =
    items < KNOWN_ITEMS ? '; it has paid little yet, so this is mostly what others of its class do' : ''
  return `${pays}${onRun ? `, ${onRun}` : ''}${known}`
}

/** The item that is furthest past what is usual, in a sentence's end; empty when none is. */
function pastWords(items: readonly { number: string; past: number }[]): string {
  const [worst] = [...items].sort((a, b) => b.past - a.past)
  return worst?.past ? `; ${worst.number} is ${worst.past} days past that` : ''
}

function lateOf({ alive, lastPaid }: ForecastCustomer): string | null {
  if (!hasStopped({ alive })) return null
  const since = lastPaid < 0 ? 'it never paid' : `nothing since ${fromDayNumber(lastPaid)}`
  return `${Math.round((1 - alive) * 100)} % sure it stopped, ${since}`
}

const customerRow = (c: ForecastCustomer, name: { number: string; name: string }): ForecastCustomerRow => ({
  ...name,
  ...{ open: c.open, expected: c.expected, weeks: c.weeks },
  why: whyOf(c),
  late: lateOf(c),
})

const dateOf = (day: number | null): IsoDate | null => (day === null ? null : fromDayNumber(day))

const itemRowsRow = z.object({
  id: cell.whole,
  number: cell.text,
  due: cell.day,
})

async function itemRows(db: Handle, items: readonly ForecastItem[], orders: readonly ToldOrder[]) {
  const rows = await db.rows(
    itemRowsRow,
    'SELECT id, number, COALESCE(due_date, posting_date) AS due FROM item WHERE id IN (:ids)',
    { ids: [0, ...items.filter(i => i.source !== 'orders').map(i => i.itemId)] },
  )
  const byId = new Map(rows.map(r => [r.id, r]))
  const names = await namesOf(db, [...new Set(items.map(i => i.customerId))])
  return items.map(i => {
    const isOrder = i.source === 'orders'
    const order = orders[i.itemId]
    const { number, due } = isOrder ? { number: order!.number, due: order!.date } : byId.get(i.itemId)!
    return {
      ...{ itemId: isOrder ? 0 : i.itemId, number, due, customer: names.get(i.customerId)! },
      ...{ source: i.source, open: i.open, expected: i.expected, chance: i.chance },
      ...{ p10: dateOf(i.days[0]), p50: dateOf(i.days[1]), p90: dateOf(i.days[2]), past: i.past },
    }
  })
}

/** So many items of a week are told, those that bring the most first. */
const TOLD_ITEMS = 300

/** What a week or a day of a source is made of: the items, or the planned money. */
export async function readPart(db: Handle, q: PartQuery, whatIf: WhatIf = NOW): Promise<ForecastPart> {
  const { ask, money, orders } = await gather(db, { ...q, sources: [...SOURCE_NAMES] }, whatIf)
  const most = q.day === undefined ? q.weeks : q.weeks * 7
  if ((q.day ?? q.week ?? 0) > most)
    throw new ProblemError(422, 'Beyond', `the forecast has ${q.weeks} weeks`, [
      { path: q.day === undefined ? 'week' : 'day', message: 'too late', satisfy: `1 to ${most}` },
    ])
  const span = q.day === undefined ? { from: q.week! * 7 - 6, to: q.week! * 7 } : { from: q.day, to: q.day }
  const of = { ...span, source: q.source }
  const found = await askForecaster(db, { asOf: ask.asOf }, 'part', { ask, of, limit: TOLD_ITEMS })
  const [from, to] = [ask.asOf + span.from, ask.asOf + span.to]
  const planned = money
    .filter(m => m.source === q.source && Math.max(m.day, ask.asOf + 1) >= from && m.day <= to)
    .map(m => ({
      ...{ name: m.name, currency: m.currency, amount: m.amount, chance: m.chance },
      date: fromDayNumber(Math.max(m.day, ask.asOf + 1)),
    }))
  const items = await itemRows(db, found.items, orders)
  return { items, planned, count: found.count, expected: found.expected }
}

/** One customer: what it is expected to pay, when, and why. */
export async function readCustomerForecast(db: Handle, number: string, q: Query) {
  const customer = await findCustomer(db, number, {})
  const { ask, orders } = await gather(db, q, NOW)
  const on = { asOf: ask.asOf }
  const tell = { id: customer.id }
  const [own] = (await askForecaster(db, on, 'forecast', { ...ask, tell })).customers
  if (!own)
    return {
      ...{ number: customer.number, name: customer.name, open: 0, expected: 0, weeks: [], items: [] },
      ...{ why: 'nothing is open', late: null },
    }
  const of = { customerId: customer.id }
  const { items } = await askForecaster(db, on, 'part', { ask, of, limit: TOLD_ITEMS })
  const rows = await itemRows(db, items, orders)
  const row = customerRow(own, { number: customer.number, name: customer.name })
  return { ...row, why: `${row.why}${pastWords(rows)}`, items: rows }
}

/** The forecast as a file: a row for each week and source, and one for all. */
export async function exportForecast(db: Handle, q: Query & { format: 'csv' | 'xlsx' }): Promise<SheetFile> {
  const f = await readForecast(db, q)
  const money = (header: string) => ({ header, currency: f.currency })
  const rows = f.weeks.flatMap((week, n) => [
    ...f.bySource.map(({ source, weeks }) => {
      const { from, to, mean, p10, p50, p90 } = weeks[n]!
      return [from, to, SOURCES[source].label, mean, p10, p50, p90]
    }),
    [week.from, week.to, 'All', week.mean, week.p10, week.p50, week.p90],
  ])
  return sheetFile(
    `forecast-${f.asOf}`,
    q.format,
    [
      ...['from', 'to'].map(header => ({ header, width: 12 })),
      { header: 'source', width: 18 },
      ...['on average', '10 %', '50 %', '90 %'].map(money),
    ],
    rows,
  )
}
