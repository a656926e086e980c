import { Op } from '../../db/where'
import { z } from 'zod'
import type { IsoDate } from '../../../core/calendar'
import { ITEM_KINDS, KINDS, kindList, type Move } from '../../../core/ledger'
import { toMajor } from '../../../core/money'
import { coveredItems, nextPart } from '../../../core/promises'
import type { ReminderCustomer, ReminderItem } from '../../../core/reminders'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { Settings } from '../../db/settings'
import { collectionsOnTheirWay } from '../collections/onTheirWay'
import { withFactors } from '../factoring/atFactor'
import { disputesOfCustomers, type ItemDispute } from '../disputes/live'
import { openPromises } from '../promises/promises'

/** A customer as a run looks at it, with what its letter needs. */
export interface Reminded extends ReminderCustomer {
  id: number
  contact: string
  street: string
  postcode: string
  city: string
}

export interface FactsAsk {
  asOf: IsoDate
  /** Also what was taken off by day, and what interest was charged before. */
  withInterest: boolean
  /** Also items that were paid late on this day or later; null: only what is open. */
  paidSince: IsoDate | null
}

const customerRow = z.object({
  id: cell.whole,
  number: cell.text,
  name: cell.text,
  email: cell.text,
  contact: cell.text,
  street: cell.text,
  postcode: cell.text,
  city: cell.text,
  country: cell.text,
  language: cell.text,
})

/** The contact for reminders comes before the main address. */
const CUSTOMERS = `SELECT c.id, c.number, c.name, c.contact, c.street, c.postcode, c.city, c.country, c.language,
    COALESCE((SELECT t.email FROM contact t WHERE t.customer_id = c.id AND t.reminders = 1 AND t.email <> ''
      ORDER BY t.id LIMIT 1), c.email) AS email
  FROM customer c WHERE c.id IN (:ids) ORDER BY c.number`

const itemRow = z.object({
  customerId: cell.whole,
  id: cell.whole,
  number: cell.text,
  part: cell.whole,
  kind: z.enum(ITEM_KINDS),
  currency: cell.text,
  dueDate: cell.day,
  open: cell.sum,
  baseOpen: cell.sum,
  amount: cell.sum,
})

const ITEM = `i.id, i.number, i.part, i.kind, i.currency, i.due_date AS dueDate`
/** What is open now of what was there on the day: what was paid since is not reminded of. */
const OPEN = `SELECT o.customer_id AS customerId, ${ITEM}, o.open, o.base_open AS baseOpen, i.amount
  FROM open_item o JOIN item i ON i.id = o.item_id WHERE o.customer_id IN (:ids) AND o.posting_date <= :asOf`
/** Claims that were paid after they were due, since a day. */
const PAID_LATE = `SELECT i.customer_id AS customerId, ${ITEM}, 0 AS open, 0 AS baseOpen, i.amount FROM item i
  JOIN (SELECT debit_item_id AS id, MAX(effective) AS day FROM allocation a WHERE a.effective >= :paidSince
    AND a.effective <= :asOf GROUP BY debit_item_id) p ON p.id = i.id
  LEFT JOIN open_item o ON o.item_id = i.id
  WHERE i.customer_id IN (:ids) AND o.item_id IS NULL AND p.day > i.due_date AND i.kind IN (${kindList(
    k => k.remindable === 'cause',
  )}) AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)`
const IN_ORDER = 'ORDER BY customerId, dueDate, id'

const reachedRow = z.object({
  itemId: cell.whole,
  level: cell.whole,
  noticeDate: cell.day,
  deadline: cell.day,
})
/** Levels follow from the notices that count: one that was withdrawn is none. */
const REACHED = `SELECT ni.item_id AS itemId, MAX(ni.level) AS level, MAX(n.on_date) AS noticeDate,
    MAX(n.deadline) AS deadline FROM live_notice n JOIN notice_item ni ON ni.notice_id = n.id
  WHERE n.customer_id IN (:ids) GROUP BY ni.item_id`

/*
 * By the customers of what is open, and by id only for the few that were paid late: a list of thousands of
 * ids costs more than a join.
 */
