import { z } from 'zod'
import { cell } from '../../db/rows'
import { Op } from '../../db/where'
import type { IsoDate } from '../../../core/calendar'
import { KINDS, kindList, type Move } from '../../../core/ledger'
import type { HistoryCustomer, HistoryItem, ObservedItem } from '../../../core/reminders'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'

const movesOfRow = z.object({
  id: cell.whole,
  effective: cell.day,
  amount: cell.sum,
})

/** What was taken off items, by day. */
async function movesOf(database: Handle, customerIds: readonly number[]): Promise<Map<number, Move[]>> {
  const rows = await database.rows(
    movesOfRow,
    `SELECT id, effective, SUM(amount) AS amount FROM (
      SELECT a.debit_item_id AS id, a.effective, a.amount FROM allocation a JOIN item i ON i.id = a.debit_item_id
        WHERE i.customer_id IN (:customerIds)
      UNION ALL SELECT a.credit_item_id, a.effective, a.amount FROM allocation a
        JOIN item i ON i.id = a.credit_item_id WHERE i.customer_id IN (:customerIds)) m GROUP BY id, effective`,
    { customerIds },
  )
  const moves = new Map<number, Move[]>()
  for (const { id, effective, amount } of rows)
    moves.set(id, [...(moves.get(id) ?? []), { effective, amount: int(amount) }])
  return moves
}

type Stop = HistoryItem['stopped'][number]

const stopsOfRow = z.object({
  from: cell.day,
  until: cell.day,
  rule: z.enum(['disputed', 'promised', 'paused']),
  customerId: cell.whole,
  itemId: cell.whole.nullable(),
})

const stopsOfDisputeRow = z.object({
  from: cell.day,
  until: cell.day,
  rule: z.enum(['disputed', 'promised', 'paused']),
  itemId: cell.whole,
})

/** When items were paused, disputed or promised, as far as it is known now. */
async function stopsOf(
  database: Handle,
  customerIds: readonly number[],
  today: IsoDate,
): Promise<{ ofItem: Map<number, Stop[]>; ofAccount: Map<number, Stop[]> }> {
  const values = { customerIds, today }
  const [pauses, disputes, promises] = await Promise.all([
    database.rows(
      stopsOfRow,
      `SELECT customer_id AS customerId, item_id AS itemId, DATE(at) AS \`from\`, until_date AS until,
        'paused' AS rule FROM pause WHERE customer_id IN (:customerIds)`,
      values,
    ),
    database.rows(
      stopsOfDisputeRow,
      `SELECT t.item_id AS itemId, d.opened_on AS \`from\`, COALESCE(d.resolved_on, :today) AS until,
        'disputed' AS rule FROM dispute d JOIN dispute_item t ON t.dispute_id = d.id
        JOIN item i ON i.id = t.item_id WHERE d.customer_id IN (:customerIds) AND t.amount >= i.amount`,
      values,
    ),
    database.rows(
      stopsOfDisputeRow,
      `SELECT t.item_id AS itemId, m.made_on AS \`from\`, LEAST(COALESCE(m.withdrawn_on, '9999-12-31'),
        (SELECT MAX(p.date) FROM promise_part p WHERE p.promise_id = m.id)) AS until, 'promised' AS rule
        FROM promise m JOIN promise_item t ON t.promise_id = m.id WHERE m.customer_id IN (:customerIds)`,
      values,
    ),
  ])
  const ofItem = new Map<number, Stop[]>()
  const ofAccount = new Map<number, Stop[]>()
  const put = (map: Map<number, Stop[]>, key: number, { from, until, rule }: Stop) =>
    map.set(key, [...(map.get(key) ?? []), { from, until, rule }])
  for (const p of pauses) put(p.itemId === null ? ofAccount : ofItem, p.itemId ?? p.customerId, p)
  for (const d of [...disputes, ...promises]) put(ofItem, d.itemId, d)
  return { ofItem, ofAccount }
}

