import { z } from 'zod'
import { cell } from '../../db/rows'
import type { factoring, ScheduleItem, ScheduleRow } from '../../../contract/factoring'
import { addDays, daysBetween, type IsoDate } from '../../../core/calendar'
import {
  costTogether,
  effectiveCost,
  moneyWeighted,
  nominalCost,
  type Advanced,
  type Facility,
  type FactorItem,
  type Flow,
} from '../../../core/factoring'
import { share } from '../../../core/money'
import { OFFER_COLUMNS, readSchedule } from '../../../formats/factoring'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { like } from '../common/paging'
import { notFound } from '../common/problems'
import { sheetFile, type SheetFile } from '../common/sheet'
import { facilityOf } from './facilities'

const scheduleCellsCells = z.object({
  id: cell.whole,
  number: cell.text,
  facilityId: cell.whole,
  code: cell.text,
  name: cell.text,
  terms: cell.text,
  date: cell.day,
  currency: cell.text,
  state: z.enum(['made', 'sent', 'taken-back']),
  count: cell.whole,
  total: cell.whole,
  by: cell.text,
})
type ScheduleCells = z.output<typeof scheduleCellsCells>

const SCHEDULES = `SELECT s.id, s.number, f.id AS facilityId, f.code, f.name, f.terms, s.on_date AS date, s.currency,
  s.state, s.count, s.total, p.name AS \`by\` FROM factor_schedule s
  JOIN factor_facility f ON f.id = s.facility_id JOIN person p ON p.id = s.person_id`

interface ItemCells extends Omit<FactorItem, 'schedule' | 'base'> {
  scheduleId: number
  customerNumber: string
  customerName: string
  due: IsoDate
  usual: number | null
}

const ITEMS = `SELECT t.id, t.schedule_id AS scheduleId, t.item_id AS itemId, i.number, t.customer_id AS customerId,
  c.number AS customerNumber, c.name AS customerName, i.currency, t.amount, t.state, t.advance, t.collected,
  t.commission, t.commission_tax AS commissionTax, t.interest, t.repaid, t.sale_item_id AS saleItemId,
  t.accepted_on AS acceptedOn, t.advanced_on AS advancedOn, t.collected_on AS collectedOn,
  COALESCE(i.due_date, i.document_date) AS due, r.usual_late AS usual
  FROM factor_item t JOIN item i ON i.id = t.item_id JOIN customer c ON c.id = t.customer_id
  LEFT JOIN review_score r ON r.customer_id = c.id WHERE t.schedule_id IN (:ids) ORDER BY t.id`

/** What money from the factor cost for one invoice: commission and interest, while it was advanced. */
function advancedOf(item: ItemCells, today: IsoDate): Advanced {
  const until = item.collectedOn ?? today
  return {
    advance: item.advance,
    days: item.advancedOn === null ? 0 : Math.max(0, daysBetween(item.advancedOn, until)),
    cost: item.commission + item.interest,
  }
}

const isOpen = (item: ItemCells): boolean => item.state === 'sent' || item.state === 'accepted'
const isGone = (item: ItemCells): boolean => item.state === 'refused' || item.state === 'back'

function rowOf(s: ScheduleCells, items: readonly ItemCells[], today: IsoDate): ScheduleRow {
  const sum = (of: (i: ItemCells) => number, list = items) => list.reduce((total, i) => total + of(i), 0)
  return {
    id: s.id,
    number: s.number,
    facility: { code: s.code, name: s.name },
    date: s.date,
    currency: s.currency,
    state: s.state,
    count: s.count,
    total: s.total,
    accepted: sum(
      i => i.amount,
      items.filter(i => i.acceptedOn !== null && !isGone(i)),
    ),
    refused: sum(i => i.amount, items.filter(isGone)),
    advance: sum(i => i.advance),
    collected: sum(i => i.collected),
    kept: sum(i => i.commission + i.interest),
    open: s.state === 'taken-back' ? 0 : items.filter(isOpen).length,
    cost: costTogether(items.filter(i => i.collectedOn !== null).map(i => advancedOf(i, today))),
    by: s.by,
  }
}

