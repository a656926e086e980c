import { z } from 'zod'
import { cell } from '../../db/rows'
import { addMonths, dayNumber, endOfMonth, lastMonthEnd, type IsoDate } from '../../../core/calendar'
import { bucketsOf } from '../../../core/aging'
import { cohortRates, rollRates, type HistoryAsk, type StoodOn } from '../../../core/impairment'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { answer, askImage, slicesOf } from '../../image'

/** Sums of slices, day by day and band by band. */
function together(parts: readonly StoodOn[][]): StoodOn[] {
  const [first, ...others] = parts
  if (!first) return []
  return first.map(({ day, stood, lost }, n) => ({
    day,
    stood: stood.map((sum, band) => others.reduce((a, part) => a + part[n]!.stood[band]!, sum)),
    lost: lost.map((sum, band) => others.reduce((a, part) => a + part[n]!.lost[band]!, sum)),
  }))
}

async function readHistory(database: Handle, ask: HistoryAsk): Promise<StoodOn[]> {
  const fromMemory = await askImage(database, 'history', ask, 'waits')
  if (fromMemory) return fromMemory
  const parts: StoodOn[][] = []
  for await (const books of slicesOf(database, { ids: null })) parts.push(answer(books, 'history', ask))
  return together(parts)
}

const recoveredOfRow = z.object({
  itemId: cell.whole,
  base: cell.sum,
})

/** Of claims written off, what came back and still stands; base minor units, by id of the claim. */
async function recoveredOf(database: Handle): Promise<[number, number][]> {
  const rows = await database.rows(
    recoveredOfRow,
    `SELECT w.of_item_id AS itemId, SUM(q.base_amount) AS base FROM recovery r
      JOIN write_off w ON w.item_id = r.write_off_id JOIN item q ON q.id = r.item_id
      WHERE NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = q.id) GROUP BY w.of_item_id`,
  )
  return rows.map(r => [r.itemId, int(r.base)])
}

const netLostRow = z.object({
  base: cell.sum,
})

/** Written off from one day to another, less what came back; base minor units. */
async function netLost(database: Handle, from: IsoDate, to: IsoDate): Promise<number> {
  const [row] = await database.rows(
    netLostRow,
    `SELECT COALESCE(SUM(CASE WHEN i.kind = 'write-off' THEN i.base_amount ELSE -i.base_amount END), 0) AS base
      FROM item i WHERE i.kind IN ('write-off', 'recovery') AND i.posting_date > :from AND i.posting_date <= :to
      AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = i.id)`,
    { from, to },
  )
  return int(row!.base)
}

/** Rates of loss as the past of this ledger gives them, over so many month ends. */
export async function readLossRates(database: Handle, { months }: { months: number }) {
  const { base, today, impairmentPolicy } = await readSettings(database)
  const { bounds, matrix } = impairmentPolicy.allowance
  const last = lastMonthEnd(today)
  const dates = Array.from({ length: months }, (_, n) => endOfMonth(addMonths(last, n - months + 1)))
  const days = await readHistory(database, {
    days: dates.map(dayNumber),
    bounds,
    recovered: await recoveredOf(database),
  })
  const lost = await netLost(database, dates[0]!, today)
  const bands = bucketsOf(bounds)
  return {
    base,
    bands: bands.map(b => b.label),
    now: [...matrix.rest],
    days: days.map(({ stood, lost: net }, n) => ({ date: dates[n]!, stood, lost: net })),
    roll: {
      lost,
      ...rollRates(
        days.map(d => d.stood),
        lost,
      ),
    },
    cohorts: cohortRates(
      days.flatMap(({ stood, lost: net }) => stood.map((s, band) => ({ band, stood: s, lost: net[band]! }))),
      bands.length,
    ),
  }
}
