import { z } from 'zod'
import type { AuditRow, books } from '../../../contract/books'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { cut, decodeCursor, like } from '../common/paging'

type AuditRequest = z.infer<NonNullable<(typeof books.audit)['query']>>

/** So much of what was before and after is shown in a list. */
const SHOWN = 2000

const auditCells = z.object({
  id: cell.whole,
  at: cell.instant,
  by: cell.text,
  what: cell.text,
  about: cell.text,
  before: cell.text.nullable(),
  after: cell.text.nullable(),
})

/**
 * The instant at which a day of the house begins, for a column in UTC: the offset of the zone on that day, as
 * the database has no table of zones.
 */
export function dayBegins(day: string, timeZone: string): string {
  const noon = new Date(`${day}T12:00:00Z`)
  const there = new Date(noon.toLocaleString('en-US', { timeZone, hourCycle: 'h23' }))
  const here = new Date(noon.toLocaleString('en-US', { timeZone: 'UTC', hourCycle: 'h23' }))
  const begins = new Date(Date.parse(`${day}T00:00:00Z`) - (there.getTime() - here.getTime()))
  return begins.toISOString().slice(0, 23).replace('T', ' ')
}

const readAuditTrailRow = z.object({
  n: cell.sum,
})

/** Who did what, the newest first. */
export async function readAuditTrail(database: Handle, q: AuditRequest) {
  const { timeZone } = await readSettings(database)
  const where = ['1 = 1']
  const values: Values = {}
  const on = (sql: string, name: string, value: unknown) => {
    where.push(sql)
    values[name] = value
  }
  if (q.from) on('a.at >= :from', 'from', dayBegins(q.from, timeZone))
  if (q.to) on('a.at < :to + INTERVAL 1 DAY', 'to', dayBegins(q.to, timeZone))
  if (q.what) on('a.what = :what', 'what', q.what)
  if (q.person) on('p.email = :person', 'person', q.person)
  if (q.search) on('(a.about LIKE :search OR a.after_value LIKE :search)', 'search', like(q.search))
  const from = `FROM audit a JOIN person p ON p.id = a.person_id WHERE ${where.join(' AND ')}`
  const cursor = decodeCursor(q.cursor, 1)
  if (cursor) values.last = cursor[0]
  const [rows, [total], whats, people] = await Promise.all([
    database.rows(
      auditCells,
      `SELECT a.id, a.at, p.name AS \`by\`, a.what, a.about, LEFT(a.before_value, ${SHOWN}) AS \`before\`,
        LEFT(a.after_value, ${SHOWN}) AS \`after\` ${from} ${cursor ? 'AND a.id < :last' : ''}
        ORDER BY a.id DESC LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(readAuditTrailRow, `SELECT COUNT(*) AS n ${from}`, values),
    database.find('audit', {}, { columns: ['what'], order: ['what'], limit: 200, distinct: true }),
    database.find('person', {}, { columns: ['email', 'name'], order: ['name'] }),
  ])
  const page = cut(rows as AuditRow[], q.limit, r => [r.id])
  return { ...page, count: int(total!.n), whats: whats.map(w => w.what), people }
}
