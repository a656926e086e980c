import { z } from 'zod'
import { addBankWorkingDays, addDays } from '../../../core/calendar'
import {
  AUTHORISED_DAYS,
  B2B_RETURN_DAYS,
  COLLECTION_STATES,
  finalAfter,
  type CollectionRule,
  type CollectionState,
} from '../../../core/collections'
import { actionFor, reasonLabel, type ReturnAction } from '../../../core/payments'
import type {
  CollectionLeftOutRow,
  CollectionRow,
  CollectionRun,
  collections as operations,
} from '../../../contract/collections'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { findCustomer } from '../accounts/customers'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound } from '../common/problems'
import { RUN } from './runs'
import { sendBy } from '../../../core/collections'

const cells = z.object({
  id: cell.whole,
  number: cell.text.nullable(),
  customerNumber: cell.text,
  customerName: cell.text,
  mandateId: cell.whole,
  reference: cell.text,
  scheme: z.enum(['CORE', 'B2B']),
  iban: cell.text,
  sequence: cell.text,
  amount: cell.whole,
  collectOn: cell.day,
  why: cell.text,
  credits: cell.text,
  state: z.enum(['proposed', 'announced', 'sent', 'collected', 'returned', 'refused', 'dropped']),
  fileId: cell.whole.nullable(),
  fileNumber: cell.text.nullable(),
  fileState: cell.text.nullable(),
  letterId: cell.whole.nullable(),
  receiptId: cell.whole.nullable(),
  receiptNumber: cell.text.nullable(),
  backCode: cell.text,
  backOn: cell.day.nullable(),
  backWhy: cell.text,
  backDone: cell.text,
  times: cell.whole,
})
type Cells = z.output<typeof cells>

const COLLECTION = `SELECT k.id, k.number, c.number AS customerNumber, c.name AS customerName, m.id AS mandateId,
    m.reference, m.scheme, m.iban, k.sequence, k.amount, k.collect_on AS collectOn, k.why, k.credits, k.state,
    f.id AS fileId, f.number AS fileNumber, f.state AS fileState, k.letter_id AS letterId,
    k.receipt_item_id AS receiptId, i.number AS receiptNumber, k.back_code AS backCode, k.back_on AS backOn,
    k.back_why AS backWhy, k.back_done AS backDone,
    k.times
  FROM collection k JOIN customer c ON c.id = k.customer_id JOIN mandate m ON m.id = k.mandate_id
    LEFT JOIN payment_file f ON f.id = k.file_id LEFT JOIN item i ON i.id = k.receipt_item_id`

function toldOf(r: Cells): string {
  if (r.state === 'proposed') return 'proposed'
  if (r.state === 'announced')
    return r.fileNumber === null ? 'the customer was told' : `in the file ${r.fileNumber}, not sent yet`
  if (r.state === 'sent') return `in ${r.fileNumber} with the bank, for ${r.collectOn}`
  if (r.state === 'collected') return `collected as ${r.receiptNumber}`
  if (r.state === 'dropped') return `dropped: ${r.backWhy}`
  return `${COLLECTION_STATES[r.state].toLowerCase()} on ${r.backOn}: ${reasonLabel(r.backCode).toLowerCase()}`
}

const itemsOfRow = z.object({
  id: cell.whole,
  number: cell.text,
  dueDate: cell.text,
  amount: cell.whole,
  discount: cell.whole,
  collectionId: cell.whole,
})

async function itemsOf(
  database: Handle,
  ids: readonly number[],
): Promise<Map<number, CollectionRow['items']>> {
  const byCollection = new Map<number, CollectionRow['items']>()
  if (!ids.length) return byCollection
  const rows = await database.rows(
    itemsOfRow,
    `SELECT t.collection_id AS collectionId, i.id, i.number, i.due_date AS dueDate, t.amount, t.discount
      FROM collection_item t JOIN item i ON i.id = t.item_id WHERE t.collection_id IN (:ids)
      ORDER BY i.due_date, i.id`,
    { ids },
  )
  for (const { collectionId, ...item } of rows)
    byCollection.set(collectionId, [...(byCollection.get(collectionId) ?? []), item])
  return byCollection
}

