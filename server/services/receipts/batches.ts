import { plus } from '../../db/where'
import { z } from 'zod'
import { decideInTurn } from '../../../core/receipts'
import type { batchBody, BatchDetail, BatchRow } from '../../../contract/receipts/batches'
import { receiptBody, type ReceiptBody } from '../../../contract/receipts'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { codeOf } from '../../db/retry'
import { audit, readSettings } from '../../db/settings'
import { LedgerRefused } from '../../ledger/command'
import { once, type Idempotency } from '../../ledger/idempotency'
import { loadState } from '../../ledger/load'
import { takeLocks } from '../../ledger/locks'
import { requireAbility } from '../../ledger/rights'
import { registerPdf } from '../../letters/register'
import { findCustomer } from '../accounts/customers'
import { cut, decodeCursor } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { lateDiscountNeeds } from './commands'

const batchCells = z.object({
  id: cell.whole,
  number: cell.text.nullable(),
  state: z.enum(['open', 'closed']),
  currency: cell.text,
  date: cell.day,
  text: cell.text,
  controlTotal: cell.whole.nullable(),
  controlCount: cell.whole.nullable(),
  total: cell.sum,
  count: cell.sum,
  by: cell.text,
  personId: cell.whole,
  at: cell.instant,
  closedAt: cell.instant.nullable(),
  version: cell.whole,
})
export type Row = z.output<typeof batchCells>

const BATCH = `SELECT b.id, b.number, b.state, b.currency, b.date, b.text, b.control_total AS controlTotal,
  b.control_count AS controlCount, b.person_id AS personId, p.name AS \`by\`, b.at, b.closed_at AS closedAt,
  b.version, (SELECT SUM(r.amount) FROM batch_receipt r WHERE r.batch_id = b.id) AS total,
  (SELECT COUNT(*) FROM batch_receipt r WHERE r.batch_id = b.id) AS count
  FROM batch b JOIN person p ON p.id = b.person_id`

function shown({ personId, ...r }: Row, actor: Actor): BatchRow {
  const [total, count] = [int(r.total), int(r.count)]
  return {
    ...r,
    total,
    count,
    toGo: r.controlTotal === null ? null : r.controlTotal - total,
    countToGo: r.controlCount === null ? null : r.controlCount - count,
    mine: personId === actor.id,
  }
}

export async function rowOf(db: Handle, id: number): Promise<Row> {
  const [row] = await db.rows(batchCells, `${BATCH} WHERE b.id = :id`, { id })
  if (!row) throw notFound(`batch ${id}`)
  return row
}

export async function listBatches(database: Handle, actor: Actor, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 2)
  const after = cursor ? 'WHERE (b.state < :state OR (b.state = :state AND b.id < :last))' : ''
  const rows = await database.rows(
    batchCells,
    `${BATCH} ${after} ORDER BY b.state DESC, b.id DESC LIMIT ${q.limit + 1}`,
    { state: cursor?.[0], last: cursor?.[1] },
  )
  const page = cut(rows, q.limit, r => [r.state, r.id])
  return { items: page.items.map(r => shown(r, actor)), next: page.next }
}

const keyedRow = z.object({
  id: cell.whole,
  customerId: cell.whole,
  customerNumber: cell.text,
  customerName: cell.text,
  body: cell.text,
  amount: cell.whole,
  version: cell.whole,
  itemId: cell.whole.nullable(),
  receipt: cell.text.nullable(),
})
export type Keyed = z.output<typeof keyedRow>

export async function keyedIn(db: Handle, id: number): Promise<Keyed[]> {
  return db.rows(
    keyedRow,
    `SELECT r.id, r.customer_id AS customerId, c.number AS customerNumber, c.name AS customerName, r.body,
      r.amount, r.version, r.item_id AS itemId, i.number AS receipt
      FROM batch_receipt r JOIN customer c ON c.id = r.customer_id LEFT JOIN item i ON i.id = r.item_id
      WHERE r.batch_id = :id ORDER BY r.id`,
    { id },
  )
}
export const bodyOf = (k: Keyed): ReceiptBody => receiptBody.parse(JSON.parse(k.body))

