import { z } from 'zod'
import { addDays, daysBetween, type IsoDate } from '../../../core/calendar'
import {
  DISPUTE_REASONS,
  FAULTS,
  type DisputeReason,
  type Fault,
  type Resolution,
} from '../../../core/disputes'
import type { disputes as operations, DisputeRow, DisputeSums } from '../../../contract/disputes'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { findCustomer } from '../accounts/customers'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound } from '../common/problems'
import type { Scope } from '../people/scope'
import { DISPUTE_LIVES } from './live'

const FROM = `FROM dispute d LEFT JOIN deduction e ON e.id = d.deduction_id
    JOIN customer c ON c.id = d.customer_id JOIN person o ON o.id = d.owner_id`
/** What of a dispute is open, in its currency and in base. */
const LEFT = `(SELECT SUM(LEAST(t.amount, ABS(i.open))) FROM dispute_item t JOIN open_item i ON i.item_id = t.item_id
    WHERE t.dispute_id = d.id)`
const BASE_LEFT = `(SELECT SUM(ROUND(ABS(i.base_open) * LEAST(t.amount, ABS(i.open)) / ABS(i.open)))
    FROM dispute_item t JOIN open_item i ON i.item_id = t.item_id WHERE t.dispute_id = d.id)`
const COLUMNS = `d.id, d.version, c.number AS customerNumber, c.name AS customerName, d.currency, d.reason,
    d.fault, d.text, o.email AS ownerEmail, o.name AS ownerName, d.opened_on AS openedOn, d.deadline,
    d.resolution, d.resolved_on AS resolvedOn, d.resolution_text AS resolutionText, d.entry_id AS entry,
    r.name AS resolvedBy, e.receipt_item_id AS receiptId, ri.number AS receiptNumber,
    COALESCE(${LEFT}, 0) AS \`left\`, COALESCE(${BASE_LEFT}, 0) AS baseLeft,
    (SELECT w.id FROM waiting_command w WHERE w.name = 'disputes.resolve' AND w.state = 'waiting'
      AND w.about = CONCAT('dispute ', d.id) LIMIT 1) AS waiting`
const JOINS = `${FROM} LEFT JOIN person r ON r.id = d.resolved_by LEFT JOIN item ri ON ri.id = e.receipt_item_id`

const disputeCells = z.object({
  id: cell.whole,
  version: cell.whole,
  customerNumber: cell.text,
  customerName: cell.text,
  currency: cell.text,
  reason: cell.text,
  fault: cell.text,
  text: cell.text,
  ownerEmail: cell.text,
  ownerName: cell.text,
  openedOn: cell.day,
  deadline: cell.day,
  resolution: cell.text,
  resolvedOn: cell.day.nullable(),
  resolvedBy: cell.text.nullable(),
  resolutionText: cell.text,
  entry: cell.whole.nullable(),
  receiptId: cell.whole.nullable(),
  receiptNumber: cell.text.nullable(),
  left: cell.sum,
  baseLeft: cell.sum,
  waiting: cell.whole.nullable(),
})
type Cells = z.output<typeof disputeCells>

const itemsOfRow = z.object({
  id: cell.whole,
  number: cell.text,
  amount: cell.whole,
  open: cell.whole,
  disputeId: cell.whole,
})

async function itemsOf(database: Handle, ids: readonly number[]) {
  const byDispute = new Map<number, DisputeRow['items']>()
  if (!ids.length) return byDispute
  const rows = await database.rows(
    itemsOfRow,
    `SELECT t.dispute_id AS disputeId, i.id, i.number, t.amount, COALESCE(ABS(o.open), 0) AS open
      FROM dispute_item t JOIN item i ON i.id = t.item_id LEFT JOIN open_item o ON o.item_id = t.item_id
      WHERE t.dispute_id IN (:ids) ORDER BY t.dispute_id, i.due_date, i.id`,
    { ids },
  )
  for (const { disputeId, ...item } of rows)
    byDispute.set(disputeId, [...(byDispute.get(disputeId) ?? []), item])
  return byDispute
}

async function shown(database: Handle, today: IsoDate, rows: readonly Cells[]): Promise<DisputeRow[]> {
  const items = await itemsOf(
    database,
    rows.map(r => r.id),
  )
  return rows.map(row => {
    const own = items.get(row.id) ?? []
    const isOpen = row.resolution === ''
    return {
      id: row.id,
      version: row.version,
      customer: { number: row.customerNumber, name: row.customerName },
      currency: row.currency,
      reason: row.reason as DisputeReason,
      fault: row.fault as Fault,
      text: row.text,
      owner: { email: row.ownerEmail, name: row.ownerName },
      openedOn: row.openedOn,
      deadline: row.deadline,
      age: daysBetween(row.openedOn, row.resolvedOn ?? today),
      amount: own.reduce((sum, i) => sum + i.amount, 0),
      left: isOpen ? int(row.left) : 0,
      baseLeft: isOpen ? int(row.baseLeft) : 0,
      items: own,
      receipt: row.receiptId === null ? null : { id: row.receiptId, number: row.receiptNumber! },
      resolution: row.resolution as Resolution | '',
      resolved:
        row.resolvedOn === null
          ? null
          : { on: row.resolvedOn, by: row.resolvedBy ?? '', text: row.resolutionText, entry: row.entry },
      waiting: row.waiting,
    }
  })
}

const SORTS = {
  deadline: { value: 'x.deadline', way: 'ASC' },
  age: { value: 'x.openedOn', way: 'ASC' },
  amount: { value: 'x.baseLeft', way: 'DESC' },
  customer: { value: 'x.customerName', way: 'ASC' },
} as const