async function shown(database: Handle, rows: readonly Cells[]): Promise<CollectionRow[]> {
  const { paymentPolicy } = await readSettings(database)
  const items = await itemsOf(
    database,
    rows.map(r => r.id),
  )
  return rows.map(r => {
    const own = items.get(r.id) ?? []
    const numberOf = new Map(own.map(i => [i.id, i.number]))
    const credits = JSON.parse(r.credits) as { number: string; debitItemId: number; amount: number }[]
    return {
      id: r.id,
      number: r.number,
      customer: { number: r.customerNumber, name: r.customerName },
      mandate: { id: r.mandateId, reference: r.reference, scheme: r.scheme, iban: r.iban },
      sequence: r.sequence,
      amount: r.amount,
      collectOn: r.collectOn,
      why: r.why,
      state: r.state as CollectionState | 'proposed',
      told: toldOf(r),
      items: own,
      credits: credits.map(c => ({
        number: c.number,
        item: numberOf.get(c.debitItemId) ?? '',
        amount: c.amount,
      })),
      file: r.fileId === null ? null : { id: r.fileId, number: r.fileNumber! },
      notice: r.letterId,
      receipt: r.receiptId === null ? null : { id: r.receiptId, number: r.receiptNumber! },
      finalAfter: finalAfter(r.collectOn, r.scheme),
      back:
        r.backOn === null
          ? null
          : {
              code: r.backCode,
              label: reasonLabel(r.backCode),
              on: r.backOn,
              action: actionFor(r.backCode, paymentPolicy.returnActions),
              done: r.backDone as ReturnAction | '',
              again: int(r.times),
            },
    }
  })
}

export async function readCollection(database: Handle, id: number): Promise<CollectionRow> {
  const rows = await database.rows(cells, `${COLLECTION} WHERE k.id = :id`, { id })
  if (!rows.length) throw notFound(`collection ${id}`)
  return (await shown(database, rows))[0]!
}

const searched = (values: Values, search: string | undefined): string[] => {
  if (!search) return []
  values.search = like(search)
  return [
    `(k.number LIKE :search OR c.name LIKE :search OR c.number LIKE :search OR m.reference LIKE :search
      OR EXISTS (SELECT 1 FROM collection_item t JOIN item x ON x.id = t.item_id WHERE t.collection_id = k.id
        AND x.number LIKE :search))`,
  ]
}

type RowsQuery = { search?: string; limit: number; cursor?: string }

/** What a run collects, by customer. */
export async function listRunRows(database: Handle, runId: number, q: RowsQuery) {
  const values: Values = { runId }
  const where = ['k.run_id = :runId', ...searched(values, q.search)]
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) {
    ;[values.lastName, values.lastId] = cursor
    where.push('(c.name > :lastName OR (c.name = :lastName AND k.id > :lastId))')
  }
  const rows = await database.rows(
    cells,
    `${COLLECTION} WHERE ${where.join(' AND ')} ORDER BY c.name, k.id LIMIT ${q.limit + 1}`,
    values,
  )
  const page = cut(rows, q.limit, r => [r.customerName, r.id])
  return { items: await shown(database, page.items), next: page.next }
}

const listLeftOutRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  item: cell.text.nullable(),
  amount: cell.whole,
  rule: cell.word<CollectionRule>(),
  reason: cell.text,
})

export async function listLeftOut(database: Handle, runId: number, q: RowsQuery) {
  const values: Values = { runId }
  const where = ['l.run_id = :runId']
  if (q.search) {
    values.search = like(q.search)
    where.push(
      '(c.name LIKE :search OR c.number LIKE :search OR l.item LIKE :search OR l.reason LIKE :search)',
    )
  }
  const cursor = decodeCursor(q.cursor, 1)
  if (cursor) {
    values.lastId = cursor[0]
    where.push('l.id > :lastId')
  }
  const rows = await database.rows(
    listLeftOutRow,
    `SELECT l.id, c.number, c.name, l.item, l.amount, l.rule, l.reason FROM collection_left_out l
      JOIN customer c ON c.id = l.customer_id WHERE ${where.join(' AND ')} ORDER BY l.id LIMIT ${q.limit + 1}`,
    values,
  )
  const page = cut(rows, q.limit, r => [r.id])
  return {
    items: page.items.map(({ number, name, item, amount, rule, reason }): CollectionLeftOutRow => ({
      customer: { number, name },
      item,
      amount,
      rule,
      reason,
    })),
    next: page.next,
  }
}

