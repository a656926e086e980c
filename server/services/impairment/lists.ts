import { z } from 'zod'
import type { impairment, LossCandidate, Recoverable, WriteOffRow } from '../../../contract/impairment'
import { addDays, daysBetween } from '../../../core/calendar'
import { kindList } from '../../../core/ledger'
import { amountWords } from '../../../core/money'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { findCustomer, findCustomers } from '../accounts/customers'
import { AT_FACTOR } from '../factoring/atFactor'
import { allowanceLeft } from './writeOff'
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
  named: cell.flag,
  factor: cell.text.nullable(),
})

const CLAIMS = kindList(k => k.receivable && k.side === 'debit')
const CANDIDATES = `SELECT i.id, i.number, i.kind, c.number AS customerNumber, c.name AS customerName, i.currency,
    i.document_date AS date, COALESCE(i.due_date, i.posting_date) AS due, i.amount, o.open, o.base_open AS baseOpen,
    (SELECT MAX(n.level) FROM notice_item n JOIN live_notice l ON l.id = n.notice_id WHERE n.item_id = i.id) AS level,
    (SELECT MAX(k.number) FROM collection_item t JOIN collection k ON k.id = t.collection_id
      WHERE t.item_id = i.id AND k.state IN ('announced', 'sent')) AS collection,
    ${AT_FACTOR} AS factor,
    EXISTS (SELECT 1 FROM allowance_case x WHERE x.customer_id = i.customer_id AND x.ended_on IS NULL
      AND (x.item_id IS NULL OR x.item_id = i.id)) AS named
  FROM open_item o JOIN item i ON i.id = o.item_id JOIN customer c ON c.id = i.customer_id
  WHERE o.open > 0 AND i.kind IN (${CLAIMS})`

/** Why it cannot be written off now; empty for nothing. */
function stopOf({ factor, collection }: { factor: string | null; collection: string | null }): string {
  if (factor !== null) return `it lies with ${factor}`
  return collection === null ? '' : `on its way to be collected by ${collection}`
}

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
    where.push(q.currency ? 'AND o.open <= :most' : 'AND o.base_open <= :most')
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
  const setAside = Math.max(0, await allowanceLeft(database))
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
      named: Boolean(r.named),
      stop: stopOf(r),
    })),
    totals: { base, open: int(total!.open), count: int(total!.count), setAside },
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
  signedBy: cell.text.nullable(),
})

/** In SQL: a recovery of the write-off `i` that still stands, as `amount` or `base_amount`. */
export const recovered = (column: string) => `(SELECT COALESCE(SUM(q.${column}), 0) FROM recovery r
  JOIN item q ON q.id = r.item_id WHERE r.write_off_id = i.id
  AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = q.id))`

/** In SQL: who signed the write-off `i`, where a second person had to. */
export const SIGNED_BY = `(SELECT q.name FROM waiting_command w2 JOIN person q ON q.id = w2.decided_by
  WHERE w2.name = 'impairment.writeOff' AND w2.state = 'signed'
  AND JSON_CONTAINS(w2.result, JSON_QUOTE(i.number), '$.numbers') LIMIT 1)`

/** Those of disputes are among them: they have no row of their own in `write_off`. */
const WRITE_OFFS = `SELECT i.id, i.number, d.id AS ofId, d.number AS ofNumber, c.number AS customerNumber,
    c.name AS customerName, i.posting_date AS date, i.currency, i.amount, i.base_amount AS base, w.reason,
    COALESCE(w.text, i.text) AS text, w.against, w.commission, w.tax, w.relief, w.relief_why AS reliefWhy,
    ${recovered('amount')} AS recovered, ${recovered('base_amount')} AS recoveredBase,
    EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = i.id) AS undone, p.name AS \`by\`,
    ${SIGNED_BY} AS signedBy
  FROM item i JOIN customer c ON c.id = i.customer_id JOIN person p ON p.id = i.person_id
    JOIN allocation a ON a.credit_item_id = i.id AND a.undoes_id IS NULL JOIN item d ON d.id = a.debit_item_id
      AND d.kind <> 'reversal'
    LEFT JOIN write_off w ON w.item_id = i.id WHERE i.kind = 'write-off'`

