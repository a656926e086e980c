import { z } from 'zod'
import type { impairment, LossCandidate, Recoverable, WriteOffRow } from '../../../contract/impairment'
import { addDays, daysBetween } from '../../../core/calendar'
import { kindList } from '../../../core/ledger'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { findCustomer } from '../accounts/customers'
import { cut, decodeCursor, like } from '../common/paging'

const candidateCells = z.object({
  id: cell.whole,
  number: cell.text,
  kind: cell.text,
  customerNumber: cell.text,
  customerName: cell.text,
  currency: cell.text,
  date: cell.day,
  due: cell.day,
  amount: cell.whole,
  open: cell.sum,
  baseOpen: cell.sum,
  level: cell.whole.nullable(),
  collection: cell.text.nullable(),
})

const CLAIMS = kindList(k => k.receivable && k.side === 'debit')
const CANDIDATES = `SELECT i.id, i.number, i.kind, c.number AS customerNumber, c.name AS customerName, i.currency,
    i.document_date AS date, COALESCE(i.due_date, i.posting_date) AS due, i.amount, o.open, o.base_open AS baseOpen,
    (SELECT MAX(n.level) FROM notice_item n JOIN live_notice l ON l.id = n.notice_id WHERE n.item_id = i.id) AS level,
    (SELECT MAX(k.number) FROM collection_item t JOIN collection k ON k.id = t.collection_id
      WHERE t.item_id = i.id AND k.state IN ('announced', 'sent')) AS collection
  FROM open_item o JOIN item i ON i.id = o.item_id JOIN customer c ON c.id = i.customer_id
  WHERE o.open > 0 AND i.kind IN (${CLAIMS})`

type CandidateQuery = z.output<NonNullable<(typeof impairment.candidates)['query']>>