/** In SQL, of a collection `k` and its mandate `m`: collected, and the money may still come back. */
export const NOT_FINAL = `k.state = 'collected' AND ((m.scheme = 'CORE' AND k.collect_on >= :coreSince)
  OR (m.scheme = 'B2B' AND k.collect_on >= :b2bSince))`

/** Money collected from these days on may still come back without a reason. */
export const notFinalSince = (today: string) => ({
  coreSince: addDays(today, -AUTHORISED_DAYS),
  b2bSince: addBankWorkingDays(today, -B2B_RETURN_DAYS),
})

const ONLY = {
  all: `k.state <> 'proposed'`,
  'on-its-way': `k.state IN ('announced', 'sent')`,
  back: `k.state IN ('returned', 'refused') AND k.back_done = ''`,
  'not-final': NOT_FINAL,
} as const

/** Collections of all runs, the newest first. */
export async function listCollections(
  database: Handle,
  q: z.output<NonNullable<(typeof operations.list)['query']>>,
) {
  const { today } = await readSettings(database)
  const values: Values = { ...notFinalSince(today) }
  const where: string[] = [ONLY[q.only], ...searched(values, q.search)]
  if (q.customer) {
    values.customerId = (await findCustomer(database, q.customer, {})).id
    where.push('k.customer_id = :customerId')
  }
  const all = where.join(' AND ')
  const cursor = decodeCursor(q.cursor, 1)
  if (cursor) values.lastId = cursor[0]
  const [rows, [total]] = await Promise.all([
    database.rows(
      cells,
      `${COLLECTION} WHERE ${all} ${cursor ? 'AND k.id < :lastId' : ''} ORDER BY k.id DESC LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      z.object({ count: cell.sum, amount: cell.sum }),
      `SELECT COUNT(*) AS count, SUM(x.amount) AS amount FROM (${COLLECTION} WHERE ${all}) x`,
      values,
    ),
  ])
  const page = cut(rows, q.limit, r => [r.id])
  return {
    items: await shown(database, page.items),
    totals: { count: int(total!.count), amount: int(total!.amount ?? 0) },
    next: page.next,
  }
}

const listCells = z.object({
  id: cell.whole,
  version: cell.whole,
  collectOn: cell.day,
  dueBy: cell.day,
  madeOn: cell.day,
  scheme: z.enum(['CORE', 'B2B', '']),
  againOf: cell.text,
  account: cell.text,
  state: z.enum(['proposed', 'confirmed', 'discarded']),
  by: cell.text,
  confirmedBy: cell.text.nullable(),
  job: cell.whole.nullable(),
  collections: cell.sum,
  amount: cell.sum,
})

export async function listRuns(database: Handle, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 1)
  const rows = await database.rows(
    listCells,
    `SELECT x.id, x.version, x.collectOn, x.dueBy, x.madeOn, x.scheme, x.againOf, x.account, x.state, x.by,
      x.confirmedBy, x.job, COUNT(k.id) AS collections, COALESCE(SUM(k.amount), 0) AS amount
      FROM (${RUN} ${cursor ? 'WHERE r.id < :lastId' : ''} ORDER BY r.id DESC LIMIT ${q.limit + 1}) x
      LEFT JOIN collection k ON k.run_id = x.id AND k.state NOT IN ('dropped', 'refused')
      GROUP BY x.id ORDER BY x.id DESC`,
    { lastId: cursor?.[0] },
  )
  const page = cut(rows, q.limit, r => [r.id])
  return {
    items: page.items.map(
      ({
        againOf,
        collections,
        amount,
        ...r
      }): Omit<CollectionRun, 'totals' | 'files'> & { collections: number; amount: number } => ({
        ...r,
        again: againOf !== '[]',
        sendBy: sendBy(r.collectOn),
        collections: int(collections),
        amount: int(amount),
      }),
    ),
    next: page.next,
  }
}
