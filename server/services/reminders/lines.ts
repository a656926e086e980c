import { z } from 'zod'
import { LEFT_OUT_RULES, type LeftOutRule } from '../../../core/reminders'
import {
  edit as editSchema,
  type LeftOutLine,
  type reminders as operations,
  type RunNotice,
} from '../../../contract/reminders'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound } from '../common/problems'
import { baseOf, noticeOf, runRow, type RunRow } from './runs'

const noticeCells = z.object({
  number: cell.text,
  key: cell.text,
  notice: cell.text,
  included: cell.flag,
  sentId: cell.whole.nullable(),
  sentNumber: cell.text.nullable(),
  withdrawnOn: cell.day.nullable(),
})
type NoticeCells = z.output<typeof noticeCells>

const NOTICES = `SELECT c.number, n.key_text AS \`key\`, n.notice, n.included, s.id AS sentId, s.number AS sentNumber,
    s.withdrawn_on AS withdrawnOn FROM run_notice n JOIN customer c ON c.id = n.customer_id
  LEFT JOIN notice s ON s.run_id = n.run_id AND s.key_text = n.key_text WHERE n.run_id = :id`

function shown(run: RunRow, row: NoticeCells): RunNotice {
  return {
    ...noticeOf(row.notice),
    included: row.included === 1,
    leftOutFor: row.included === 1 ? '' : (run.edits[row.key]?.leaveOut ?? 'nothing of it is left'),
    edit: editSchema.parse(run.edits[row.key] ?? {}),
    sent:
      row.sentId === null ? null : { id: row.sentId, number: row.sentNumber!, withdrawnOn: row.withdrawnOn },
  }
}

/** Notices of a run in the order of their customers, those that people left out among them. */
export async function listNotices(
  database: Handle,
  id: number,
  q: z.output<NonNullable<(typeof operations.notices)['query']>>,
) {
  const run = await runRow(database, id)
  const values: Values = { id }
  const where: string[] = []
  if (q.search) {
    values.search = like(q.search)
    where.push('(c.name LIKE :search OR c.number LIKE :search)')
  }
  if (q.level !== undefined) {
    values.level = q.level
    where.push('n.level = :level')
  }
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) {
    ;[values.lastNumber, values.lastKey] = cursor
    where.push('(c.number, n.key_text) > (:lastNumber, :lastKey)')
  }
  const rows = await database.rows(
    noticeCells,
    `${NOTICES} ${where.map(w => `AND ${w}`).join(' ')} ORDER BY c.number, n.key_text LIMIT ${q.limit + 1}`,
    values,
  )
  const page = cut(rows, q.limit, r => [r.number, r.key])
  return { items: page.items.map(r => shown(run, r)), next: page.next }
}

export async function readNotice(database: Handle, id: number, key: string): Promise<RunNotice> {
  const run = await runRow(database, id)
  const [row] = await database.rows(noticeCells, `${NOTICES} AND n.key_text = :key`, { id, key })
  if (!row) throw notFound(`notice ${key} in run ${id}`)
  return shown(run, row)
}

const leftCells = z.object({
  id: cell.sum,
  number: cell.text,
  name: cell.text,
  item: cell.text.nullable(),
  currency: cell.text,
  open: cell.sum,
  rule: cell.text,
  reason: cell.text,
})

/** What a run leaves out, customer by customer, with sums by reason. */
export async function listLeftOut(
  database: Handle,
  id: number,
  q: z.output<NonNullable<(typeof operations.leftOut)['query']>>,
) {
  const settings = await readSettings(database)
  const run = await runRow(database, id)
  const values: Values = { id }
  const where: string[] = []
  if (q.search) {
    values.search = like(q.search)
    where.push('(c.name LIKE :search OR c.number LIKE :search OR l.item LIKE :search)')
  }
  if (q.rule) {
    values.rule = q.rule
    where.push('l.rule = :rule')
  }
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) {
    ;[values.lastNumber, values.lastId] = cursor
    where.push('(c.number, l.id) > (:lastNumber, :lastId)')
  }
  const [rows, sums] = await Promise.all([
    database.rows(
      leftCells,
      `SELECT l.id, c.number, c.name, l.item, l.currency, l.open, l.rule, l.reason FROM run_left_out l
        JOIN customer c ON c.id = l.customer_id WHERE l.run_id = :id ${where.map(w => `AND ${w}`).join(' ')}
        ORDER BY c.number, l.id LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      z.object({ rule: cell.text, currency: cell.text, lines: cell.sum, open: cell.sum }),
      `SELECT rule, currency, COUNT(*) AS \`lines\`, SUM(open) AS open FROM run_left_out WHERE run_id = :id
        GROUP BY rule, currency`,
      { id },
    ),
  ])
  const inBase = await baseOf(database, settings, run.asOf, sums)
  const rules = (Object.keys(LEFT_OUT_RULES) as LeftOutRule[]).flatMap(rule => {
    const own = sums.filter(s => s.rule === rule)
    if (!own.length) return []
    const lines = own.reduce((a, s) => a + int(s.lines), 0)
    return [{ rule, lines, base: own.reduce((a, s) => a + inBase(int(s.open), s.currency), 0) }]
  })
  const page = cut(rows, q.limit, r => [r.number, int(r.id)])
  return {
    items: page.items.map((r): LeftOutLine => ({
      customer: { number: r.number, name: r.name },
      item: r.item,
      currency: r.currency,
      open: int(r.open),
      rule: r.rule as LeftOutRule,
      reason: r.reason,
    })),
    rules,
    next: page.next,
  }
}