/** Open claims that may be written off, the oldest first. */
export async function listCandidates(database: Handle, q: CandidateQuery) {
  const { today, base } = await readSettings(database)
  const values: Values = {}
  const where: string[] = []
  if (q.customer) {
    values.customerId = (await findCustomer(database, q.customer, {})).id
    where.push('AND i.customer_id = :customerId')
  }
  if (q.currency) {
    values.currency = q.currency
    where.push('AND i.currency = :currency')
  }
  if (q.most !== undefined) {
    values.most = q.most
    where.push('AND o.open <= :most')
  }
  if (q.days > 0) {
    values.before = addDays(today, -q.days)
    where.push('AND COALESCE(i.due_date, i.posting_date) <= :before')
  }
  if (q.search) {
    values.search = like(q.search)
    where.push('AND (i.number LIKE :search OR c.name LIKE :search OR c.number LIKE :search)')
  }
  const all = `${CANDIDATES} ${where.join(' ')}`
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastDue, values.lastId] = cursor
  const after = cursor ? 'WHERE x.due > :lastDue OR (x.due = :lastDue AND x.id > :lastId)' : ''
  const [rows, [total]] = await Promise.all([
    database.rows(
      candidateCells,
      `SELECT x.* FROM (${all}) x ${after} ORDER BY x.due, x.id LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      z.object({ open: cell.sum, count: cell.sum }),
      `SELECT COALESCE(SUM(x.baseOpen), 0) AS open, COUNT(*) AS count FROM (${all}) x`,
      values,
    ),
  ])
  const page = cut(rows, q.limit, r => [r.due, r.id])
  return {
    items: page.items.map((r): LossCandidate => ({
      id: r.id,
      number: r.number,
      kind: r.kind,
      customer: { number: r.customerNumber, name: r.customerName },
      currency: r.currency,
      date: r.date,
      due: r.due,
      daysLate: Math.max(0, daysBetween(r.due, today)),
      amount: r.amount,
      open: int(r.open),
      baseOpen: int(r.baseOpen),
      level: r.level ?? 0,
      stop: r.collection === null ? '' : `on its way to be collected by ${r.collection}`,
    })),
    totals: { base, open: int(total!.open), count: int(total!.count) },
    next: page.next,
  }
}

const writeOffCells = z.object({
  id: cell.whole,
  number: cell.text,
  ofId: cell.whole,
  ofNumber: cell.text,
  customerNumber: cell.text,
  customerName: cell.text,
  date: cell.day,
  currency: cell.text,
  amount: cell.whole,
  base: cell.whole,
  reason: z.enum(['insolvency', 'uncollectable', 'time-barred', 'small', 'goodwill']).nullable(),
  text: cell.text,
  against: z.enum(['expense', 'allowance']).nullable(),
  commission: z.enum(['kept', 'taken-back']).nullable(),
  tax: cell.whole.nullable(),
  relief: z.enum(['none', 'waits', 'claimed']).nullable(),
  reliefWhy: cell.text.nullable(),
  recovered: cell.sum,
  recoveredBase: cell.sum,
  undone: cell.flag,
  by: cell.text,
})

/** In SQL: a recovery of the write-off `i` that still stands, as `amount` or `base_amount`. */
const recovered = (column: string) => `(SELECT COALESCE(SUM(q.${column}), 0) FROM recovery r
  JOIN item q ON q.id = r.item_id WHERE r.write_off_id = i.id
  AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = q.id))`

/** Those of disputes are among them: they have no row of their own in `write_off`. */
const WRITE_OFFS = `SELECT i.id, i.number, d.id AS ofId, d.number AS ofNumber, c.number AS customerNumber,
    c.name AS customerName, i.posting_date AS date, i.currency, i.amount, i.base_amount AS base, w.reason,
    COALESCE(w.text, i.text) AS text, w.against, w.commission, w.tax, w.relief, w.relief_why AS reliefWhy,
    ${recovered('amount')} AS recovered, ${recovered('base_amount')} AS recoveredBase,
    EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = i.id) AS undone, p.name AS \`by\`
  FROM item i JOIN customer c ON c.id = i.customer_id JOIN person p ON p.id = i.person_id
    JOIN allocation a ON a.credit_item_id = i.id AND a.undoes_id IS NULL JOIN item d ON d.id = a.debit_item_id
      AND d.kind <> 'reversal'
    LEFT JOIN write_off w ON w.item_id = i.id WHERE i.kind = 'write-off'`

function shown(r: z.output<typeof writeOffCells>): WriteOffRow {
  return {
    id: r.id,
    number: r.number,
    of: { id: r.ofId, number: r.ofNumber },
    customer: { number: r.customerNumber, name: r.customerName },
    date: r.date,
    currency: r.currency,
    amount: r.amount,
    base: r.base,
    reason: r.reason,
    text: r.text,
    against: r.against ?? 'expense',
    commission: r.commission,
    tax: r.tax ?? 0,
    relief: r.relief ?? 'none',
    reliefWhy: r.reliefWhy ?? '',
    recovered: int(r.recovered),
    undone: Boolean(r.undone),
    by: r.by,
  }
}

type ListQuery = z.output<NonNullable<(typeof impairment.list)['query']>>

/** What was written off, the newest first, with sums by reason of what still stands. */
export async function listWriteOffs(database: Handle, q: ListQuery) {
  const { base } = await readSettings(database)
  const values: Values = {}
  const where: string[] = []
  if (q.customer) {
    values.customerId = (await findCustomer(database, q.customer, {})).id
    where.push('AND i.customer_id = :customerId')
  }
  if (q.reason) {
    values.reason = q.reason
    where.push('AND w.reason = :reason')
  }
  if (q.from) {
    values.from = q.from
    where.push('AND i.posting_date >= :from')
  }
  if (q.to) {
    values.to = q.to
    where.push('AND i.posting_date <= :to')
  }
  if (q.search) {
    values.search = like(q.search)
    where.push(
      'AND (i.number LIKE :search OR d.number LIKE :search OR c.name LIKE :search OR c.number LIKE :search)',
    )
  }
  const all = `${WRITE_OFFS} ${where.join(' ')}`
  const cursor = decodeCursor(q.cursor, 1)
  if (cursor) [values.lastId] = cursor
  const [rows, sums, [waits]] = await Promise.all([
    database.rows(
      writeOffCells,
      `${all} ${cursor ? 'AND i.id < :lastId' : ''} ORDER BY i.id DESC LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      z.object({ reason: writeOffCells.shape.reason, count: cell.sum, base: cell.sum, recovered: cell.sum }),
      `SELECT x.reason, COUNT(*) AS count, SUM(x.base) AS base, SUM(x.recoveredBase) AS recovered
        FROM (${all}) x WHERE NOT x.undone GROUP BY x.reason ORDER BY SUM(x.base) DESC`,
      values,
    ),
    database.rows(
      z.object({ count: cell.sum, taxBase: cell.sum }),
      `SELECT COUNT(*) AS count, COALESCE(SUM(w.tax_base), 0) AS taxBase FROM write_off w WHERE w.relief = 'waits'
        AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = w.item_id)`,
    ),
  ])
  const page = cut(rows, q.limit, r => [r.id])
  return {
    items: page.items.map(shown),
    base,
    byReason: sums.map(s => ({
      reason: s.reason,
      count: int(s.count),
      base: int(s.base),
      recovered: int(s.recovered),
    })),
    waiting: { count: int(waits!.count), taxBase: int(waits!.taxBase) },
    next: page.next,
  }
}

const MONEY = kindList(k => k.money)
const recoverableCells = z.object({
  id: cell.whole,
  number: cell.text,
  date: cell.day,
  open: cell.sum,
  customerId: cell.whole,
  customerNumber: cell.text,
  customerName: cell.text,
  currency: cell.text,
  owes: cell.sum,
})
const leftCells = z.object({
  id: cell.whole,
  number: cell.text,
  of: cell.text,
  customerId: cell.whole,
  currency: cell.text,
  left: cell.sum,
})

/** Money on accounts of which something was written off that did not come back yet. */
export async function listRecoverable(database: Handle, q: { customer?: string }): Promise<Recoverable[]> {
  const customerId = q.customer ? (await findCustomer(database, q.customer, {})).id : null
  const own = customerId === null ? '' : 'AND i.customer_id = :customerId'
  const left = await database.rows(
    leftCells,
    `SELECT i.id, i.number, d.number AS \`of\`, i.customer_id AS customerId, i.currency,
      i.amount - ${recovered('amount')} AS \`left\`
      FROM write_off w JOIN item i ON i.id = w.item_id JOIN item d ON d.id = w.of_item_id
      WHERE NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = i.id) ${own}
      HAVING \`left\` > 0 ORDER BY i.id`,
    { customerId },
  )
  if (!left.length) return []
  const credits = await database.rows(
    recoverableCells,
    `SELECT i.id, i.number, i.document_date AS date, -o.open AS open, c.id AS customerId,
      c.number AS customerNumber, c.name AS customerName, i.currency,
      COALESCE((SELECT SUM(p.open) FROM open_item p WHERE p.customer_id = c.id AND p.currency = i.currency
        AND p.open > 0), 0) AS owes
      FROM open_item o JOIN item i ON i.id = o.item_id JOIN customer c ON c.id = i.customer_id
      WHERE o.open < 0 AND i.kind IN (${MONEY}) AND i.customer_id IN (:customers) ORDER BY i.document_date, i.id`,
    { customers: [...new Set(left.map(l => l.customerId))] },
  )
  return credits.flatMap(c => {
    const writeOffs = left
      .filter(l => l.customerId === c.customerId && l.currency === c.currency)
      .map(l => ({ id: l.id, number: l.number, of: l.of, left: int(l.left) }))
    if (!writeOffs.length) return []
    return {
      credit: { id: c.id, number: c.number, date: c.date, open: int(c.open) },
      customer: { number: c.customerNumber, name: c.customerName },
      currency: c.currency,
      owes: int(c.owes),
      writeOffs,
    }
  })
}
