import { z } from 'zod'
import { cell } from '../../db/rows'
import { kindList } from '../../../core/ledger'
import {
  standOfPromises,
  type Credited,
  type Payment,
  type Promised,
  type PromiseStand,
} from '../../../core/promises'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'

const MONEY = kindList(k => k.money)

export interface KeptPromise {
  customerId: number
  promised: Promised
}

const promisesOfRow = z.object({
  promiseId: cell.whole,
  date: cell.text,
  amount: cell.whole,
})

const promisesOfPromiseItemRow = z.object({
  promiseId: cell.whole,
  itemId: cell.whole,
  amount: cell.whole,
})

/** Promises of some customers, as they were given. */
export async function promisesOf(
  db: Handle,
  customerIds: readonly number[],
): Promise<Map<number, KeptPromise>> {
  if (!customerIds.length) return new Map()
  const ids = { ids: customerIds }
  const rows = await db.find(
    'promise',
    { customer_id: ids.ids },
    {
      columns: {
        id: 'id',
        customerId: 'customer_id',
        currency: 'currency',
        madeOn: 'made_on',
        afterEntry: 'after_entry',
        forItems: 'for_items',
        withdrawnOn: 'withdrawn_on',
      },
      order: ['id'],
    },
  )
  const promises = new Map<
    number,
    KeptPromise & { promised: Promised & { parts: Promised['parts'][number][] } }
  >()
  for (const { customerId, forItems, ...row } of rows)
    promises.set(row.id, {
      customerId,
      promised: { ...row, items: forItems === 1 ? [] : null, parts: [] },
    })
  const parts = await db.rows(
    promisesOfRow,
    `SELECT p.promise_id AS promiseId, p.date, p.amount FROM promise_part p JOIN promise m ON m.id = p.promise_id
      WHERE m.customer_id IN (:ids) ORDER BY p.promise_id, p.date`,
    ids,
  )
  for (const { promiseId, ...part } of parts) promises.get(promiseId)!.promised.parts.push(part)
  const items = await db.rows(
    promisesOfPromiseItemRow,
    `SELECT p.promise_id AS promiseId, p.item_id AS itemId, p.amount FROM promise_item p
      JOIN promise m ON m.id = p.promise_id WHERE m.customer_id IN (:ids) ORDER BY p.promise_id, p.item_id`,
    ids,
  )
  for (const { promiseId, ...item } of items) {
    const { promised } = promises.get(promiseId)!
    promised.items = [...(promised.items ?? []), item]
  }
  return promises
}

const paymentsOfRow = z.object({
  id: cell.whole,
  customerId: cell.whole,
  currency: cell.text,
  amount: cell.whole,
  date: cell.text,
  entry: cell.whole,
})

const paymentsOfAllocationRow = z.object({
  id: cell.whole,
  itemId: cell.whole,
  amount: cell.sum,
})

/** Money that customers paid by entries after one, with what it went to. What was taken back is left out. */
async function paymentsOf(
  db: Handle,
  customerIds: readonly number[],
  afterEntry: number,
): Promise<Map<number, Payment[]>> {
  const values = { ids: customerIds, afterEntry }
  const rows = await db.rows(
    paymentsOfRow,
    `SELECT i.id, i.customer_id AS customerId, i.entry_id AS entry, i.document_date AS date, i.currency, i.amount
      FROM item i WHERE i.customer_id IN (:ids) AND i.entry_id > :afterEntry AND i.kind IN (${MONEY})
      AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)`,
    values,
  )
  const links = await db.rows(
    paymentsOfAllocationRow,
    `SELECT a.credit_item_id AS id, a.debit_item_id AS itemId, SUM(a.amount) AS amount FROM allocation a
      JOIN item i ON i.id = a.credit_item_id WHERE a.customer_id IN (:ids) AND i.entry_id > :afterEntry
      AND i.kind IN (${MONEY}) GROUP BY a.credit_item_id, a.debit_item_id HAVING SUM(a.amount) <> 0`,
    values,
  )
  const to = new Map<number, { itemId: number; amount: number }[]>()
  for (const { id, itemId, amount } of links)
    to.set(id, [...(to.get(id) ?? []), { itemId, amount: Number(amount) }])
  const byCustomer = new Map<number, Payment[]>()
  for (const { id, customerId, ...payment } of rows)
    byCustomer.set(customerId, [...(byCustomer.get(customerId) ?? []), { ...payment, to: to.get(id) ?? [] }])
  return byCustomer
}

const creditedOfRow = z.object({
  entry: cell.whole,
  itemId: cell.whole,
  moneyOf: cell.whole.nullable(),
  customerId: cell.whole,
  amount: cell.whole,
})

/** What was taken off promised items since an entry otherwise than by money that came since. */
async function creditedOf(
  db: Handle,
  customerIds: readonly number[],
  afterEntry: number,
): Promise<Map<number, Credited[]>> {
  const rows = await db.rows(
    creditedOfRow,
    `SELECT a.customer_id AS customerId, a.entry_id AS entry, a.debit_item_id AS itemId, a.amount,
      IF(c.kind IN (${MONEY}), c.entry_id, NULL) AS moneyOf FROM allocation a
      JOIN item c ON c.id = a.credit_item_id JOIN promise_item p ON p.item_id = a.debit_item_id
      JOIN promise m ON m.id = p.promise_id AND m.customer_id = a.customer_id
      WHERE a.customer_id IN (:ids) AND a.entry_id > :afterEntry GROUP BY a.id`,
    { ids: customerIds, afterEntry },
  )
  const byCustomer = new Map<number, Credited[]>()
  for (const { customerId, ...row } of rows)
    byCustomer.set(customerId, [...(byCustomer.get(customerId) ?? []), row])
  return byCustomer
}

export interface StandingPromise extends KeptPromise {
  stand: PromiseStand
}

/** How promises of some customers stand at this moment, by id. */
export async function promiseStands(
  db: Handle,
  settings: Settings,
  customerIds: readonly number[],
): Promise<Map<number, StandingPromise>> {
  const promises = await promisesOf(db, customerIds)
  const stands = new Map<number, StandingPromise>()
  if (!promises.size) return stands
  const ids = [...new Set([...promises.values()].map(p => p.customerId))]
  const afterEntry = Math.min(...[...promises.values()].map(p => p.promised.afterEntry))
  const [payments, credited] = await Promise.all([
    paymentsOf(db, ids, afterEntry),
    creditedOf(db, ids, afterEntry),
  ])
  for (const customerId of ids) {
    const own = [...promises.values()].filter(p => p.customerId === customerId)
    const standing = standOfPromises(
      own.map(p => p.promised),
      payments.get(customerId) ?? [],
      credited.get(customerId) ?? [],
      settings.today,
      settings.promiseGraceDays,
    )
    for (const { promised } of own)
      stands.set(promised.id, { customerId, promised, stand: standing.get(promised.id)! })
  }
  return stands
}
