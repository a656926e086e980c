import { z } from 'zod'
import { dayNumber, type IsoDate } from '../../../core/calendar'
import { bucketsOf } from '../../../core/aging'
import type { Claims, Exposed, ExposedAsk } from '../../../core/impairment'
import { kindList } from '../../../core/ledger'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { Settings } from '../../db/settings'
import { askImage } from '../../image'
import { openAsOfSql } from '../../ledger/asOf'

/** Claims that are open on a day, by customer, currency and age band: from memory, or from the tables. */
export async function readExposed(
  db: Handle,
  settings: Settings,
  date: IsoDate,
  ask: Omit<ExposedAsk, 'day'>,
): Promise<Exposed> {
  const fromMemory = await askImage(db, 'exposed', { ...ask, day: dayNumber(date) }, 'waits')
  return fromMemory ?? exposedFromTables(db, settings, date, ask)
}

const claimRow = z.object({
  customerId: cell.whole,
  currency: cell.text,
  band: cell.whole,
  gross: cell.sum,
  base: cell.sum,
})
const CLAIM = kindList(k => k.receivable)

/** The place of the band of an item `s`, in SQL. */
function bandSql(bounds: readonly number[]): string {
  const buckets = bucketsOf(bounds)
  const places = buckets
    .slice(0, -1)
    .map((bucket, place) => `WHEN DATEDIFF(:asOf, s.due_date) <= ${bucket.to} THEN ${place}`)
  return `CASE ${places.join(' ')} ELSE ${buckets.length - 1} END`
}

/** The same from the tables: one statement for all, and one for the accounts of cases. */
export async function exposedFromTables(
  db: Handle,
  { today }: Settings,
  asOf: IsoDate,
  { bounds, cases }: Omit<ExposedAsk, 'day'>,
): Promise<Exposed> {
  const open = `FROM ${openAsOfSql({ asOf, today, known: null })} s JOIN item i ON i.id = s.item_id
    WHERE s.open > 0 AND i.kind IN (${CLAIM})`
  const sums = `${bandSql(bounds)} AS band, SUM(s.open) AS gross, SUM(s.base_open) AS base`
  const found = await db.rows(
    claimRow,
    `SELECT s.customer_id AS customerId, s.currency, ${sums} ${open}
      GROUP BY s.customer_id, s.currency, band ORDER BY s.customer_id, s.currency, band`,
    { asOf },
  )
  const claims = found.map((c): Claims => ({ ...c, gross: int(c.gross), base: int(c.base) }))
  if (!cases.length) return { claims, cases: [] }
  const items = await db.rows(
    claimRow.extend({ itemId: cell.whole }),
    `SELECT i.id AS itemId, s.customer_id AS customerId, s.currency, ${sums} ${open}
      AND s.customer_id IN (:customers) GROUP BY i.id, s.customer_id, s.currency, band`,
    { asOf, customers: [...new Set(cases.map(c => c.customerId))] },
  )
  const byKey = new Map<string, Exposed['cases'][number]>()
  for (const { itemId, customerId, currency, band, gross, base } of items) {
    const one =
      cases.find(c => c.itemId === itemId) ??
      cases.find(c => c.itemId === null && c.customerId === customerId)
    if (!one) continue
    const key = `${one.id} ${currency} ${band}`
    const sum = byKey.get(key) ?? { id: one.id, currency, band, gross: 0, base: 0 }
    byKey.set(key, { ...sum, gross: sum.gross + int(gross), base: sum.base + int(base) })
  }
  return { claims, cases: [...byKey.values()] }
}