export async function readBatch(database: Handle, actor: Actor, id: number): Promise<BatchDetail> {
  const row = await rowOf(database, id)
  const keyed = await keyedIn(database, id)
  const bodies = keyed.map(bodyOf)
  const ids = bodies.flatMap(b => b.allocations.map(a => a.itemId))
  const items = ids.length ? await database.find('item', { id: ids }, { columns: ['id', 'number'] }) : []
  const numbers = new Map(items.map(i => [i.id, i.number]))
  return {
    ...shown(row, actor),
    receipts: keyed.map((k, i) => {
      const body = bodies[i]!
      return {
        id: k.id,
        customer: { number: k.customerNumber, name: k.customerName },
        amount: k.amount,
        means: [...new Set(body.means.map(m => m.means))].join(', '),
        reference: body.means
          .map(m => m.reference)
          .filter(Boolean)
          .join(', '),
        allocated: body.allocations.reduce((a, x) => a + (x.paid ?? x.amount), 0),
        onAccount: body.onAccount,
        items: body.allocations.map(a => numbers.get(a.itemId) ?? '?'),
        body,
        version: k.version,
        receipt: k.itemId === null ? null : { id: k.itemId, number: k.receipt! },
      }
    }),
  }
}

type Body = z.output<typeof batchBody>

function checkDate(
  date: string,
  { today, closedUntil }: { today: string; closedUntil: string | null },
): void {
  if (date > today)
    throw new ProblemError(422, 'Not a date for a batch', `${date} is after today, ${today}`, [
      { path: 'date', message: `${today} or earlier` },
    ])
  if (closedUntil && date <= closedUntil)
    throw new ProblemError(
      422,
      'Period closed',
      `the books are closed up to ${closedUntil}: use a later date`,
      [{ path: 'date', message: `after ${closedUntil}` }],
    )
}

/** The settings are held: a period that closes meanwhile finds this batch, or this batch finds it closed. */
export async function openBatch(
  database: Handle,
  actor: Actor,
  body: Body,
  idempotency?: Idempotency,
): Promise<BatchDetail> {
  const opened = once(database, actor, idempotency, async tx => {
    checkDate(body.date, await takeLocks(tx, {}))
    const [mine] = await tx.find('batch', { open_of: actor.id }, { columns: ['id', 'date'] })
    if (mine) {
      const detail = `your batch dated ${mine.date} is open: close or delete it first`
      throw new ProblemError(409, 'One at a time', detail, [{ path: 'batch', message: String(mine.id) }])
    }
    const [made] = await tx.insert('batch', [
      {
        currency: body.currency,
        date: body.date,
        text: body.text,
        control_total: body.controlTotal,
        control_count: body.controlCount,
        person_id: actor.id,
      },
    ])
    return made!
  })
  const id = await opened.catch((error: unknown) => {
    // The same person, at two desks at once.
    if (codeOf(error) === 'ER_DUP_ENTRY')
      throw new ProblemError(409, 'One at a time', 'your batch was opened just now')
    throw error
  })
  return readBatch(database, actor, id)
}

/** The batch, if it is open and this person's; supervisors and administrators may help out. Locked before. */
export async function ownOpen(db: Handle, actor: Actor, id: number): Promise<Row> {
  const row = await rowOf(db, id)
  if (row.state !== 'open')
    throw new ProblemError(409, 'Closed', `batch ${row.number} is closed: correct its receipts one by one`)
  if (row.personId !== actor.id && !['supervisor', 'administrator'].includes(actor.role))
    throw new ProblemError(403, 'Not yours', `this batch is ${row.by}'s: ask for it, or open your own`)
  return row
}

const CHANGED = 'somebody else changed this batch: reload it and make your change again'

export async function changeBatch(
  database: Handle,
  actor: Actor,
  id: number,
  body: Body,
): Promise<BatchDetail> {
  await database.transaction(async tx => {
    checkDate(body.date, await takeLocks(tx, { batches: [id] }))
    const row = await ownOpen(tx, actor, id)
    if (body.currency !== row.currency && int(row.count)) {
      const detail = `the batch holds receipts in ${row.currency}: its currency stays`
      throw new ProblemError(409, 'Not empty', detail, [{ path: 'currency', message: 'stays' }])
    }
    const changed = await tx.update(
      'batch',
      {
        currency: body.currency,
        date: body.date,
        text: body.text,
        control_total: body.controlTotal,
        control_count: body.controlCount,
        version: plus('version', 1),
      },
      { id, version: body.version ?? row.version },
    )
    if (!changed) throw new ProblemError(409, 'Changed meanwhile', CHANGED)
  })
  return readBatch(database, actor, id)
}

