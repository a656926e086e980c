import { z } from 'zod'
import { cell } from '../../db/rows'
import type { IsoDate } from '../../../core/calendar'
import { coveredItems, nextPart, promiseRefusals } from '../../../core/promises'
import { promiseBody, type promises as operations, type PromiseRow } from '../../../contract/promises'
import type { Handle, Values } from '../../db/handle'
import { audit, readSettings, type Settings } from '../../db/settings'
import { command, type By } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { takeLocks } from '../../ledger/locks'
import { findCustomer, idOfCustomer } from '../accounts/customers'
import { openDebits } from '../disputes/openDebits'
import { cut, decodeCursor } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import type { Actor, Scope } from '../people/scope'
import { promiseStands, type StandingPromise } from './stands'

const rowCells = z.object({
  id: cell.whole,
  customerId: cell.whole,
  number: cell.text,
  name: cell.text,
  by: cell.text,
  text: cell.text,
  next: cell.text,
  withdrawnOn: cell.text.nullable(),
  withdrawnBy: cell.text.nullable(),
  withdrawReason: cell.text,
})
type Row = z.output<typeof rowCells>

/** Sorted by the next date that is still to come, of one that ended by its last. */
const PROMISES = `SELECT m.id, m.customer_id AS customerId, c.number, c.name, p.name AS \`by\`, m.text,
    COALESCE((SELECT MIN(t.date) FROM promise_part t WHERE t.promise_id = m.id AND t.state = 'due'),
      (SELECT MAX(t.date) FROM promise_part t WHERE t.promise_id = m.id)) AS next,
    m.withdrawn_on AS withdrawnOn, w.name AS withdrawnBy, m.withdraw_reason AS withdrawReason
  FROM promise m JOIN customer c ON c.id = m.customer_id JOIN person p ON p.id = m.person_id
    LEFT JOIN person w ON w.id = m.withdrawn_by`

/** Rows as they stand at this moment. */
async function shown(database: Handle, settings: Settings, rows: readonly Row[]): Promise<PromiseRow[]> {
  const stands = await promiseStands(database, settings, [...new Set(rows.map(r => r.customerId))])
  const itemIds = rows.flatMap(r => stands.get(r.id)!.promised.items?.map(i => i.itemId) ?? [])
  const numbers = new Map<number, string>()
  if (itemIds.length)
    for (const { id, number } of await database.find('item', { id: itemIds }, { columns: ['id', 'number'] }))
      numbers.set(id, number)
  return rows.map(row => {
    const { promised, stand } = stands.get(row.id)!
    return {
      id: row.id,
      customer: { number: row.number, name: row.name },
      currency: promised.currency,
      madeOn: promised.madeOn,
      by: row.by,
      text: row.text,
      state: stand.state,
      amount: promised.parts.reduce((sum, p) => sum + p.amount, 0),
      paid: stand.paid,
      parts: stand.parts,
      items:
        promised.items?.map(({ itemId, amount }) => ({ id: itemId, number: numbers.get(itemId)!, amount })) ??
        null,
      withdrawn:
        row.withdrawnOn === null
          ? null
          : { on: row.withdrawnOn, by: row.withdrawnBy ?? '', reason: row.withdrawReason },
    }
  })
}

/**
 * Promises, the next date first. They are sorted and filtered by what the worker kept last, and shown as they
 * stand now.
 */
export async function listPromises(
  database: Handle,
  q: z.output<NonNullable<(typeof operations.list)['query']>>,
  scope: Scope,
): Promise<{ items: PromiseRow[]; next: string | null }> {
  const settings = await readSettings(database)
  const values: Values = { salesId: scope.salesId ?? 0, state: q.state }
  const where = ['1 = 1']
  if (scope.salesId) where.push('c.sales_id = :salesId')
  if (q.customer) {
    values.customerId = (await findCustomer(database, q.customer, scope)).id
    where.push('m.customer_id = :customerId')
  }
  if (q.state === 'missed') where.push(`m.state IN ('broken', 'partly')`)
  else if (q.state !== 'all') where.push('m.state = :state')
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastNext, values.lastId] = cursor
  // What is to come comes soonest first, what is over newest first.
  const ahead = q.state === 'open'
  const [way, than] = ahead ? ['ASC', '>'] : ['DESC', '<']
  const after = cursor
    ? `WHERE x.next ${than} :lastNext OR (x.next = :lastNext AND x.id ${than} :lastId)`
    : ''
  const rows = await database.rows(
    rowCells,
    `SELECT * FROM (${PROMISES} WHERE ${where.join(' AND ')}) x ${after}
      ORDER BY x.next ${way}, x.id ${way} LIMIT ${q.limit + 1}`,
    values,
  )
  const page = cut(rows, q.limit, r => [r.next, r.id])
  return { items: await shown(database, settings, page.items), next: page.next }
}