const listSchedulesRow = z.object({
  scheduleId: cell.whole,
  customerNumber: cell.text,
  customerName: cell.text,
  due: cell.day,
  usual: cell.whole.nullable(),
  number: cell.text,
  id: cell.whole,
  currency: cell.text,
  amount: cell.whole,
  customerId: cell.whole,
  interest: cell.whole,
  advance: cell.whole,
  commission: cell.whole,
  state: z.enum(['collected', 'refused', 'sent', 'accepted', 'back']),
  collected: cell.whole,
  repaid: cell.whole,
  itemId: cell.whole,
  commissionTax: cell.whole,
  saleItemId: cell.whole.nullable(),
  acceptedOn: cell.text.nullable(),
  advancedOn: cell.text.nullable(),
  collectedOn: cell.text.nullable(),
})

export async function listSchedules(database: Handle, { facility }: { facility?: string }) {
  const { today } = await readSettings(database)
  const rows = await database.rows(
    scheduleCellsCells,
    `${SCHEDULES} ${facility ? 'WHERE f.code = :facility' : ''} ORDER BY s.id DESC LIMIT 300`,
    { facility },
  )
  const items = rows.length ? await database.rows(listSchedulesRow, ITEMS, { ids: rows.map(r => r.id) }) : []
  const bySchedule = new Map<number, ItemCells[]>()
  for (const i of items) {
    const own = bySchedule.get(i.scheduleId)
    if (own) own.push(i)
    else bySchedule.set(i.scheduleId, [i])
  }
  return { items: rows.map(r => rowOf(r, bySchedule.get(r.id) ?? [], today)) }
}

async function scheduleCells(database: Handle, scheduleId: number): Promise<ScheduleCells> {
  const [row] = await database.rows(scheduleCellsCells, `${SCHEDULES} WHERE s.id = :scheduleId`, {
    scheduleId,
  })
  if (!row) throw notFound(`schedule ${scheduleId}`)
  return row
}

function itemOf(item: ItemCells, facility: Facility, today: IsoDate, overdraft: number): ScheduleItem {
  const advanced = advancedOf(item, today)
  const { recourseDays } = facility
  const { number, itemId, id, amount, state, advance, collected, commission, commissionTax, interest } = item
  return {
    ...{ id, itemId, number, amount, state, advance, collected, commission, commissionTax, interest },
    repaid: item.repaid,
    customer: { number: item.customerNumber, name: item.customerName },
    acceptedOn: item.acceptedOn,
    collectedOn: item.collectedOn,
    days: advanced.days,
    cost: { nominal: nominalCost(advanced), effective: effectiveCost(advanced) },
    waiting: {
      days: item.usual,
      overdraft: share(advanced.advance, Math.round(overdraft * 100) * advanced.days, 10_000 * 365),
    },
    due: item.due,
    backOn: recourseDays === null || !isOpen(item) ? null : addDays(item.due, recourseDays),
  }
}

const eventRow = z.object({
  kind: cell.word<ScheduleDetail['events'][number]['kind']>(),
  date: cell.day,
  invoice: cell.text.nullable(),
  amount: cell.whole,
  settlement: cell.text,
  text: cell.text,
  entry: cell.whole.nullable(),
})
type EventRow = z.output<typeof eventRow>

type ScheduleDetail = z.output<NonNullable<(typeof factoring.schedule)['response']>>

/**
 * Flows of a schedule as money moves: advances come, invoices that the debtor would have paid are given up,
 * and what the factor pays out comes.
 */
function flowsOf(items: readonly ItemCells[], events: readonly EventRow[]): Flow[] {
  return [
    ...items.flatMap((i): Flow[] => (i.advancedOn ? [{ date: i.advancedOn, amount: i.advance }] : [])),
    ...items.flatMap((i): Flow[] => (i.collectedOn ? [{ date: i.collectedOn, amount: -i.collected }] : [])),
    ...events.flatMap((e): Flow[] => (e.kind === 'payout' ? [{ date: e.date, amount: e.amount }] : [])),
  ]
}