const OPEN_OF = 'FROM open_item o JOIN'

/** The last day interest was charged for, by documents that were not reversed. */
const LAST_DAY = 'l.item_id AS itemId, MAX(l.to_date) AS day'
const STANDS = `NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = l.document_item_id)`
const CHARGED = `SELECT ${LAST_DAY} ${OPEN_OF} interest_line l ON l.item_id = o.item_id
  WHERE o.customer_id IN (:ids) AND ${STANDS} GROUP BY l.item_id`
const CHARGED_OF_PAID = `SELECT ${LAST_DAY} FROM interest_line l WHERE l.item_id IN (:paidIds) AND ${STANDS}
  GROUP BY l.item_id`

const MOVES = `SELECT a.debit_item_id AS itemId, a.effective, SUM(a.amount) AS amount
  ${OPEN_OF} allocation a ON a.debit_item_id = o.item_id
  WHERE o.customer_id IN (:ids) GROUP BY a.debit_item_id, a.effective`
const MOVES_OF_PAID = `SELECT debit_item_id AS itemId, effective, SUM(amount) AS amount FROM allocation
  WHERE debit_item_id IN (:paidIds) GROUP BY debit_item_id, effective`

interface PauseRow {
  customerId: number
  itemId: number | null
  reason: string
  until: string
}

/** All that a run needs to know of some customers, in the order of their numbers. */
export async function reminderFacts(
  database: Handle,
  settings: Settings,
  ids: readonly number[],
  ask: FactsAsk,
): Promise<Reminded[]> {
  if (!ids.length) return []
  const { asOf, withInterest, paidSince } = ask
  const values = { ids, asOf, paidSince: paidSince ?? asOf }
  const [customers, open, paid, reached, pauses, handed] = await Promise.all([
    database.rows(customerRow, CUSTOMERS, values),
    database.rows(itemRow, `${OPEN} ${IN_ORDER}`, values),
    paidSince === null ? [] : database.rows(itemRow, `${PAID_LATE} ${IN_ORDER}`, values),
    database.rows(reachedRow, REACHED, values),
    database.find(
      'pause',
      { customer_id: values.ids, ended: 0, until_date: { [Op.gte]: values.asOf } },
      {
        columns: { customerId: 'customer_id', itemId: 'item_id', reason: 'reason', until: 'until_date' },
        order: [['until_date', 'DESC'], 'id'],
      },
    ),
    database.find(
      'handover',
      { customer_id: values.ids, ended_on: null },
      { columns: { customerId: 'customer_id', to: 'agency', on: 'on_date' }, order: ['id'] },
    ),
  ])
  const rows = [...open, ...paid]
  const of = { ids, paidIds: [0, ...paid.map(p => p.id)] }
  const [disputes, promised, collected, factored, moves, charged] = await Promise.all([
    disputesOfCustomers(database, ids),
    promisedItems(database, settings, ids, open),
    collectionsOnTheirWay(database, ids),
    withFactors(database, ids),
    withInterest ? movesOf(database, of) : new Map<number, Move[]>(),
    withInterest ? chargedThrough(database, of) : new Map<number, IsoDate>(),
  ])
  const levels = new Map(reached.map(r => [r.itemId, r]))
  const ofItem = new Map(pauses.filter(p => p.itemId !== null).map(p => [p.itemId!, p]))
  const ofAccount = new Map(pauses.filter(p => p.itemId === null).map(p => [p.customerId, p]))
  const handedOver = new Map(handed.map(h => [h.customerId, { to: h.to, on: h.on }]))
  const stop = (p: PauseRow | undefined) => (p ? { reason: p.reason, until: p.until } : null)
  const items = new Map<number, ReminderItem[]>()
  for (const row of rows) {
    const { customerId, kind } = row
    const level = levels.get(row.id)
    const own = items.get(customerId) ?? []
    items.set(customerId, own)
    // Named one by one: a rest of an object costs more than all else here.
    own.push({
      id: row.id,
      number: row.number,
      part: row.part,
      currency: row.currency,
      dueDate: row.dueDate,
      open: int(row.open),
      baseOpen: int(row.baseOpen),
      amount: KINDS[kind].side === 'credit' ? 0 : int(row.amount),
      moves: moves.get(row.id) ?? [],
      chargedThrough: charged.get(row.id) ?? null,
      level: level ? int(level.level) : 0,
      noticeDate: level?.noticeDate ?? null,
      deadline: level?.deadline ?? null,
      isCharge: KINDS[kind].remindable === 'along',
      pause: stop(ofItem.get(row.id)),
      disputed: disputeOf(disputes.get(row.id)),
      promised: promised.get(row.id) ?? null,
      elsewhere: elsewhereOf(factored.get(row.id), collected.get(row.id)),
    })
  }
  return customers.map(c => ({
    ...c,
    pause: stop(ofAccount.get(c.id)),
    handedOver: handedOver.get(c.id) ?? null,
    items: items.get(c.id) ?? [],
  }))
}

