import { z } from 'zod'
import { id, isoDate } from '../../../contract/common'
import type { CollectionRow } from '../../../contract/collections'
import { isWithinWindow, presentAgainOn, type CollectionState, type Scheme } from '../../../core/collections'
import { decided, refuse, refused } from '../../../core/ledger'
import { actionFor, reasonLabel, type PaymentPolicy, type ReturnAction } from '../../../core/payments'
import { linesWhereMoneyIs, reverse } from '../../../core/receipts'
import type { Handle } from '../../db/handle'
import { audit, readSettings, type Settings } from '../../db/settings'
import { command, perform, type By, type Idempotency } from '../../ledger/command'
import { loadLines, loadState } from '../../ledger/load'
import { notFound, ProblemError } from '../common/problems'
import { findCustomer } from '../accounts/customers'
import { prove } from '../books/proof'
import { ownAccount } from '../payments/files'
import type { Actor } from '../people/scope'
import { readCollection } from './lists'
import { suspendMandate } from './mandates'
import { keepWorked, runRow, workOut } from './runs'

interface Row {
  id: number
  number: string
  customerId: number
  customer: string
  controllerId: number | null
  mandateId: number
  mandate: string
  scheme: Scheme
  state: CollectionState | 'proposed'
  amount: number
  collectOn: string
  receiptId: number | null
  met: number
  times: number
  backCode: string
  backDone: ReturnAction | ''
}

async function rowOf(db: Handle, collectionId: number): Promise<Row> {
  const [row] = await db.select<Row>(
    `SELECT k.id, k.number, k.customer_id AS customerId, c.number AS customer, c.controller_id AS controllerId,
      m.id AS mandateId, m.reference AS mandate, m.scheme, k.state, k.amount, k.collect_on AS collectOn,
      k.receipt_item_id AS receiptId, k.back_code AS backCode, k.back_done AS backDone,
      COALESCE((SELECT MAX(r.met) FROM receipt_means r WHERE r.item_id = k.receipt_item_id), 0) AS met,
      k.times
      FROM collection k JOIN customer c ON c.id = k.customer_id JOIN mandate m ON m.id = k.mandate_id
      WHERE k.id = :collectionId`,
    { collectionId },
  )
  if (!row) throw notFound(`collection ${collectionId}`)
  return row
}

/**
 * A collection that was posted comes back: its receipt is reversed, its items are open again at their due
 * dates, and the house's fee is charged on. Where the bank has shown the money, it goes back through
 * clearing, and the bank's own line settles that.
 */
