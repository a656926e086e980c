import { z } from 'zod'
import { addDays } from '../../../core/calendar'
import { chequeRefusals, type Cheque } from '../../../core/refunds'
import type { ChequeRow, refunds as operations } from '../../../contract/refunds'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { audit, readSettings } from '../../db/settings'
import { once, type Idempotency } from '../../ledger/idempotency'
import { takeLocks } from '../../ledger/locks'
import { LedgerRefused } from '../../ledger/refused'
import { takeNumbers } from '../../ledger/series'
import { chequePdf } from '../../letters/cheque'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import { addressee, sendLetter } from '../letters/send'
import { refundSheet } from '../letters/paymentSheets'
import { ownAccount } from '../payments/files'
import type { Actor } from '../people/scope'
import { REFUND_SETTLED } from './refunds'
import { toldRefund } from './advice'

const cells = z.object({
  id: cell.whole,
  number: cell.text,
  account: cell.text,
  refundId: cell.whole,
  refund: cell.text,
  customerNumber: cell.text,
  customerName: cell.text,
  currency: cell.text,
  amount: cell.whole,
  issuedOn: cell.day,
  voidOn: cell.day.nullable(),
  voidWhy: cell.text,
  cashed: cell.flag,
  by: cell.text,
})

const CHEQUE = `SELECT q.id, q.number, b.name AS account, i.id AS refundId, i.number AS refund,
    c.number AS customerNumber, c.name AS customerName, i.currency, i.amount, q.issued_on AS issuedOn,
    q.void_on AS voidOn, q.void_why AS voidWhy, q.void_on IS NULL AND ${REFUND_SETTLED} AS cashed, p.name AS \`by\`
  FROM refund_cheque q JOIN refund f ON f.item_id = q.refund_item_id JOIN item i ON i.id = f.item_id
    JOIN customer c ON c.id = i.customer_id JOIN bank_account b ON b.id = q.bank_account_id
    JOIN person p ON p.id = q.person_id`

function shown(r: z.output<typeof cells>, lateBefore: string): ChequeRow {
  const { refundId, refund, customerNumber, customerName, ...row } = r
  const cashed = Boolean(row.cashed)
  return {
    ...row,
    refund: { id: refundId, number: refund },
    customer: { number: customerNumber, name: customerName },
    cashed,
    late: !cashed && row.voidOn === null && row.issuedOn < lateBefore,
  }
}

/** Cheques issued before this day and not cashed are late. */
async function lateBefore(database: Handle): Promise<string> {
  const { today, paymentPolicy } = await readSettings(database)
  return addDays(today, -paymentPolicy.chequeDays)
}

export async function listCheques(
  database: Handle,
  q: z.output<NonNullable<(typeof operations.cheques)['query']>>,
) {
  const values: Values = {}
  const where: string[] = []
  if (q.state === 'open') where.push(`q.void_on IS NULL AND NOT ${REFUND_SETTLED}`)
  if (q.search) {
    values.search = like(q.search)
    where.push('(q.number LIKE :search OR c.name LIKE :search OR i.number LIKE :search)')
  }
  const cursor = decodeCursor(q.cursor, 1)
  if (cursor) {
    values.lastId = cursor[0]
    where.push('q.id < :lastId')
  }
  const all = where.length ? `WHERE ${where.join(' AND ')}` : ''
  const rows = await database.rows(cells, `${CHEQUE} ${all} ORDER BY q.id DESC LIMIT ${q.limit + 1}`, values)
  const page = cut(rows, q.limit, r => [r.id])
  const late = await lateBefore(database)
  return { items: page.items.map(r => shown(r, late)), next: page.next }
}

export async function readCheque(database: Handle, id: number): Promise<ChequeRow> {
  const rows = await database.rows(cells, `${CHEQUE} WHERE q.id = :id`, { id })
  if (!rows.length) throw notFound(`cheque ${id}`)
  return shown(rows[0]!, await lateBefore(database))
}

const toWriteRow = z.object({
  customerId: cell.whole,
  number: cell.text,
  currency: cell.text,
  method: cell.text,
  gone: cell.whole,
  cheque: cell.text.nullable(),
})
type ToWrite = z.output<typeof toWriteRow>

async function toWrite(tx: Handle, refundId: number): Promise<ToWrite> {
  const [row] = await tx.rows(
    toWriteRow,
    `SELECT i.customer_id AS customerId, i.number, i.currency, f.method,
      EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = i.id) OR ${REFUND_SETTLED} AS gone,
      (SELECT q.number FROM refund_cheque q WHERE q.refund_item_id = i.id AND q.void_on IS NULL) AS cheque
      FROM refund f JOIN item i ON i.id = f.item_id WHERE f.item_id = :refundId`,
    { refundId },
  )
  if (!row) throw notFound(`refund ${refundId}`)
  return row
}

