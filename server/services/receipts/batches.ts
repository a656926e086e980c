import type { Sequelize, Transaction } from 'sequelize'
import type { z } from 'zod'
import { afterPosting, type LedgerState, type Posting } from '../../../core/ledger'
import type { batchBody, BatchDetail, BatchRow } from '../../../contract/receipts/batches'
import { receiptBody, type ReceiptBody } from '../../../contract/receipts'
import { int, select } from '../../db/connection'
import { audit, readSettings } from '../../db/settings'
import { LedgerRefused, throughDoor } from '../../ledger/door'
import { loadState } from '../../ledger/load'
import { takeNumbers } from '../../ledger/write'
import { registerPdf } from '../../letters/register'
import { openDeductions } from '../disputes/deductions'
import { cut, decodeCursor } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import { deductionsIn, receiptIntent } from './receipts'
import { findCustomer, type Actor } from '../people/scope'

interface Row {
  id: number
  number: string | null
  state: 'open' | 'closed'
  currency: string
  date: string
  text: string
  controlTotal: number | null
  controlCount: number | null
  total: unknown
  count: unknown
  by: string
  personId: number
  at: string
  closedAt: string | null
  version: number
}
const BATCH = `SELECT b.id, b.number, b.state, b.currency, b.date, b.text, b.control_total AS controlTotal,
  b.control_count AS controlCount, b.person_id AS personId, p.name AS \`by\`, b.at, b.closed_at AS closedAt,
  b.version,
  (SELECT SUM(r.amount) FROM batch_receipt r WHERE r.batch_id = b.id) AS total, (SELECT COUNT(*)
    FROM batch_receipt r WHERE r.batch_id = b.id) AS count FROM batch b JOIN person p ON p.id = b.person_id`

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

async function rowOf(database: Sequelize, id: number, tx?: Transaction): Promise<Row> {
  const [row] = await select<Row>(database, `${BATCH} WHERE b.id = :id ${tx ? 'FOR UPDATE' : ''}`, { id }, tx)
  if (!row) throw notFound(`batch ${id}`)
  return row
}

export async function listBatches(database: Sequelize, actor: Actor, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 2)
  const rows = await select<Row>(
    database,
    `${BATCH} ${cursor ? 'WHERE (b.state < :state OR (b.state = :state AND b.id < :last))' : ''}
      ORDER BY b.state DESC, b.id DESC LIMIT ${q.limit + 1}`,
    { state: cursor?.[0], last: cursor?.[1] },
  )
  const page = cut(rows, q.limit, r => [r.state, r.id])
  return { items: page.items.map(r => shown(r, actor)), next: page.next }
}

interface Keyed {
  id: number
  customerId: number
  customerNumber: string
  customerName: string
  body: string
  amount: number
  version: number
  itemId: number | null
  receipt: string | null
}
async function keyedIn(database: Sequelize, id: number, tx?: Transaction): Promise<Keyed[]> {
  return select<Keyed>(
    database,
    `SELECT r.id, r.customer_id AS customerId, c.number AS customerNumber, c.name AS customerName, r.body,
    r.amount, r.version, r.item_id AS itemId, i.number AS receipt
    FROM batch_receipt r JOIN customer c ON c.id = r.customer_id LEFT JOIN item i ON i.id = r.item_id
      WHERE r.batch_id = :id ORDER BY r.id`,
    { id },
    tx,
  )
}
const bodyOf = (k: Keyed): ReceiptBody => receiptBody.parse(JSON.parse(k.body))