export const returnCommand = command({
  name: 'collections.return',
  ability: 'collections.run',
  input: z.object({
    id,
    code: z.string().regex(/^[A-Z0-9]{0,4}$/),
    on: isoDate.optional(),
    fee: z.int().min(0).optional(),
    text: z.string().max(200).default(''),
  }),
  locks: async (db, input) => ({ customers: [(await rowOf(db, input.id)).customerId] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const row = await rowOf(db, input.id)
    const lines = row.receiptId === null ? [] : await loadLines(db, row.receiptId)
    const banks = await db.select<{ account: string }>('SELECT account FROM bank_account')
    const ledger = await loadState(
      db,
      {
        customerIds: [row.customerId],
        itemIds: row.receiptId === null ? [] : [row.receiptId],
        linksOf: row.receiptId === null ? [] : [row.receiptId],
      },
      settings,
    )
    const date = input.on ?? settings.today
    return {
      row,
      settings,
      ledger,
      date,
      customer: await findCustomer(db, row.customer, {}),
      lines: linesWhereMoneyIs(ledger.chart, new Set(banks.map(b => b.account)), [], lines),
    }
  },
  decide: ({ row, ledger, lines, date, settings }, input) => {
    if (row.state !== 'collected' || row.receiptId === null)
      return refused([
        refuse(
          'return.state',
          'id',
          row.state === 'returned'
            ? `${row.number} came back before`
            : `${row.number} is ${row.state}: it was not collected`,
          'reload to see what became of it',
        ),
      ])
    if (!isWithinWindow(row.collectOn, row.scheme, input.code, date))
      return refused([
        refuse(
          'return.window',
          'on',
          `${row.number} was collected on ${row.collectOn}: the time to send it back for ${input.code} is over`,
          'if the bank took the money all the same, match its line as a return of the receipt',
        ),
      ])
    const amount = input.fee ?? settings.paymentPolicy.returnFee
    return decided(
      reverse(ledger, {
        itemId: row.receiptId,
        date,
        reason: `Direct debit returned: ${reasonLabel(input.code)}`,
        lines,
        ...(amount ? { fee: { amount, baseAmount: amount } } : {}),
      }),
    )
  },
  after: async ({ db, input, state, actor }) => {
    await noteReturn(db, actor, state.settings, state.row, {
      code: input.code,
      on: state.date,
      text: input.text,
    })
    return { id: input.id }
  },
  about: input => `collection ${input.id}`,
})

interface Back {
  code: string
  on: string
  text: string
}

/** Keeps that a collection came back, and does what can be done at once. */
async function noteReturn(
  db: Handle,
  actor: { id: number },
  settings: Settings,
  row: Row,
  back: Back,
): Promise<void> {
  const state = row.state === 'collected' ? 'returned' : 'refused'
  await db.run(
    `UPDATE collection SET state = :state, back_code = :code, back_on = :on, back_why = :text WHERE id = :id`,
    { id: row.id, state, code: back.code, on: back.on, text: back.text.slice(0, 200) },
  )
  const action = actionFor(back.code, settings.paymentPolicy.returnActions)
  if (action === 'stop' || action === 'correct')
    await suspendMandate(db, actor, row.mandateId, `${row.number} came back: ${reasonLabel(back.code)}`)
  await tell(db, actor, settings, row, back.code)
  await audit(db, actor.id, 'collection', row.number, row.state, `${state}: ${back.code} ${back.text}`.trim())
}

/** A task for who looks after the account. */
async function tell(
  db: Handle,
  actor: { id: number },
  settings: Settings,
  row: Row,
  code: string,
): Promise<void> {
  const what = row.state === 'collected' ? 'came back' : 'was refused'
  await db.insert('message', [
    {
      customer_id: row.customerId,
      about: 'account',
      about_id: null,
      to_id: row.controllerId ?? actor.id,
      text: `Direct debit ${row.number} ${what}: ${reasonLabel(code).toLowerCase()}. Its items are open again.`,
      on_date: settings.today,
      due: settings.today,
      person_id: actor.id,
    },
  ])
}

export interface ReturnAsk {
  code: string
  on?: string
  fee?: number
  text?: string
}

/** A collection comes back, or is refused before it was collected. */
export async function returnCollection(
  database: Handle,
  actor: Actor,
  collectionId: number,
  ask: ReturnAsk,
  idempotency?: Idempotency,
): Promise<CollectionRow> {
  const before = await rowOf(database, collectionId)
  if (before.state === 'sent') await refuseCollection(database, actor, collectionId, ask)
  else await perform(database, actor, returnCommand, { id: collectionId, ...ask }, idempotency)
  return readCollection(database, collectionId)
}

/** The bank will not collect: nothing was posted, so the items are simply free again. */
async function refuseCollection(
  database: Handle,
  actor: Actor,
  collectionId: number,
  ask: ReturnAsk,
): Promise<void> {
  const settings = await readSettings(database)
  await database.transaction(async tx => {
    const [held] = await tx.select<{ state: string }>(
      'SELECT state FROM collection WHERE id = :id FOR UPDATE',
      {
        id: collectionId,
      },
    )
    if (held?.state !== 'sent')
      throw new ProblemError(
        409,
        'Changed meanwhile',
        'this collection is not with the bank any more: reload',
      )
    const row = await rowOf(tx, collectionId)
    await noteReturn(tx, actor, settings, row, {
      code: ask.code,
      on: ask.on ?? settings.today,
      text: ask.text ?? '',
    })
  })
}

export const proveReturn = (database: Handle, actor: Actor, collectionId: number, ask: ReturnAsk) =>
  prove(database, actor, returnCommand, { id: collectionId, ...ask })

/**
 * Receipts came back, by a bank line or by hand: those of collections are told so, with the code. Their
 * receipts are reversed already, in the same transaction.
 */
export async function noteReturnedReceipts(
  tx: Handle,
  actorId: number,
  returned: readonly (Back & { itemId: number })[],
): Promise<void> {
  if (!returned.length) return
  const found = await tx.select<{ id: number; itemId: number }>(
    `SELECT id, receipt_item_id AS itemId FROM collection WHERE receipt_item_id IN (:items) AND state = 'collected'`,
    { items: returned.map(r => r.itemId) },
  )
  if (!found.length) return
  const settings = await readSettings(tx)
  for (const { id: collectionId, itemId } of found) {
    const { code, on, text } = returned.find(r => r.itemId === itemId)!
    const row = await rowOf(tx, collectionId)
    await noteReturn(tx, { id: actorId }, settings, row, { code, on, text })
  }
}

/** Whether a collection that came back may be presented again. */
export const mayComeAgain = (row: { times: number }, policy: PaymentPolicy): boolean =>
  row.times < policy.againTimes

/**
 * What is done about a collection that came back. `again` prepares a run of it, which a person confirms; the
 * rest is noted, and a mandate is stopped where that is what was chosen.
 */
export async function workReturn(
  database: Handle,
  actor: Actor,
  collectionId: number,
  action: ReturnAction,
): Promise<{ collection: CollectionRow; run: number | null }> {
  const settings = await readSettings(database)
  const run = await database.transaction(async tx => {
    await tx.select('SELECT id FROM collection WHERE id = :id FOR UPDATE', { id: collectionId })
    const row = await rowOf(tx, collectionId)
    if (row.state !== 'returned' && row.state !== 'refused')
      throw new ProblemError(409, 'Did not come back', `${row.number} is ${row.state}`)
    if (row.backDone)
      throw new ProblemError(409, 'Worked', `${row.number} was worked meanwhile: reload the list`)
    if (action === 'again' && !mayComeAgain(row, settings.paymentPolicy))
      throw new ProblemError(
        409,
        'Often enough',
        `${row.number} was presented again ${row.times} times: Setup allows no more`,
        [{ path: 'action', message: 'often enough', satisfy: 'chase it, or stop the mandate' }],
      )
    await tx.run('UPDATE collection SET back_done = :action WHERE id = :id', { id: collectionId, action })
    if (action === 'stop' || action === 'correct')
      await suspendMandate(tx, actor, row.mandateId, `${row.number} came back: ${reasonLabel(row.backCode)}`)
    await audit(tx, actor.id, 'collection', row.number, row.state, action)
    return action === 'again' ? presentAgain(tx, actor, settings, row) : null
  })
  return { collection: await readCollection(database, collectionId), run }
}

/** A run of what came back: several of a day share one. */
async function presentAgain(tx: Handle, actor: Actor, settings: Settings, row: Row): Promise<number> {
  const day = presentAgainOn(settings.today, settings.paymentPolicy.againWeekday)
  const [there] = await tx.select<{ id: number; againOf: string }>(
    `SELECT id, again_of AS againOf FROM collection_run WHERE state = 'proposed' AND collect_on = :day
      AND again_of <> '[]' ORDER BY id LIMIT 1 FOR UPDATE`,
    { day },
  )
  const account = await ownAccount(tx, { currency: 'EUR' })
  const [fresh] = there
    ? [there.id]
    : await tx.insert('collection_run', [
        {
          collect_on: day,
          due_by: day,
          made_on: settings.today,
          bank_account_id: account.id,
          again_of: '[]',
          person_id: actor.id,
        },
      ])
  const againOf = [...(JSON.parse(there?.againOf ?? '[]') as number[]), row.id]
  await tx.run('UPDATE collection_run SET again_of = :againOf, version = version + 1 WHERE id = :id', {
    id: fresh!,
    againOf: JSON.stringify(againOf),
  })
  const run = await runRow(tx, fresh!)
  await tx.run(
    `DELETE t FROM collection_item t JOIN collection k ON k.id = t.collection_id
      WHERE k.run_id = :id AND k.customer_id = :customerId`,
    { id: fresh!, customerId: row.customerId },
  )
  for (const table of ['collection', 'collection_left_out'])
    await tx.run(`DELETE FROM ${table} WHERE run_id = :id AND customer_id = :customerId`, {
      id: fresh!,
      customerId: row.customerId,
    })
  await keepWorked(tx, fresh!, await workOut(tx, settings, run, [row.customerId]))
  return fresh!
}