const moneyRow = z.object({
  id: cell.whole,
  date: cell.day,
  amount: cell.whole,
  text: cell.text,
  settled: cell.sum,
})
/** Bank lines of the factor that name the schedule or one of its settlements, beside what it told of. */
async function moneyOf(
  database: Handle,
  { number, currency, date, facilityId }: ScheduleCells,
  events: readonly EventRow[],
): Promise<ScheduleDetail['money']> {
  const names = [number, ...new Set(events.map(e => e.settlement).filter(Boolean))]
  const values = Object.fromEntries(names.map((name, n) => [`name${n}`, like(name)]))
  const rows = await database.rows(
    moneyRow,
    `SELECT l.id, l.booking_date AS date, l.amount, l.text, l.state = 'settled' AS settled FROM bank_line l
      JOIN bank_account b ON b.id = l.bank_account_id
      JOIN factor_facility f ON f.id = :facilityId AND f.iban <> '' AND f.iban = REPLACE(l.iban, ' ', '')
      WHERE b.currency = :currency AND l.booking_date >= :date
      AND (${names.map((_, n) => `CONCAT(l.text, ' ', l.reference) LIKE :name${n}`).join(' OR ')})
      ORDER BY l.booking_date, l.id LIMIT 200`,
    { ...values, facilityId, currency, date },
  )
  const told = events.filter(e => e.kind === 'advance' || e.kind === 'payout')
  return {
    told: told.reduce((sum, e) => sum + e.amount, 0),
    seen: rows.reduce((sum, r) => sum + r.amount, 0),
    lines: rows.map(r => ({ ...r, settled: Boolean(Number(r.settled)) })),
  }
}

/** A schedule with its invoices, what each cost beside waiting for the money, and what the factor told. */
export async function readSchedules(database: Handle, scheduleId: number): Promise<ScheduleDetail> {
  const { today, factoringPolicy } = await readSettings(database)
  const row = await scheduleCells(database, scheduleId)
  const facility = facilityOf({ ...row, id: row.facilityId })
  const items = await database.rows(listSchedulesRow, ITEMS, { ids: [scheduleId] })
  const events = await database.rows(
    eventRow,
    `SELECT e.kind, e.on_date AS date, i.number AS invoice, e.amount, e.settlement, e.text, n.number AS entry
      FROM factor_event e LEFT JOIN factor_item t ON t.id = e.factor_item_id LEFT JOIN item i ON i.id = t.item_id
      LEFT JOIN entry n ON n.id = e.entry_id
      WHERE e.schedule_id = :scheduleId OR (e.kind = 'payout' AND e.settlement IN (
        SELECT x.settlement FROM factor_event x WHERE x.schedule_id = :scheduleId AND x.settlement <> ''))
      ORDER BY e.id`,
    { scheduleId },
  )
  const isDone = items.every(i => !isOpen(i))
  const money = await moneyOf(database, row, events)
  const found = isDone ? moneyWeighted(flowsOf(items, events)) : { none: 'not closed yet' }
  return {
    ...rowOf(row, items, today),
    items: items.map(i => itemOf(i, facility, today, factoringPolicy.overdraft / 100)),
    events: events.map(e => ({ ...e, invoice: e.invoice ?? '' })),
    overdraft: factoringPolicy.overdraft / 100,
    money,
    moneyWeighted: 'rate' in found ? { rate: found.rate, none: '' } : { rate: null, none: found.none },
  }
}

/** A schedule as a file: as it was given to the factor, or the same as a workbook. */
export async function scheduleFile(
  database: Handle,
  scheduleId: number,
  format: 'csv' | 'xlsx',
): Promise<SheetFile> {
  const [row] = await database.find(
    'factor_schedule',
    { id: scheduleId },
    { columns: ['number', 'currency', 'content'] },
  )
  if (!row) throw notFound(`schedule ${scheduleId}`)
  const { number, currency, content } = row
  if (format === 'csv')
    return { name: `${number}.csv`, type: 'text/csv; charset=utf-8', bytes: Buffer.from(content, 'utf8') }
  const { offered } = readSchedule(content)
  return sheetFile(
    number,
    'xlsx',
    OFFER_COLUMNS.map(header => ({ header, ...(header === 'amount' ? { currency } : {}) })),
    offered.map(o => [
      ...[number, o.number, o.customer, o.name, o.country, o.documentDate, o.dueDate, o.currency],
      o.amount,
    ]),
    ['', '', '', '', '', '', '', currency, offered.reduce((sum, o) => sum + o.amount, 0)],
  )
}
