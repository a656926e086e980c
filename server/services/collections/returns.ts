import { cell } from '../../db/rows'
import { z } from 'zod'
import { id, isoDate } from '../../../contract/common'
import type { CollectionRow } from '../../../contract/collections'
import { postReturns } from '../../../core/collections'
import { refused, type Chart } from '../../../core/ledger'
import { actionFor, reasonLabel } from '../../../core/payments'
import { linesWhereMoneyIs } from '../../../core/receipts'
import { chunksOf, type Handle } from '../../db/handle'
import { audit, readSettings, type Settings } from '../../db/settings'
import { command, perform, type By, type Idempotency } from '../../ledger/command'
import { loadLinesOf, loadState } from '../../ledger/load'
import { notFound, ProblemError } from '../common/problems'
import { prove } from '../books/proof'
import type { Actor } from '../people/scope'
import { readCollection } from './lists'
import { suspendMandate } from './mandates'

const rowCells = z.object({
  id: cell.whole,
  number: cell.text,
  customerId: cell.whole,
  controllerId: cell.whole.nullable(),
  mandateId: cell.whole,
  mandate: cell.text,
  scheme: z.enum(['CORE', 'B2B']),
  state: z.enum(['collected', 'refused', 'sent', 'returned', 'proposed', 'announced', 'dropped']),
  collectOn: cell.text,
  receiptId: cell.whole.nullable(),
  times: cell.whole,
  backCode: cell.text,
  backDone: z.enum(['', 'again', 'stop', 'chase', 'correct']),
})
export type Row = z.output<typeof rowCells>

async function rowsOf(db: Handle, collectionIds: readonly number[]): Promise<Row[]> {
  const rows = await db.rows(
    rowCells,
    `SELECT k.id, k.number, k.customer_id AS customerId, c.controller_id AS controllerId,
      m.id AS mandateId, m.reference AS mandate, m.scheme, k.state, k.collect_on AS collectOn,
      k.receipt_item_id AS receiptId, k.back_code AS backCode, k.back_done AS backDone, k.times
      FROM collection k JOIN customer c ON c.id = k.customer_id JOIN mandate m ON m.id = k.mandate_id
      WHERE k.id IN (:collectionIds) ORDER BY k.id`,
    { collectionIds },
  )
  const missing = collectionIds.find(wanted => !rows.some(r => r.id === wanted))
  if (missing !== undefined) throw notFound(`collection ${missing}`)
  return rows
}

export async function rowOf(db: Handle, collectionId: number): Promise<Row> {
  const [row] = await rowsOf(db, [collectionId])
  return row!
}

/** The lines to mirror for receipts: what the bank has shown goes back through clearing. */
async function linesToMirror(db: Handle, chart: Chart, receiptIds: readonly number[]) {
  const banks = await db.find('bank_account', {}, { columns: ['account'] })
  const accounts = new Set(banks.map(b => b.account))
  const lines = await loadLinesOf(db, receiptIds)
  return new Map([...lines].map(([itemId, own]) => [itemId, linesWhereMoneyIs(chart, accounts, [], own)]))
}

const oneReturn = z.object({
  id,
  code: z.string().regex(/^[A-Z0-9]{0,4}$/),
  on: isoDate.optional(),
  fee: z.int().min(0).optional(),
  text: z.string().max(200).default(''),
})

/**
 * Collections that were posted come back: their receipts are reversed, their items are open again at their
 * due dates, and the house's fee is charged on. Where the bank has shown the money, it goes back through
 * clearing, and the bank's own line settles that.
 */
export const returnCommand = command({
  name: 'collections.return',
  ability: 'collections.run',
  input: z.object({ returns: z.array(oneReturn).min(1) }),
  locks: async (db, input) => ({
    customers: [...new Set((await rowsOf(db, idsOf(input))).map(r => r.customerId))],
  }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const rows = await rowsOf(db, idsOf(input))
    const receipts = rows.flatMap(r => (r.receiptId === null ? [] : [r.receiptId]))
    const customerIds = [...new Set(rows.map(r => r.customerId))]
    const ledger = await loadState(db, { customerIds, itemIds: receipts, linksOf: receipts }, settings)
    const lines = await linesToMirror(db, ledger.chart, receipts)
    const byId = new Map(rows.map(r => [r.id, r]))
    const returns = input.returns.map(ask => {
      const row = byId.get(ask.id)!
      return {
        row,
        ...{ id: row.id, number: row.number, state: row.state, scheme: row.scheme, collectOn: row.collectOn },
        ...{ receiptId: row.receiptId, lines: lines.get(row.receiptId ?? 0) ?? [] },
        ...{ code: ask.code, date: ask.on ?? settings.today, text: ask.text },
        fee: ask.fee ?? settings.paymentPolicy.returnFee,
      }
    })
    return { ledger, settings, returns }
  },
  decide: ({ ledger, returns }) => {
    const { postings, refusals } = postReturns(ledger, returns)
    return refusals.length ? refused(refusals) : { ok: true, postings, facts: null }
  },
  after: async ({ db, state, actor }) => {
    await noteReturns(
      db,
      actor,
      state.settings,
      state.returns.map(({ row, code, date, text }) => ({ row, code, on: date, text })),
    )
    return { ids: state.returns.map(r => r.id) }
  },
  tell: ({ input }) =>
    input.returns.length === 1 ? input.returns[0] : { collections: input.returns.length },
  about: ({ returns }) =>
    returns.length === 1 ? `collection ${returns[0]!.id}` : `${returns.length} collections`,
})

