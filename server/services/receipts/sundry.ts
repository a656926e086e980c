import type { Sequelize, Transaction } from 'sequelize'
import type { z } from 'zod'
import { postSundry, takeBack } from '../../../core/banking'
import { type Decision, type LedgerState, type Line } from '../../../core/ledger'
import type { Proof, sundryBody, SundryRow } from '../../../contract/receipts'
import { int, select } from '../../db/connection'
import { audit } from '../../db/settings'
import { posted, throughDoor } from '../../ledger/door'
import { takeNumbers } from '../../ledger/write'
import { cut, decodeCursor } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import { rateOn } from '../rates/rates'
import { proofOf } from './receipts'
import type { Actor } from '../people/scope'

type Body = z.output<typeof sundryBody>

async function decideSundry(
  database: Sequelize,
  state: LedgerState,
  body: Body,
  tx?: Transaction,
): Promise<Decision> {
  const accounts = new Set(
    (await select<{ number: string }>(database, 'SELECT number FROM ledger_account', {}, tx)).map(
      a => a.number,
    ),
  )
  const rate = await rateOn(database, state.base, body.currency, body.date, tx)
  if (rate === undefined)
    throw new ProblemError(422, 'No exchange rate', `there is no rate for ${body.currency} on ${body.date}`, [
      { path: 'currency', message: 'no exchange rate for this currency' },
    ])
  return postSundry(state, { ...body, text: body.text || `From ${body.payer}`, rate }, accounts)
}

export function previewSundry(database: Sequelize, body: Body): Promise<Proof> {
  return proofOf(database, {
    customer: null,
    wanted: { customerIds: [] },
    decide: (state, tx) => decideSundry(database, state, body, tx),
  })
}

const SUNDRY = `SELECT s.id, s.number, s.date, s.currency, s.amount, s.payer, s.text, s.account,
  a.name AS accountName, m.means, m.reference, s.void_entry_id IS NOT NULL AS voided, p.name AS \`by\`,
  e.number AS entry
  FROM sundry_receipt s JOIN ledger_account a ON a.number = s.account
    JOIN receipt_means m ON m.item_id = -s.id JOIN person p ON p.id = s.person_id
    JOIN entry e ON e.id = s.entry_id`
const shown = (r: Omit<SundryRow, 'voided'> & { voided: unknown }): SundryRow => ({
  ...r,
  voided: Boolean(r.voided),
})

async function one(database: Sequelize, id: number): Promise<SundryRow> {
  const [row] = await select<SundryRow>(database, `${SUNDRY} WHERE s.id = :id`, { id })
  if (!row) throw notFound(`sundry receipt ${id}`)
  return shown(row)
}

export async function listSundry(database: Sequelize, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 1)
  const page = cut(
    await select<SundryRow>(
      database,
      `${SUNDRY} ${cursor ? 'WHERE s.id < :last' : ''} ORDER BY s.id DESC LIMIT ${q.limit + 1}`,
      { last: cursor?.[0] },
    ),
    q.limit,
    r => [r.id],
  )
  return { items: page.items.map(shown), next: page.next }
}

export async function receiveSundry(
  database: Sequelize,
  actor: Actor,
  body: Body,
  idempotency?: { key: string; request: unknown },
): Promise<SundryRow> {
  const { id } = await throughDoor(
    database,
    { customerIds: [], personId: actor.id, idempotency },
    async door => {
      const posting = posted(await decideSundry(database, door.state, body, door.tx))
      const [written] = await door.write([posting])
      const number = (await takeNumbers(database, door.tx, 'sundry', 1))(0)
      const query = database.getQueryInterface()
      const made = int(
        await query.bulkInsert(
          'sundry_receipt',
          [
            {
              number,
              date: body.date,
              currency: body.currency,
              amount: body.amount,
              payer: body.payer,
              text: body.text,
              account: body.account,
              entry_id: written!.entryId,
              person_id: actor.id,
            },
          ],
          { transaction: door.tx },
        ),
      )
      const [money] = posting.lines
      await query.bulkInsert(
        'receipt_means',
        [
          {
            item_id: -made,
            means: body.means,
            amount: body.amount,
            base_amount: money!.baseAmount,
            reference: body.reference,
            account: money!.account,
          },
        ],
        { transaction: door.tx },
      )
      return { id: made }
    },
  )
  return one(database, id)
}

export async function voidSundry(
  database: Sequelize,
  actor: Actor,
  id: number,
  reason: string,
): Promise<SundryRow> {
  await one(database, id)
  await throughDoor(database, { customerIds: [], personId: actor.id }, async door => {
    const [row] = await select<{ number: string; entryId: number; voidEntryId: number | null }>(
      database,
      `SELECT number, entry_id AS entryId, void_entry_id AS voidEntryId FROM sundry_receipt WHERE id = :id
        FOR UPDATE`,
      { id },
      door.tx,
    )
    if (row!.voidEntryId !== null)
      throw new ProblemError(409, 'Taken back before', `${row!.number} was taken back before`)
    const [away] = await select<{ what: string }>(
      database,
      `SELECT COALESCE((SELECT CONCAT('went to the bank on slip ', p.number) FROM slip_means sm
      JOIN slip p ON p.id = sm.slip_id WHERE sm.means_id = m.id AND p.void_entry_id IS NULL),
      (SELECT 'was seen at the bank' FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id
        WHERE t.kind = 'means' AND t.ref_id = m.id AND b.undone_entry_id IS NULL LIMIT 1)) AS what
        FROM receipt_means m WHERE m.item_id = :item`,
      { item: -id },
      door.tx,
    )
    if (away?.what)
      throw new ProblemError(
        409,
        'The bank has it',
        `${row!.number} ${away.what}: void the slip or unmatch the line first`,
      )
    const lines = await select<Line>(
      database,
      `SELECT account, currency, amount, base_amount AS baseAmount, customer_id AS customerId, NULL AS item,
        NULL AS allocation FROM journal_line WHERE entry_id = :entry ORDER BY id`,
      { entry: row!.entryId },
      door.tx,
    )
    const [written] = await door.write([
      posted(takeBack(door.state, door.state.today, `${row!.number} taken back: ${reason}`, lines)),
    ])
    await database.query(
      'UPDATE sundry_receipt SET void_entry_id = :entry, void_reason = :reason WHERE id = :id',
      { replacements: { entry: written!.entryId, reason, id }, transaction: door.tx },
    )
    await audit(
      database,
      actor.id,
      'sundry receipt',
      row!.number,
      'received',
      `taken back: ${reason}`,
      door.tx,
    )
    return null
  })
  return one(database, id)
}
