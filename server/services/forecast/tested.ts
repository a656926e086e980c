import { Op } from '../../db/where'
import type { ForecastBridgeAnswer, ForecastRecord } from '../../../contract/forecast'
import { forecastQuery } from '../../../contract/forecast'
import { addDays, dayNumber, fromDayNumber, lastMonthEnd, type IsoDate } from '../../../core/calendar'
import { bandUntil, FROM_CUSTOMERS, summaryOf, type TestedWeek } from '../../../core/forecast'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { askForecaster } from '../../forecaster'
import { ProblemError } from '../common/problems'
import { namesOf, readForecast } from './forecast'

/*
 * How right forecasts were: made again as of past days, and kept week by week as they were told.
 */

/** Weeks ahead that are told apart. */
const AHEAD = [1, 4, 8, 13, 0]
const SEED = 'self-test'

/** Forecasts of past month ends beside what came. */
export async function readSelfTest(db: Handle, q: { months: number; weeks: number }) {
  const { today, base } = await readSettings(db)
  const days: IsoDate[] = []
  for (let day = lastMonthEnd(today); days.length < q.months; day = lastMonthEnd(day)) days.push(day)
  const ask = { weeks: q.weeks, today: dayNumber(today), seed: SEED }
  const weeks: TestedWeek[] = []
  for (const day of days.reverse().map(dayNumber))
    weeks.push(...(await askForecaster(db, { asOf: day, until: day + q.weeks * 7 }, 'tested', ask)))
  return {
    base,
    weeks: weeks.map(w => ({
      ...{ asOf: fromDayNumber(w.asOf), week: w.week, p10: w.p10, p50: w.p50, p90: w.p90, came: w.came },
      ...{ plain: w.plain, mean: w.mean },
      from: fromDayNumber(w.asOf + w.week * 7 - 6),
      to: fromDayNumber(w.asOf + w.week * 7),
    })),
    summary: summaryOf(weeks, AHEAD),
  }
}

/** From what was expected on a past day to what came, until some weeks later or today. Throws 422. */
export async function readBridge(
  db: Handle,
  q: { asOf: IsoDate; weeks: number },
): Promise<ForecastBridgeAnswer> {
  const { today, base } = await readSettings(db)
  if (q.asOf >= today)
    throw new ProblemError(422, 'Not yet', `of a forecast of ${q.asOf} nothing has come yet`, [
      { path: 'asOf', message: 'too late', satisfy: `use a day before ${today}` },
    ])
  const end = addDays(q.asOf, q.weeks * 7)
  const until = end < today ? end : today
  const on = { asOf: dayNumber(q.asOf), until: dayNumber(until) }
  const { weeks, customers, ...bridge } = await askForecaster(db, on, 'bridge', { seed: SEED })
  const names = await namesOf(
    db,
    customers.map(c => c.id),
  )
  return {
    ...bridge,
    ...{ base, asOf: q.asOf, until, foreseenNew: await foreseenNew(db, q.asOf, dayNumber(until) - on.asOf) },
    weeks: weeks.map(w => ({ ...w, from: fromDayNumber(w.from), to: fromDayNumber(w.to) })),
    customers: customers.map(({ id, ...c }) => ({ ...c, ...names.get(id)! })),
  }
}

type Kept = Pick<
  Awaited<ReturnType<typeof readForecast>>,
  'weeks' | 'bySource' | 'start' | 'floor' | 'balance'
>

/** What a record of that day expected of orders and new sales in whole weeks; null without one. */
async function foreseenNew(db: Handle, asOf: IsoDate, days: number): Promise<number | null> {
  const [row] = await db.find('forecast_record', { as_of: asOf }, { columns: ['body'] })
  if (!row) return null
  const { bySource } = JSON.parse(row.body) as Kept
  return bySource
    .filter(s => s.source === 'orders' || s.source === 'sales')
    .flatMap(s => s.weeks.slice(0, Math.floor(days / 7)))
    .reduce((sum, week) => sum + week.mean, 0)
}

/** The Monday of a day's week, on which its forecast is kept (ISO 8601 weeks begin on Monday). */
export const weekStart = (day: IsoDate): IsoDate => addDays(day, -((dayNumber(day) + 3) % 7))

/** Keeps the forecast of a day as it is told now. What is kept stays. */
export async function keepRecord(db: Handle, asOf: IsoDate): Promise<void> {
  const f = await readForecast(db, forecastQuery.parse({ asOf }))
  const { weeks, bySource, start, floor } = f
  // Of the balance the ends of weeks are enough.
  const balance = f.balance.filter((_, n) => n % 7 === 6)
  const kept: Kept = { weeks, bySource, start, floor, balance }
  await db.insert('forecast_record', [{ as_of: asOf, body: JSON.stringify(kept) }], { ignore: true })
}

/** So often it is asked whether a week has begun. */
const EVERY_MS = 60_000

/** Keeps the forecast of each week, on its first business day. */
export function forecastKeeper(db: Handle): () => Promise<void> {
  let looked = 0
  let seen = ''
  return async () => {
    if (Date.now() - looked < EVERY_MS) return
    looked = Date.now()
    const { today } = await readSettings(db)
    const week = weekStart(today)
    if (seen === week) return
    const [there] = await db.find(
      'forecast_record',
      { as_of: { [Op.gte]: week } },
      { columns: ['as_of'], limit: 1 },
    )
    if (!there) await keepRecord(db, today)
    seen = week
  }
}

const MOST_RECORDS = 60

/** Within four weeks, as the last month is looked at. */
const SOON_WEEKS = 4

/** The forecasts of past weeks as they were told, the newest first. */
export async function listRecords(db: Handle): Promise<{ base: string; items: ForecastRecord[] }> {
  const { base } = await readSettings(db)
  const rows = await db.find(
    'forecast_record',
    {},
    { columns: { asOf: 'as_of', body: 'body' }, order: [['as_of', 'DESC']], limit: MOST_RECORDS },
  )
  const items = rows.map(({ asOf, body }): ForecastRecord => {
    const { weeks, bySource, start, balance } = JSON.parse(body) as Kept
    const comes = bySource.filter(s => FROM_CUSTOMERS.includes(s.source)).map(s => s.weeks)
    const within = (count: number): number =>
      comes.flatMap(own => own.slice(0, count)).reduce((sum, week) => sum + week.mean, 0)
    const last = balance.at(-1)
    return {
      ...{ asOf, start, inflow: [within(SOON_WEEKS), within(weeks.length)] },
      end: last ? bandUntil(asOf, last) : null,
      below: last?.below ?? 0,
    }
  })
  return { base, items }
}