/** Customers with the whole history of their items, of some ids. */
export async function customerHistories(
  database: Handle,
  customerIds: readonly number[],
  today: IsoDate,
): Promise<HistoryCustomer[]> {
  if (!customerIds.length) return []
  const [customers, items, moves, stops] = await Promise.all([
    database.find(
      'customer',
      { id: customerIds },
      { columns: ['id', 'number', 'name', 'country', 'language', 'email'], order: ['number'] },
    ),
    database.find(
      'item',
      { customer_id: customerIds, kind: { [Op.notIn]: ['reversal'] } },
      {
        columns: {
          customerId: 'customer_id',
          id: 'id',
          number: 'number',
          part: 'part',
          kind: 'kind',
          side: 'side',
          currency: 'currency',
          amount: 'amount',
          dueDate: 'due_date',
          postedOn: 'posting_date',
        },
        order: ['customer_id', 'due_date', 'id'],
      },
    ),
    movesOf(database, customerIds),
    stopsOf(database, customerIds, today),
  ])
  const byCustomer = new Map<number, HistoryItem[]>()
  for (const { customerId, kind, side, amount, ...row } of items) {
    // Fees and interest were born of the policy of then; a dry-run makes its own.
    if (KINDS[kind].remindable === 'along') continue
    const own = byCustomer.get(customerId) ?? []
    byCustomer.set(customerId, own)
    own.push({
      ...row,
      amount: side === 'debit' ? int(amount) : 0,
      signed: side === 'debit' ? int(amount) : -int(amount),
      moves: moves.get(row.id) ?? [],
      isCharge: false,
      stopped: [...(stops.ofItem.get(row.id) ?? []), ...(stops.ofAccount.get(customerId) ?? [])],
      elsewhere: null,
    })
  }
  return customers.map(({ id, ...c }) => ({ ...c, items: byCustomer.get(id) ?? [] }))
}

/** At most so many items are looked at; of a larger ledger every so many-th customer. */
const MOST_ITEMS = 200_000

const observedItemsRow = z.object({
  n: cell.whole,
})

const observedItemsItemRow = z.object({
  id: cell.whole,
  dueDate: cell.day,
  amount: cell.sum,
})

const observedItemsAllocationRow = z.object({
  id: cell.whole,
  effective: cell.day,
  amount: cell.sum,
})

const observedItemsNoticeItemRow = z.object({
  id: cell.whole,
  level: cell.whole,
  policy: cell.text,
  on: cell.day,
})

/** Claims that were due since a day, with what came and how they were reminded. Base currency. */
export async function observedItems(
  database: Handle,
  since: IsoDate,
): Promise<{ items: ObservedItem[]; every: number }> {
  const causes = kindList(k => k.remindable === 'cause')
  const [count] = await database.rows(
    observedItemsRow,
    `SELECT COUNT(*) AS n FROM item WHERE due_date >= :since AND kind IN (${causes})`,
    { since },
  )
  const every = Math.max(1, Math.ceil(Number(count!.n) / MOST_ITEMS))
  const values = { since, every }
  const of = `i.due_date >= :since AND i.kind IN (${causes}) AND i.customer_id % :every = 0
    AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)`
  const [rows, moves, reminded] = await Promise.all([
    database.rows(
      observedItemsItemRow,
      `SELECT i.id, i.due_date AS dueDate, i.base_amount AS amount FROM item i WHERE ${of} ORDER BY i.id`,
      values,
    ),
    database.rows(
      observedItemsAllocationRow,
      `SELECT a.debit_item_id AS id, a.effective, SUM(a.debit_base) AS amount FROM allocation a
        JOIN item i ON i.id = a.debit_item_id WHERE ${of} GROUP BY a.debit_item_id, a.effective`,
      values,
    ),
    database.rows(
      observedItemsNoticeItemRow,
      `SELECT ni.item_id AS id, ni.level, n.policy, n.on_date AS \`on\` FROM notice_item ni
        JOIN live_notice n ON n.id = ni.notice_id JOIN item i ON i.id = ni.item_id WHERE ${of}`,
      values,
    ),
  ])
  const taken = new Map<number, Move[]>()
  for (const { id, effective, amount } of moves)
    taken.set(id, [...(taken.get(id) ?? []), { effective, amount: int(amount) }])
  const told = new Map<number, { level: number; policy: string; on: IsoDate }[]>()
  for (const { id, ...r } of reminded) told.set(id, [...(told.get(id) ?? []), r])
  const items = rows.map(r => ({
    id: r.id,
    dueDate: r.dueDate,
    amount: int(r.amount),
    moves: taken.get(r.id) ?? [],
    reminded: told.get(r.id) ?? [],
  }))
  return { items, every }
}