function elsewhereOf(
  factor: string | undefined,
  collection: { number: string; on: IsoDate } | undefined,
): ReminderItem['elsewhere'] {
  if (factor !== undefined) return { rule: 'factored', reason: `${factor} collects it` }
  return collection
    ? { rule: 'collection', reason: `direct debit ${collection.number} collects it on ${collection.on}` }
    : null
}

/** A dispute as the core wants it: why, and how much of the item it is about. */
const disputeOf = (dispute: ItemDispute | undefined) =>
  dispute ? { reason: dispute.label.toLowerCase(), amount: dispute.amount } : null

interface OfItems {
  ids: readonly number[]
  paidIds: readonly number[]
}

async function movesOf(database: Handle, of: OfItems): Promise<Map<number, Move[]>> {
  const rowCells = z.object({
    itemId: cell.whole,
    effective: cell.day,
    amount: cell.sum,
  })
  const [open, paid] = await Promise.all([
    database.rows(rowCells, MOVES, { ...of }),
    of.paidIds.length > 1 ? database.rows(rowCells, MOVES_OF_PAID, { ...of }) : [],
  ])
  const moves = new Map<number, Move[]>()
  for (const { itemId, effective, amount } of [...open, ...paid]) {
    const own = moves.get(itemId)
    const move = { effective, amount: int(amount) }
    if (own) own.push(move)
    else moves.set(itemId, [move])
  }
  return moves
}

const chargedThroughRow = z.object({
  itemId: cell.whole,
  day: cell.day,
})

async function chargedThrough(database: Handle, of: OfItems): Promise<Map<number, IsoDate>> {
  const [open, paid] = await Promise.all([
    database.rows(chargedThroughRow, CHARGED, { ...of }),
    of.paidIds.length > 1 ? database.rows(chargedThroughRow, CHARGED_OF_PAID, { ...of }) : [],
  ])
  return new Map([...open, ...paid].map(r => [r.itemId, r.day]))
}

/** Items that open promises speak of, with what is promised in words. */
export async function promisedItems(
  database: Handle,
  settings: Settings,
  ids: readonly number[],
  rows: readonly { id: number; customerId: number; currency: string; open: unknown; dueDate: string }[],
): Promise<Map<number, string>> {
  const words = new Map<number, string>()
  const promises = await openPromises(database, settings, ids)
  const promising = new Set(promises.map(p => p.customerId))
  const byCustomer = new Map<number, { itemId: number; currency: string; open: number; dueDate: string }[]>()
  for (const { id, customerId, currency, open, dueDate } of rows) {
    if (!promising.has(customerId)) continue
    const own = byCustomer.get(customerId) ?? []
    byCustomer.set(customerId, own)
    own.push({ itemId: id, currency, open: int(open), dueDate })
  }
  for (const promise of promises) {
    const open = byCustomer.get(promise.customerId) ?? []
    const next = nextPart(promise.stand)!
    const { currency } = promise.promised
    for (const itemId of coveredItems(promise.promised, promise.stand, open))
      words.set(itemId, `${toMajor(next.amount - next.paid, currency)} ${currency} promised for ${next.date}`)
  }
  return words
}