export async function dropBatch(database: Handle, actor: Actor, id: number): Promise<void> {
  await database.transaction(async tx => {
    await takeLocks(tx, { batches: [id] })
    const row = await ownOpen(tx, actor, id)
    const allocated = (await keyedIn(tx, id)).find(k => bodyOf(k).allocations.length)
    if (allocated)
      throw new ProblemError(
        409,
        'Has allocations',
        `the receipt of ${allocated.customerName} is allocated: take the allocations off, or take it ` +
          'out, before the batch is deleted',
      )
    await tx.remove('batch_receipt', { batch_id: id })
    await tx.remove('batch', { id })
    await audit(tx, actor.id, 'batch', String(id), JSON.stringify(row), null)
  })
}

/** Checks a receipt as it would be posted after the others of the batch, and keeps it. */
async function keep(
  database: Handle,
  actor: Actor,
  id: number,
  body: ReceiptBody,
  change?: { receipt: number; version: number },
  idempotency?: Idempotency,
): Promise<BatchDetail> {
  for (const { ability, path } of lateDiscountNeeds(body)) requireAbility(actor, ability, path)
  await once(database, actor, idempotency, async tx => {
    const settings = await takeLocks(tx, { batches: [id] })
    const row = await ownOpen(tx, actor, id)
    if ((body.currency ?? row.currency) !== row.currency)
      throw new ProblemError(422, 'Another currency', `this batch is in ${row.currency}`, [
        { path: 'currency', message: row.currency },
      ])
    const customer = await findCustomer(tx, body.customer, {})
    const whole: ReceiptBody = { ...body, currency: row.currency }
    const others = (await keyedIn(tx, id)).filter(
      k => k.id !== change?.receipt && k.customerId === customer.id,
    )
    const all = [...others.map(bodyOf), whole]
    const itemIds = all.flatMap(b => [
      ...b.allocations.map(a => a.itemId),
      ...(b.rest?.itemId ? [b.rest.itemId] : []),
    ])
    const rates = all.map(b => ({ currency: row.currency, date: b.date }))
    const ledger = await loadState(tx, { customerIds: [customer.id], itemIds, rates }, settings)
    const decision = decideInTurn(
      ledger,
      all.map(ask => ({ customer, ask })),
    )
    if (!decision.ok) throw new LedgerRefused(decision.refusals)
    const values = {
      customer_id: customer.id,
      body: JSON.stringify(whole),
      amount: whole.means.reduce((a, m) => a + m.amount, 0),
    }
    if (!change) await tx.insert('batch_receipt', [{ batch_id: id, ...values }])
    else {
      const done = await tx.update(
        'batch_receipt',
        {
          customer_id: values.customer_id,
          body: values.body,
          amount: values.amount,
          version: plus('version', 1),
        },
        { id: change.receipt, batch_id: id, version: change.version },
      )
      if (!done)
        throw new ProblemError(
          409,
          'Changed meanwhile',
          'this receipt was changed or taken out meanwhile: reload the batch',
        )
    }
    await tx.update('batch', { version: plus('version', 1) }, { id })
    return { id }
  })
  return readBatch(database, actor, id)
}

export const addToBatch = (
  database: Handle,
  actor: Actor,
  id: number,
  body: ReceiptBody,
  idempotency?: Idempotency,
) => keep(database, actor, id, body, undefined, idempotency)

export const editInBatch = (
  database: Handle,
  actor: Actor,
  id: number,
  receipt: number,
  { version, ...body }: ReceiptBody & { version: number },
) => keep(database, actor, id, body, { receipt, version })

export async function removeFromBatch(
  database: Handle,
  actor: Actor,
  id: number,
  receipt: number,
): Promise<BatchDetail> {
  await database.transaction(async tx => {
    await takeLocks(tx, { batches: [id] })
    await ownOpen(tx, actor, id)
    const done = await tx.remove('batch_receipt', { id: receipt, batch_id: id })
    if (!done) throw notFound(`receipt ${receipt} of this batch`)
    await tx.update('batch', { version: plus('version', 1) }, { id })
  })
  return readBatch(database, actor, id)
}

export async function batchRegister(
  database: Handle,
  actor: Actor,
  id: number,
): Promise<{ name: string; pdf: Buffer }> {
  const [batch, { company }] = await Promise.all([readBatch(database, actor, id), readSettings(database)])
  return { name: batch.number ?? `batch-${id}`, pdf: await registerPdf(batch, company) }
}