export async function readBatch(database: Sequelize, actor: Actor, id: number): Promise<BatchDetail> {
  const row = await rowOf(database, id)
  const keyed = await keyedIn(database, id)
  const bodies = keyed.map(bodyOf)
  const ids = bodies.flatMap(b => b.allocations.map(a => a.itemId))
  const numbers = new Map(
    ids.length
      ? (
          await select<{ id: number; number: string }>(
            database,
            'SELECT id, number FROM item WHERE id IN (:ids)',
            { ids },
          )
        ).map(i => [i.id, i.number])
      : [],
  )
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

async function checkDate(database: Sequelize, date: string): Promise<void> {
  const { today, closedUntil } = await readSettings(database)
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

export async function openBatch(database: Sequelize, actor: Actor, body: Body): Promise<BatchDetail> {
  await checkDate(database, body.date)
  const [mine] = await select<{ id: number; date: string }>(
    database,
    `SELECT id, date FROM batch WHERE open_of = :id`,
    { id: actor.id },
  )
  if (mine)
    throw new ProblemError(
      409,
      'One at a time',
      `your batch dated ${mine.date} is open: close or delete it first`,
      [{ path: 'batch', message: String(mine.id) }],
    )
  const id = int(
    await database.getQueryInterface().bulkInsert('batch', [
      {
        currency: body.currency,
        date: body.date,
        text: body.text,
        control_total: body.controlTotal,
        control_count: body.controlCount,
        person_id: actor.id,
      },
    ]),
  )
  return readBatch(database, actor, id)
}

/** The batch, if it is open and this person's; supervisors and administrators may help out. */
async function ownOpen(database: Sequelize, actor: Actor, id: number, tx?: Transaction): Promise<Row> {
  const row = await rowOf(database, id, tx)
  if (row.state !== 'open')
    throw new ProblemError(409, 'Closed', `batch ${row.number} is closed: correct its receipts one by one`)
  if (row.personId !== actor.id && !['supervisor', 'administrator'].includes(actor.role))
    throw new ProblemError(403, 'Not yours', `this batch is ${row.by}'s: ask for it, or open your own`)
  return row
}

export async function changeBatch(
  database: Sequelize,
  actor: Actor,
  id: number,
  body: Body,
): Promise<BatchDetail> {
  const row = await ownOpen(database, actor, id)
  await checkDate(database, body.date)
  if (body.currency !== row.currency && int(row.count))
    throw new ProblemError(
      409,
      'Not empty',
      `the batch holds receipts in ${row.currency}: its currency stays`,
      [{ path: 'currency', message: 'stays' }],
    )
  const [, changed] = (await database.query(
    `UPDATE batch SET currency = :currency, date = :date, text = :text, control_total = :total,
      control_count = :count, version = version + 1 WHERE id = :id AND state = 'open' AND version = :version`,
    {
      replacements: {
        id,
        currency: body.currency,
        date: body.date,
        text: body.text,
        total: body.controlTotal,
        count: body.controlCount,
        version: body.version ?? row.version,
      },
    },
  )) as unknown as [unknown, { affectedRows: number }]
  if (!changed.affectedRows)
    throw new ProblemError(
      409,
      'Changed meanwhile',
      'somebody else changed this batch: reload it and make your change again',
    )
  return readBatch(database, actor, id)
}

export async function dropBatch(database: Sequelize, actor: Actor, id: number): Promise<void> {
  await database.transaction(async tx => {
    const row = await ownOpen(database, actor, id, tx)
    const allocated = (await keyedIn(database, id, tx)).find(k => bodyOf(k).allocations.length)
    if (allocated)
      throw new ProblemError(
        409,
        'Has allocations',
        `the receipt of ${allocated.customerName} is allocated: take the allocations off, or take it out, before the batch is deleted`,
      )
    await database.query('DELETE FROM batch_receipt WHERE batch_id = :id', {
      replacements: { id },
      transaction: tx,
    })
    await database.query('DELETE FROM batch WHERE id = :id', { replacements: { id }, transaction: tx })
    await audit(database, actor.id, 'batch', String(id), JSON.stringify(row), null, tx)
  })
}

/**
 * What the batch would post: each receipt decided after those before it. Stops at the first that cannot be.
 */
async function decideAll(
  database: Sequelize,
  state: LedgerState,
  bodies: readonly { id: number; body: ReceiptBody }[],
  tx?: Transaction,
): Promise<{ postings: Posting[] }> {
  const postings: Posting[] = []
  let now = state
  for (const { body } of bodies) {
    const intent = await receiptIntent(database, body)
    const decision = await intent.decide(now, tx)
    if (!decision.ok)
      throw new LedgerRefused(
        decision.refusals.map(r => ({ ...r, message: `${intent.customer.name}: ${r.message}` })),
      )
    postings.push(decision.posting)
    now = afterPosting(now, decision.posting)
  }
  return { postings }
}

/** Checks a receipt as it would be posted after the others of the batch, and keeps it. */
async function keep(
  database: Sequelize,
  actor: Actor,
  id: number,
  body: ReceiptBody,
  change?: { receipt: number; version: number },
): Promise<BatchDetail> {
  await database.transaction(async tx => {
    const row = await ownOpen(database, actor, id, tx)
    if ((body.currency ?? row.currency) !== row.currency)
      throw new ProblemError(422, 'Another currency', `this batch is in ${row.currency}`, [
        { path: 'currency', message: row.currency },
      ])
    const customer = await findCustomer(database, body.customer, {}, tx)
    const whole: ReceiptBody = { ...body, currency: row.currency }
    await receiptIntent(database, whole, actor)
    const others = (await keyedIn(database, id, tx))
      .filter(k => k.id !== change?.receipt && k.customerId === customer.id)
      .map(k => ({ id: k.id, body: bodyOf(k) }))
    const state = await loadState(
      database,
      {
        customerIds: [customer.id],
        itemIds: [...others.map(o => o.body), whole].flatMap(b => b.allocations.map(a => a.itemId)),
      },
      tx,
    )
    await decideAll(database, state, [...others, { id: 0, body: whole }], tx)
    const values = {
      customer_id: customer.id,
      body: JSON.stringify(whole),
      amount: whole.means.reduce((a, m) => a + m.amount, 0),
    }
    if (!change)
      await database
        .getQueryInterface()
        .bulkInsert('batch_receipt', [{ batch_id: id, ...values }], { transaction: tx })
    else {
      const [, done] = (await database.query(
        `UPDATE batch_receipt SET customer_id = :customer_id, body = :body, amount = :amount,
          version = version + 1 WHERE id = :receipt AND batch_id = :id AND version = :version`,
        {
          replacements: { ...values, id, receipt: change.receipt, version: change.version },
          transaction: tx,
        },
      )) as unknown as [unknown, { affectedRows: number }]
      if (!done.affectedRows)
        throw new ProblemError(
          409,
          'Changed meanwhile',
          'this receipt was changed or taken out meanwhile: reload the batch',
        )
    }
    await database.query('UPDATE batch SET version = version + 1 WHERE id = :id', {
      replacements: { id },
      transaction: tx,
    })
  })
  return readBatch(database, actor, id)
}

export const addToBatch = (database: Sequelize, actor: Actor, id: number, body: ReceiptBody) =>
  keep(database, actor, id, body)
export const editInBatch = (
  database: Sequelize,
  actor: Actor,
  id: number,
  receipt: number,
  { version, ...body }: ReceiptBody & { version: number },
) => keep(database, actor, id, body, { receipt, version })

export async function removeFromBatch(
  database: Sequelize,
  actor: Actor,
  id: number,
  receipt: number,
): Promise<BatchDetail> {
  await database.transaction(async tx => {
    await ownOpen(database, actor, id, tx)
    const [, done] = (await database.query(
      'DELETE FROM batch_receipt WHERE id = :receipt AND batch_id = :id',
      { replacements: { id, receipt }, transaction: tx },
    )) as unknown as [unknown, { affectedRows?: number }]
    if (done?.affectedRows === 0) throw notFound(`receipt ${receipt} of this batch`)
    await database.query('UPDATE batch SET version = version + 1 WHERE id = :id', {
      replacements: { id },
      transaction: tx,
    })
  })
  return readBatch(database, actor, id)
}

/** Closes a batch: all its receipts are posted to receipts on hand or clearing, or none of them. */
export async function closeBatch(
  database: Sequelize,
  actor: Actor,
  id: number,
  version: number,
  idempotency?: { key: string; request: unknown },
): Promise<BatchDetail> {
  const before = await rowOf(database, id)
  if (before.state === 'open') {
    const keyed = await keyedIn(database, id)
    const bodies = keyed.map(k => ({ id: k.id, body: bodyOf(k) }))
    await throughDoor(
      database,
      {
        customerIds: keyed.map(k => k.customerId),
        itemIds: bodies.flatMap(b => b.body.allocations.map(a => a.itemId)),
        personId: actor.id,
        idempotency,
      },
      async door => {
        const row = await ownOpen(database, actor, id, door.tx)
        if (row.version !== version)
          throw new ProblemError(409, 'Changed meanwhile', 'this batch was changed meanwhile: reload it')
        const { toGo, countToGo, count } = shown(row, actor)
        if (!count)
          throw new ProblemError(
            409,
            'Empty',
            'there is nothing in this batch: key its receipts, or delete it',
          )
        if (toGo || countToGo) {
          throw new LedgerRefused([
            ...(toGo
              ? [
                  {
                    rule: 'batch.total',
                    path: 'controlTotal',
                    message: `the receipts make ${row.controlTotal! - toGo} minor units, the control total is ${row.controlTotal}`,
                    satisfy:
                      toGo > 0
                        ? 'key what is missing, or correct the control total'
                        : 'take out what is too much, or correct the control total',
                  },
                ]
              : []),
            ...(countToGo
              ? [
                  {
                    rule: 'batch.count',
                    path: 'controlCount',
                    message: `${count} receipts are keyed, the control count is ${row.controlCount}`,
                    satisfy: 'key what is missing, or correct the control count',
                  },
                ]
              : []),
          ])
        }
        const { postings } = await decideAll(database, door.state, bodies, door.tx)
        const written = await door.write(postings)
        const number = (await takeNumbers(database, door.tx, 'batch', 1))(0)
        for (const [i, b] of bodies.entries()) {
          await database.query('UPDATE batch_receipt SET item_id = :item WHERE id = :id', {
            replacements: { id: b.id, item: written[i]!.items[0]!.id },
            transaction: door.tx,
          })
          await openDeductions(
            database,
            actor.id,
            deductionsIn(b.body, postings[i]!, door.state, written[i]!.items[0]!.id),
            door.tx,
          )
        }
        await database.query(
          `UPDATE batch SET state = 'closed', number = :number, closed_at = CURRENT_TIMESTAMP(3),
            version = version + 1 WHERE id = :id`,
          { replacements: { id, number }, transaction: door.tx },
        )
        return null
      },
    )
  } else if (!idempotency) throw new ProblemError(409, 'Closed', `batch ${before.number} is closed already`)
  return readBatch(database, actor, id)
}

export async function batchRegister(
  database: Sequelize,
  actor: Actor,
  id: number,
): Promise<{ name: string; pdf: Buffer }> {
  const [batch, { company }] = await Promise.all([readBatch(database, actor, id), readSettings(database)])
  return { name: batch.number ?? `batch-${id}`, pdf: await registerPdf(batch, company) }
}