export async function readPromise(database: Handle, id: number, scope: Scope): Promise<PromiseRow> {
  const [row] = await database.rows(
    rowCells,
    `${PROMISES} WHERE m.id = :id ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { id, salesId: scope.salesId ?? 0 },
  )
  if (!row) throw notFound(`promise ${id}`)
  return (await shown(database, await readSettings(database), [row]))[0]!
}

const promiseCommandRow = z.object({
  entry: cell.whole.nullable(),
})

/** A promise is kept as it was said. It posts nothing. */
export const promiseCommand = command({
  name: 'promises.add',
  ability: 'chase.keep',
  input: promiseBody,
  locks: async (db, input) => ({ customers: [await idOfCustomer(db, input.customer)] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const customer = await findCustomer(db, input.customer, {})
    const ledger = await loadState(db, { customerIds: [customer.id] }, settings)
    const open = await openDebits(db, customer.id)
    const [last] = await db.rows(promiseCommandRow, 'SELECT MAX(id) AS entry FROM entry')
    return { customer, ledger, open, lastEntry: last!.entry ?? 0, settings }
  },
  decide: ({ ledger, open }, input) => {
    const refusals = promiseRefusals({ today: ledger.today, open }, input)
    return refusals.length ? { ok: false, refusals } : { ok: true, postings: [], facts: null }
  },
  after: async ({ db, input, state, actor }): Promise<{ id: number }> => {
    const { customer, lastEntry, settings } = state
    const [id] = await db.insert('promise', [
      {
        customer_id: customer.id,
        currency: input.currency,
        made_on: settings.today,
        after_entry: lastEntry,
        for_items: input.items === null ? 0 : 1,
        text: input.text,
        person_id: actor.id,
      },
    ])
    if (input.items !== null)
      await db.insert(
        'promise_item',
        input.items.map(i => ({ promise_id: id!, item_id: i.itemId, amount: i.amount })),
      )
    await db.insert(
      'promise_part',
      input.parts.map(p => ({ promise_id: id!, date: p.date, amount: p.amount, until: p.date })),
    )
    await keepStands(db, settings, [customer.id])
    return { id: id! }
  },
  about: input => input.customer,
})

const withdrawPromiseRow = z.object({
  customerId: cell.whole,
  number: cell.text,
})

/** Takes back a promise that is still open: it was noted by mistake, or agreed anew. */
export async function withdrawPromise(
  database: Handle,
  actor: Actor,
  id: number,
  reason: string,
): Promise<PromiseRow> {
  await database.transaction(async tx => {
    const [row] = await tx.rows(
      withdrawPromiseRow,
      `SELECT m.customer_id AS customerId, c.number FROM promise m JOIN customer c ON c.id = m.customer_id
        WHERE m.id = :id`,
      { id },
    )
    if (!row) throw notFound(`promise ${id}`)
    const settings = await takeLocks(tx, { customers: [row.customerId] })
    const stand = (await promiseStands(tx, settings, [row.customerId])).get(id)!.stand
    if (stand.state !== 'open')
      throw new ProblemError(
        409,
        'Not open',
        `this promise is ${stand.state}: only one that is still open is taken back`,
      )
    await tx.update(
      'promise',
      { withdrawn_on: settings.today, withdrawn_by: actor.id, withdraw_reason: reason, state: 'withdrawn' },
      { id },
    )
    await audit(tx, actor.id, 'promise', row.number, `promise ${id}`, `withdrawn: ${reason}`)
  })
  return readPromise(database, id, {})
}

const keptPartRow = z.object({
  promiseId: cell.whole,
  ofAll: cell.text,
  date: cell.text,
  until: cell.text,
  paid: cell.whole,
  state: cell.text,
})
/** Keeps what became of the promises of some customers, so that lists find them by it; only what changed. */
export async function keepStands(
  db: Handle,
  settings: Settings,
  customerIds: readonly number[],
): Promise<number> {
  if (!customerIds.length) return 0
  const stands = await promiseStands(db, settings, customerIds)
  const kept = await db.rows(
    keptPartRow,
    `SELECT p.promise_id AS promiseId, m.state AS ofAll, p.date, p.until, p.paid, p.state FROM promise_part p
      JOIN promise m ON m.id = p.promise_id WHERE m.customer_id IN (:customerIds)`,
    { customerIds },
  )
  const changed = new Set<number>()
  for (const { promiseId, ofAll, ...was } of kept) {
    const { stand } = stands.get(promiseId)!
    if (stand.state !== ofAll && !changed.has(promiseId)) {
      await db.update('promise', { state: stand.state }, { id: promiseId })
      changed.add(promiseId)
    }
    const { until, paid, state } = stand.parts.find(p => p.date === was.date)!
    if (until === was.until && paid === was.paid && state === was.state) continue
    await db.update('promise_part', { until, paid, state }, { promise_id: promiseId, date: was.date })
  }
  return changed.size
}

/** Promises that money may still change: open ones, and those that ended in the last months. */
const UNSETTLED_DAYS = 90
/** So many customers are looked at in one go. */
const CHUNK = 500
const EVERY_MS = 5_000

const promiseKeeperRow = z.object({
  entry: cell.whole.nullable(),
  promise: cell.whole.nullable(),
})

const promiseKeeperPromiseRow = z.object({
  id: cell.whole,
})

/** Keeps up what became of promises whenever something was posted, promised, or the day changed. */
export function promiseKeeper(database: Handle): () => Promise<void> {
  let looked = 0
  let seen = ''
  return async () => {
    if (Date.now() - looked < EVERY_MS) return
    looked = Date.now()
    const settings = await readSettings(database)
    const [row] = await database.rows(
      promiseKeeperRow,
      'SELECT (SELECT MAX(id) FROM entry) AS entry, (SELECT MAX(id) FROM promise) AS promise',
    )
    const now = JSON.stringify([row, settings.today, settings.promiseGraceDays])
    if (now === seen) return
    const customers = await database.rows(
      promiseKeeperPromiseRow,
      `SELECT DISTINCT m.customer_id AS id FROM promise m WHERE m.state = 'open' OR EXISTS
        (SELECT 1 FROM promise_part p WHERE p.promise_id = m.id AND p.until >= :today - INTERVAL ${UNSETTLED_DAYS} DAY)`,
      { today: settings.today },
    )
    for (let at = 0; at < customers.length; at += CHUNK)
      await keepStands(
        database,
        settings,
        customers.slice(at, at + CHUNK).map(c => c.id),
      )
    seen = now
  }
}

/** Open promises of some customers, as they stand now. */
export async function openPromises(
  db: Handle,
  settings: Settings,
  customerIds: readonly number[],
): Promise<StandingPromise[]> {
  if (!customerIds.length) return []
  const rows = await db.find(
    'promise',
    { customer_id: customerIds },
    { columns: { id: 'customer_id' }, distinct: true },
  )
  const stands = await promiseStands(
    db,
    settings,
    rows.map(r => r.id),
  )
  return [...stands.values()].filter(s => s.stand.state === 'open')
}

/** Of items of one account the open promise that speaks of each, and when its next money is due. */
export async function promisesOfItems(
  db: Handle,
  settings: Settings,
  customerId: number,
  open: readonly { itemId: number; currency: string; open: number; dueDate: IsoDate }[],
): Promise<Map<number, { id: number; date: IsoDate }>> {
  const byItem = new Map<number, { id: number; date: IsoDate }>()
  for (const { promised, stand } of await openPromises(db, settings, [customerId])) {
    const told = { id: promised.id, date: nextPart(stand)!.date }
    for (const itemId of coveredItems(promised, stand, open)) byItem.set(itemId, told)
  }
  return byItem
}