const recoveryCells = z.object({
  writeOffId: cell.whole,
  id: cell.whole,
  number: cell.text,
  date: cell.day,
  amount: cell.whole,
  credit: cell.text,
})
type RecoveryRow = z.output<typeof recoveryCells>

/** The recoveries of write-offs that stand, with the receipt that brought each. */
async function recoveriesOf(database: Handle, writeOffIds: readonly number[]): Promise<RecoveryRow[]> {
  if (!writeOffIds.length) return []
  return database.rows(
    recoveryCells,
    `SELECT r.write_off_id AS writeOffId, q.id, q.number, q.posting_date AS date, q.amount, c.number AS credit
      FROM recovery r JOIN item q ON q.id = r.item_id
      JOIN allocation a ON a.debit_item_id = q.id AND a.undoes_id IS NULL
      JOIN item c ON c.id = a.credit_item_id AND c.kind <> 'reversal'
      WHERE r.write_off_id IN (:writeOffIds)
      AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = q.id) ORDER BY q.id`,
    { writeOffIds },
  )
}

function shown(r: z.output<typeof writeOffCells>, recoveries: readonly RecoveryRow[]): WriteOffRow {
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
    recoveries: recoveries.flatMap(({ writeOffId, ...recovery }) => (writeOffId === r.id ? [recovery] : [])),
    undone: Boolean(r.undone),
    by: r.by,
    signedBy: r.signedBy ?? '',
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
  const recoveries = await recoveriesOf(
    database,
    page.items.filter(r => int(r.recovered) !== 0).map(r => r.id),
  )
  return {
    items: page.items.map(r => shown(r, recoveries)),
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

/** Write-offs that stand and did not wholly come back, the oldest first: of all customers, or of some. */
function notRecovered(db: Handle, customerIds: readonly number[] | null) {
  const own = customerIds === null ? '' : 'AND i.customer_id IN (:customerIds)'
  return db.rows(
    leftCells,
    `SELECT i.id, i.number, d.number AS \`of\`, i.customer_id AS customerId, i.currency,
      i.amount - ${recovered('amount')} AS \`left\`
      FROM write_off w JOIN item i ON i.id = w.item_id JOIN item d ON d.id = w.of_item_id
      WHERE NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = i.id) ${own}
      HAVING \`left\` > 0 ORDER BY i.id`,
    { customerIds },
  )
}

/** How many write-offs of a customer did not wholly come back. */
export const writtenOffCount = async (db: Handle, customerId: number): Promise<number> =>
  (await notRecovered(db, [customerId])).length

/** Whoever's debts were written off is not given money back before that is looked at. */
export async function writtenOffNames(db: Handle, numbers: readonly string[]): Promise<string[]> {
  const customers = [...(await findCustomers(db, numbers)).values()]
  const left = new Set((await notRecovered(db, [0, ...customers.map(c => c.id)])).map(l => l.customerId))
  return customers.filter(c => left.has(c.id)).map(c => c.name)
}

/** What to look at twice when money comes onto the account of somebody whose debts were written off. */
export async function recoveryWarnings(
  db: Handle,
  currency: string,
  parts: readonly { customer: string; onAccount: number }[],
): Promise<string[]> {
  const onAccount = parts.filter(p => p.onAccount > 0).map(p => p.customer)
  if (!onAccount.length) return []
  const customers = await findCustomers(db, onAccount)
  const left = await notRecovered(db, [0, ...[...customers.values()].map(c => c.id)])
  return [...customers.values()].flatMap(({ id, name }) => {
    const own = left.filter(l => l.customerId === id && l.currency === currency)
    if (!own.length) return []
    const numbers = own.slice(0, 3).map(l => l.of)
    const others = own.length > 3 ? ` and ${own.length - 3} more` : ''
    const sum = amountWords(
      own.reduce((total, l) => total + int(l.left), 0),
      currency,
    )
    return [
      `${numbers.join(', ')}${others} of ${name} ${own.length > 1 ? 'were' : 'was'} written off, ${sum} not come ` +
        'back yet: once this is posted, take it as recovered under Bad debts, Came back',
    ]
  })
}

/** Money on accounts of which something was written off that did not come back yet. */
export async function listRecoverable(database: Handle, q: { customer?: string }): Promise<Recoverable[]> {
  const customerId = q.customer ? (await findCustomer(database, q.customer, {})).id : null
  const left = await notRecovered(database, customerId === null ? null : [customerId])
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