function requireWritable(row: ToWrite): void {
  const wrong =
    row.method !== 'cheque'
      ? `${row.number} is not paid by cheque`
      : row.gone
        ? `${row.number} was paid or taken back`
        : row.cheque !== null
          ? `cheque ${row.cheque} was written for ${row.number}: void it first`
          : ''
  if (wrong)
    throw new ProblemError(409, 'No cheque', wrong, [{ path: 'id', message: wrong, satisfy: 'reload' }])
}

/** Writes the cheque of a refund, and puts the advice of it on its way. */
export async function writeCheque(
  database: Handle,
  actor: Actor,
  refundId: number,
  body: { number?: string },
  idempotency?: Idempotency,
): Promise<ChequeRow> {
  const settings = await readSettings(database)
  const before = await toWrite(database, refundId)
  const account = await ownAccount(database, { currency: before.currency })
  const { id } = await once(database, actor, idempotency, async tx => {
    await takeLocks(tx, { bankAccounts: [account.id], customers: [before.customerId] })
    requireWritable(await toWrite(tx, refundId))
    const others = await tx.select<Cheque>(
      `SELECT q.number, i.number AS refund, q.void_on IS NOT NULL AS void FROM refund_cheque q
        JOIN item i ON i.id = q.refund_item_id WHERE q.bank_account_id = :id`,
      { id: account.id },
    )
    const number = body.number || (await takeNumbers(tx, 'refund-cheque', 1))(0)
    const refusals = chequeRefusals(
      number,
      others.map(o => ({ ...o, void: Boolean(o.void) })),
      settings.paymentPolicy.chequeDuplicates,
      'number',
    )
    if (refusals.length) throw new LedgerRefused(refusals)
    const [chequeId] = await tx.insert('refund_cheque', [
      {
        refund_item_id: refundId,
        bank_account_id: account.id,
        number,
        issued_on: settings.today,
        person_id: actor.id,
      },
    ])
    const to = await addressee(tx, before.customerId)
    const sheet = refundSheet(settings, to, { ...(await toldRefund(tx, refundId)), cheque: number })
    // It goes with the cheque, by post.
    await sendLetter(
      tx,
      actor,
      { ...to, email: '' },
      { kind: 'refund', sheet, asOf: settings.today, jobId: null },
    )
    await audit(tx, actor.id, 'cheque', number, null, before.number)
    return { id: chequeId! }
  })
  return readCheque(database, id)
}

/** Voids a cheque: it stays in the list, and another may be written. */
export async function voidCheque(
  database: Handle,
  actor: Actor,
  id: number,
  reason: string,
): Promise<ChequeRow> {
  const cheque = await readCheque(database, id)
  const { today } = await readSettings(database)
  await database.transaction(async tx => {
    const done = await tx.run(
      `UPDATE refund_cheque q JOIN refund f ON f.item_id = q.refund_item_id SET q.void_on = :today,
        q.void_why = :reason WHERE q.id = :id AND q.void_on IS NULL AND NOT ${REFUND_SETTLED}`,
      { id, today, reason },
    )
    if (!done.affectedRows)
      throw new ProblemError(409, 'Not to void', `cheque ${cheque.number} was voided before, or is cashed`, [
        { path: 'id', message: 'void or cashed', satisfy: 'reload the list' },
      ])
    await audit(tx, actor.id, 'cheque', cheque.number, 'written', `void: ${reason}`)
  })
  return readCheque(database, id)
}

/** A cheque as it is printed. */
export async function printCheque(database: Handle, id: number): Promise<{ number: string; pdf: Buffer }> {
  const cheque = await readCheque(database, id)
  if (cheque.voidOn !== null)
    throw new ProblemError(409, 'Void', `cheque ${cheque.number} is void: write another`)
  const settings = await readSettings(database)
  const [row] = await database.find(
    'refund',
    { item_id: cheque.refund.id },
    { columns: { customerId: 'customer_id', holder: 'holder' } },
  )
  const to = await addressee(database, row!.customerId)
  const account = await ownAccount(database, { currency: cheque.currency })
  const pdf = await chequePdf({
    company: settings.company,
    house: settings.house,
    account,
    number: cheque.number,
    date: cheque.issuedOn,
    payee: row!.holder,
    amount: cheque.amount,
    currency: cheque.currency,
    language: to.language,
    reference: cheque.refund.number,
  })
  return { number: cheque.number, pdf }
}