const idsOf = (input: { returns: readonly { id: number }[] }): number[] => input.returns.map(r => r.id)

interface Back {
  code: string
  on: string
  text: string
}

type NotedReturn = Back & { row: Row }

/** Keeps that collections came back, and does what can be done at once. */
async function noteReturns(
  db: Handle,
  actor: { id: number },
  settings: Settings,
  returns: readonly NotedReturn[],
): Promise<void> {
  for (const { row, code, on, text } of returns) {
    const state = row.state === 'collected' ? 'returned' : 'refused'
    await db.update(
      'collection',
      { state, back_code: code, back_on: on, back_why: text.slice(0, 200) },
      { id: row.id },
    )
    const action = actionFor(code, settings.paymentPolicy.returnActions)
    if (action === 'stop' || action === 'correct')
      await suspendMandate(db, actor, row.mandateId, `${row.number} came back: ${reasonLabel(code)}`)
    await audit(db, actor.id, 'collection', row.number, row.state, `${state}: ${code} ${text}`.trim())
  }
  await db.insert(
    'message',
    returns.map(one => taskOf(actor, settings, one)),
  )
}

/** A task for who looks after the account. */
function taskOf(actor: { id: number }, settings: Settings, { row, code }: NotedReturn) {
  const what = row.state === 'collected' ? 'came back' : 'was refused'
  const why = reasonLabel(code).toLowerCase()
  return {
    customer_id: row.customerId,
    about: 'account',
    about_id: null,
    to_id: row.controllerId ?? actor.id,
    text: `Direct debit ${row.number} ${what}: ${why}. Its items are open again.`,
    on_date: settings.today,
    due: settings.today,
    person_id: actor.id,
  }
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
  if (before.state === 'sent') await refuseCollections(database, actor, [{ id: collectionId, ...ask }])
  else await perform(database, actor, returnCommand, { returns: [{ id: collectionId, ...ask }] }, idempotency)
  return readCollection(database, collectionId)
}

/** So many are posted in one transaction. */
const AT_ONCE = 500

/**
 * Many at once, as a bank tells them. What came back before, or was never with the bank, is left as it is,
 * so that an answer that was cut off in the middle goes on where it stopped.
 */
export async function returnCollections(
  database: Handle,
  actor: Actor,
  asks: readonly (ReturnAsk & { id: number })[],
): Promise<void> {
  // A bank may tell of one twice: the first counts.
  const once = [...new Map([...asks].reverse().map(a => [a.id, a])).values()].reverse()
  for (const some of chunksOf(once, AT_ONCE)) {
    const rows = await rowsOf(
      database,
      some.map(a => a.id),
    )
    const inState = (state: Row['state']) => {
      const ids = new Set(rows.filter(r => r.state === state).map(r => r.id))
      return some.filter(a => ids.has(a.id))
    }
    const [sent, collected] = [inState('sent'), inState('collected')]
    if (sent.length) await refuseCollections(database, actor, sent)
    if (collected.length) await perform(database, actor, returnCommand, { returns: collected })
  }
}

/** The bank will not collect: nothing was posted, so the items are simply free again. */
async function refuseCollections(
  database: Handle,
  actor: Actor,
  asks: readonly (ReturnAsk & { id: number })[],
): Promise<void> {
  const settings = await readSettings(database)
  const ids = asks.map(a => a.id)
  await database.transaction(async tx => {
    await tx.find('collection', { id: ids }, { columns: ['id'], order: ['id'], lock: true })
    const rows = await rowsOf(tx, ids)
    const gone = rows.find(r => r.state !== 'sent')
    if (gone)
      throw new ProblemError(409, 'Changed meanwhile', `${gone.number} is not with the bank any more: reload`)
    const byId = new Map(rows.map(r => [r.id, r]))
    await noteReturns(
      tx,
      actor,
      settings,
      asks.map(({ id: collectionId, code, on, text }) => ({
        row: byId.get(collectionId)!,
        ...{ code, on: on ?? settings.today, text: text ?? '' },
      })),
    )
  })
}

export const proveReturn = (database: Handle, actor: Actor, collectionId: number, ask: ReturnAsk) =>
  prove(database, actor, returnCommand, { returns: [{ id: collectionId, ...ask }] })

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
  const found = await tx.find(
    'collection',
    { receipt_item_id: returned.map(r => r.itemId), state: 'collected' },
    { columns: ['id'] },
  )
  if (!found.length) return
  const rows = await rowsOf(
    tx,
    found.map(f => f.id),
  )
  await noteReturns(
    tx,
    { id: actorId },
    await readSettings(tx),
    rows.map(row => ({ row, ...returned.find(r => r.itemId === row.receiptId)! })),
  )
}