/** Disputes, by deadline unless sorted otherwise; those that were resolved, the newest first. */
export async function listDisputes(
  database: Handle,
  q: z.output<NonNullable<(typeof operations.list)['query']>>,
  scope: Scope,
) {
  const { today, base } = await readSettings(database)
  const values: Values = { salesId: scope.salesId ?? 0, today }
  const where: string[] = []
  if (scope.salesId) where.push('c.sales_id = :salesId')
  if (q.state === 'open') where.push(`(${DISPUTE_LIVES})`)
  if (q.state === 'resolved') where.push(`d.resolution <> ''`)
  if (q.reason) {
    values.reason = q.reason
    where.push('d.reason = :reason')
  }
  if (q.owner) {
    values.owner = q.owner
    where.push('o.email = :owner')
  }
  if (q.customer) {
    values.customerId = (await findCustomer(database, q.customer, scope)).id
    where.push('d.customer_id = :customerId')
  }
  if (q.search) {
    values.search = like(q.search)
    where.push(`(c.name LIKE :search OR c.number LIKE :search OR d.text LIKE :search OR EXISTS (SELECT 1
      FROM dispute_item t JOIN item i ON i.id = t.item_id WHERE t.dispute_id = d.id AND i.number LIKE :search))`)
  }
  const all = where.length ? `WHERE ${where.join(' AND ')}` : ''
  const { value, way } = q.state === 'open' ? SORTS[q.sort] : { value: 'x.resolvedOn', way: 'DESC' as const }
  const sorted = q.state === 'all' ? { value: 'x.id', way: 'DESC' as const } : { value, way }
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.last, values.lastId] = cursor
  const than = sorted.way === 'ASC' ? '>' : '<'
  const after = cursor
    ? `WHERE ${sorted.value} ${than} :last OR (${sorted.value} = :last AND x.id > :lastId)`
    : ''
  const [rows, [total]] = await Promise.all([
    database.rows(
      disputeCells.extend({ sortValue: z.union([z.string(), z.number()]) }),
      `SELECT x.*, ${sorted.value} AS sortValue FROM (SELECT ${COLUMNS} ${JOINS} ${all}) x ${after}
        ORDER BY ${sorted.value} ${sorted.way}, x.id ASC LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      z.object({ count: cell.sum, left: cell.sum, late: cell.sum }),
      `SELECT COUNT(*) AS count, SUM(IF(d.resolution = '', ${BASE_LEFT}, 0)) AS \`left\`,
        SUM(d.resolution = '' AND d.deadline < :today) AS late ${FROM} ${all}`,
      values,
    ),
  ])
  const page = cut(rows, q.limit, r => [r.sortValue, r.id])
  return {
    items: await shown(database, today, page.items),
    totals: { count: int(total!.count), base, left: int(total!.left), late: int(total!.late) },
    next: page.next,
  }
}

export async function readDispute(database: Handle, id: number, scope: Scope): Promise<DisputeRow> {
  const { today } = await readSettings(database)
  const [row] = await database.rows(
    disputeCells,
    `SELECT ${COLUMNS} ${JOINS} WHERE d.id = :id ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { id, salesId: scope.salesId ?? 0 },
  )
  if (!row) throw notFound(`dispute ${id}`)
  return (await shown(database, today, [row]))[0]!
}

/** Days since a dispute was opened: where its ages begin and end. */
const AGES = [7, 14, 30, 60] as const

/** Ages of what is disputed, and how long resolving takes, by reason, owner or fault. */
export async function disputeSums(
  database: Handle,
  by: 'reason' | 'owner' | 'fault',
  scope: Scope,
): Promise<{ base: string; items: DisputeSums[] }> {
  const { today, base } = await readSettings(database)
  const key = { reason: 'd.reason', fault: 'd.fault', owner: 'o.email' }[by]
  const own = scope.salesId ? 'AND c.sales_id = :salesId' : ''
  const rows = await database.rows(
    z.object({
      key: cell.text,
      owner: cell.text,
      isOpen: cell.flag,
      opened: cell.day,
      resolved: cell.day.nullable(),
      left: cell.sum,
    }),
    `SELECT ${key} AS \`key\`, o.name AS owner, d.resolution = '' AS isOpen, d.opened_on AS opened,
      d.resolved_on AS resolved, IF(d.resolution = '', ${BASE_LEFT}, 0) AS \`left\` ${FROM}
      WHERE ((${DISPUTE_LIVES}) OR d.resolved_on > :yearAgo) ${own}`,
    { yearAgo: addDays(today, -365), salesId: scope.salesId ?? 0 },
  )
  const nameOf = (row: (typeof rows)[number]): string => {
    if (by === 'owner') return row.owner
    return by === 'reason' ? DISPUTE_REASONS[row.key as DisputeReason] : FAULTS[row.key as Fault]
  }
  const sums = new Map<string, DisputeSums & { took: number }>()
  for (const row of rows) {
    const group = sums.get(row.key) ?? {
      key: row.key,
      name: nameOf(row),
      count: 0,
      amount: 0,
      ages: [0, 0, 0, 0, 0],
      resolved: 0,
      days: null,
      took: 0,
    }
    sums.set(row.key, group)
    if (row.isOpen === 1) {
      const age = daysBetween(row.opened, today)
      const place = AGES.findIndex(most => age <= most)
      group.count++
      group.amount += int(row.left)
      group.ages[place < 0 ? AGES.length : place]! += int(row.left)
    } else {
      group.resolved++
      group.took += daysBetween(row.opened, row.resolved!)
      group.days = Math.round((10 * group.took) / group.resolved) / 10
    }
  }
  const items = [...sums.values()].map(({ took: _, ...sum }) => sum)
  return { base, items: items.sort((a, b) => b.amount - a.amount || (a.name < b.name ? -1 : 1)) }
}
