import type { Sequelize, Transaction } from 'sequelize'
import type { z } from 'zod'
import { postSlip, voidSlip, type TrayMeans } from '../../../core/banking'
import { type Decision, type LedgerState, type Line } from '../../../core/ledger'
import type { slipBody, SlipDetail, SlipRow, TrayItem } from '../../../contract/banking/slips'
import type { Proof } from '../../../contract/receipts'
import { int, select } from '../../db/connection'
import { audit, readSettings } from '../../db/settings'
import { posted, throughDoor } from '../../ledger/door'
import { loadState } from '../../ledger/load'
import { takeNumbers } from '../../ledger/write'
import { slipPdf } from '../../letters/slip'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound } from '../common/problems'
import type { Actor } from '../people/scope'

const LIVE_SLIP = `(SELECT p.number FROM slip_means sm JOIN slip p ON p.id = sm.slip_id
  WHERE sm.means_id = m.id AND p.void_entry_id IS NULL)`
const REVERSED =
  '(s.void_entry_id IS NOT NULL OR EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id))'
/** Receipts of customers, and sundry ones, whose means lie under the negative of their id. */
const FROM_RECEIPTS = `LEFT JOIN item i ON i.id = m.item_id LEFT JOIN customer c ON c.id = i.customer_id LEFT
    JOIN sundry_receipt s ON s.id = -m.item_id`

interface TrayRow {
  id: number
  receiptId: number
  receipt: string
  customerNumber: string
  customerName: string
  means: 'cash' | 'cheque'
  reference: string
  date: string
  currency: string
  amount: number
}
const TRAY = `SELECT m.id, COALESCE(i.id, 0) AS receiptId, COALESCE(i.number, s.number) AS receipt,
  COALESCE(c.number, '') AS customerNumber, COALESCE(c.name, s.payer) AS customerName, m.means, m.reference,
  COALESCE(i.document_date, s.date) AS date, COALESCE(i.currency, s.currency) AS currency, m.amount
  FROM receipt_means m ${FROM_RECEIPTS}`
const trayItem = ({ customerNumber, customerName, ...r }: TrayRow): TrayItem => ({
  ...r,
  customer: { number: customerNumber, name: customerName },
})

/** What lies in the Tray: posted, not reversed, on no slip. */
export async function readTray(database: Sequelize, q: { search?: string; currency?: string }) {
  const rows = await select<TrayRow>(
    database,
    `${TRAY} WHERE m.account = (SELECT number FROM ledger_account WHERE purpose = 'on-hand')
    AND ${LIVE_SLIP} IS NULL AND NOT ${REVERSED}
    ${q.search ? 'AND (c.name LIKE :search OR s.payer LIKE :search OR m.reference LIKE :search OR i.number LIKE :search OR s.number LIKE :search)' : ''}
      ${q.currency ? 'AND COALESCE(i.currency, s.currency) = :currency' : ''} ORDER BY currency, date, m.id`,
    { search: like(q.search ?? ''), currency: q.currency ?? '' },
  )
  const totals = [...new Set(rows.map(r => r.currency))].map(currency => {
    const own = rows.filter(r => r.currency === currency)
    const sum = (means: string) => own.filter(r => r.means === means).reduce((a, r) => a + r.amount, 0)
    return { currency, cash: sum('cash'), cheques: sum('cheque'), count: own.length }
  })
  return { items: rows.map(trayItem), totals }
}

/** The means named, as the decision needs them, with their customers. */
async function meansOf(
  database: Sequelize,
  ids: readonly number[],
  tx?: Transaction,
): Promise<{ means: TrayMeans[]; customerIds: number[] }> {
  const rows = await select<Omit<TrayMeans, 'reversed'> & { customerId: number | null; reversed: number }>(
    database,
    `
    SELECT m.id, COALESCE(i.number, s.number) AS receipt, m.means, COALESCE(i.currency,
      s.currency) AS currency, m.amount, m.base_amount AS baseAmount, COALESCE(i.document_date,
      s.date) AS date, ${LIVE_SLIP} AS slip, ${REVERSED} AS reversed, i.customer_id AS customerId
    FROM receipt_means m ${FROM_RECEIPTS} WHERE m.id IN (:ids) AND m.account = (SELECT number
      FROM ledger_account WHERE purpose = 'on-hand')`,
    { ids },
    tx,
  )
  return {
    means: rows.map(({ customerId: _, ...r }) => ({ ...r, reversed: Boolean(r.reversed) })),
    customerIds: rows.flatMap(r => (r.customerId === null ? [] : [r.customerId])),
  }
}

type SlipBody = z.infer<typeof slipBody>

/** A decision that concerns no account, told as a Proof. */
async function tellProof(database: Sequelize, decision: Decision): Promise<Proof> {
  const { base } = await readSettings(database)
  if (!decision.ok)
    return {
      ok: false,
      refusals: decision.refusals,
      base,
      lines: [],
      changes: null,
      warnings: [],
      links: [],
    }
  const names = new Map(
    (await select<{ number: string; name: string }>(database, 'SELECT number, name FROM ledger_account')).map(
      a => [a.number, a.name],
    ),
  )
  return {
    ok: true,
    refusals: [],
    base,
    changes: null,
    warnings: [],
    links: [],
    lines: decision.posting.lines.map(l => ({
      account: l.account,
      name: names.get(l.account) ?? l.account,
      note: '',
      currency: l.currency,
      amount: l.amount,
      baseAmount: l.baseAmount,
    })),
  }
}

export async function previewSlip(database: Sequelize, body: SlipBody): Promise<Proof> {
  const { means } = await meansOf(database, body.means)
  return tellProof(
    database,
    postSlip(await loadState(database, { customerIds: [] }), { ...body, means, wanted: body.means }),
  )
}

export async function takeToBank(
  database: Sequelize,
  actor: Actor,
  body: SlipBody,
  idempotency?: { key: string; request: unknown },
): Promise<SlipDetail> {
  const { customerIds } = await meansOf(database, body.means)
  // The accounts are locked, so that none of these receipts is reversed or taken to the bank by somebody else
  // meanwhile.
  const { id } = await throughDoor(database, { customerIds, personId: actor.id, idempotency }, async door => {
    const { means } = await meansOf(database, body.means, door.tx)
    const posting = posted(postSlip(door.state, { ...body, means, wanted: body.means }))
    const number = (await takeNumbers(database, door.tx, 'slip', 1))(0)
    const [written] = await door.write([{ ...posting, text: `Paying-in slip ${number}` }])
    const query = database.getQueryInterface()
    const slipId = int(
      await query.bulkInsert(
        'slip',
        [
          {
            number,
            date: body.date,
            currency: means[0]!.currency,
            total: means.reduce((a, m) => a + m.amount, 0),
            cash_kept: body.cashKept,
            entry_id: written!.entryId,
            person_id: actor.id,
          },
        ],
        { transaction: door.tx },
      ),
    )
    await query.bulkInsert(
      'slip_means',
      body.means.map(m => ({ slip_id: slipId, means_id: m })),
      { transaction: door.tx },
    )
    return { id: slipId }
  })
  return readSlip(database, id)
}

interface SlipData {
  id: number
  number: string
  date: string
  currency: string
  total: number
  cashKept: number
  count: unknown
  voidEntryId: number | null
  voidReason: string
  entryId: number
  by: string
}
const SLIP = `SELECT s.id, s.number, s.date, s.currency, s.total, s.cash_kept AS cashKept, (SELECT COUNT(*)
  FROM slip_means sm WHERE sm.slip_id = s.id) AS count, s.void_entry_id AS voidEntryId,
  s.void_reason AS voidReason, s.entry_id AS entryId, p.name AS \`by\`
  FROM slip s JOIN person p ON p.id = s.person_id`
const slipRow = ({ voidEntryId, voidReason: _, entryId: __, count, ...r }: SlipData): SlipRow => ({
  ...r,
  count: int(count),
  banked: r.total - r.cashKept,
  voided: voidEntryId !== null,
})

export async function listSlips(database: Sequelize, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 1)
  const rows = await select<SlipData>(
    database,
    `${SLIP} ${cursor ? 'WHERE s.id < :lastId' : ''} ORDER BY s.id DESC LIMIT ${q.limit + 1}`,
    { lastId: cursor?.[0] ?? 0 },
  )
  const page = cut(rows, q.limit, r => [r.id])
  return { items: page.items.map(slipRow), next: page.next }
}

async function slipData(database: Sequelize, id: number, tx?: Transaction, lock = ''): Promise<SlipData> {
  const [row] = await select<SlipData>(database, `${SLIP} WHERE s.id = :id ${lock}`, { id }, tx)
  if (!row) throw notFound(`slip ${id}`)
  return row
}

export async function readSlip(database: Sequelize, id: number): Promise<SlipDetail> {
  const row = await slipData(database, id)
  const [means, entries] = await Promise.all([
    select<TrayRow>(
      database,
      `${TRAY} JOIN slip_means sm ON sm.means_id = m.id WHERE sm.slip_id = :id ORDER BY m.means, m.id`,
      { id },
    ),
    select<{ number: number }>(database, 'SELECT number FROM entry WHERE id IN (:ids) ORDER BY id', {
      ids: [row.entryId, row.voidEntryId ?? 0],
    }),
  ])
  return {
    ...slipRow(row),
    means: means.map(trayItem),
    entries: entries.map(e => e.number),
    voidReason: row.voidReason,
  }
}

/** What voiding a slip would post, decided on the slip as it is now. */
async function decideVoid(
  database: Sequelize,
  state: LedgerState,
  id: number,
  date: string,
  tx?: Transaction,
): Promise<{ slip: SlipData; decision: ReturnType<typeof voidSlip> }> {
  const slip = await slipData(database, id, tx, tx ? 'FOR UPDATE' : '')
  const [[reversed], [settled], lines] = await Promise.all([
    select<{ number: string }>(
      database,
      `SELECT COALESCE(i.number, s.number) AS number FROM slip_means sm
        JOIN receipt_means m ON m.id = sm.means_id ${FROM_RECEIPTS} WHERE sm.slip_id = :id AND ${REVERSED}
        LIMIT 1`,
      { id },
      tx,
    ),
    select(
      database,
      `SELECT 1 AS x FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id WHERE t.kind = 'slip'
        AND t.ref_id = :id AND b.undone_entry_id IS NULL LIMIT 1`,
      { id },
      tx,
    ),
    select<Line>(
      database,
      `SELECT account, currency, amount, base_amount AS baseAmount, customer_id AS customerId, NULL AS item,
        NULL AS allocation FROM journal_line WHERE entry_id = :entryId ORDER BY id`,
      { entryId: slip.entryId },
      tx,
    ),
  ])
  return {
    slip,
    decision: voidSlip(state, {
      date,
      slip: slip.number,
      slipDate: slip.date,
      voided: slip.voidEntryId !== null,
      settled: settled !== undefined,
      reversedReceipt: reversed?.number ?? null,
      lines,
    }),
  }
}

export async function previewVoid(database: Sequelize, id: number, date: string): Promise<Proof> {
  return tellProof(
    database,
    (await decideVoid(database, await loadState(database, { customerIds: [] }), id, date)).decision,
  )
}

export async function voidSlipById(
  database: Sequelize,
  actor: Actor,
  id: number,
  body: { date: string; reason: string },
): Promise<SlipDetail> {
  const means = await select<{ customerId: number }>(
    database,
    `SELECT i.customer_id AS customerId FROM slip_means sm JOIN receipt_means m ON m.id = sm.means_id
      JOIN item i ON i.id = m.item_id WHERE sm.slip_id = :id`,
    { id },
  )
  await slipData(database, id)
  await throughDoor(
    database,
    { customerIds: means.map(m => m.customerId), personId: actor.id },
    async door => {
      const { slip, decision } = await decideVoid(database, door.state, id, body.date, door.tx)
      const [written] = await door.write([posted(decision)])
      await database.query('UPDATE slip SET void_entry_id = :entry, void_reason = :reason WHERE id = :id', {
        replacements: { entry: written!.entryId, reason: body.reason, id },
        transaction: door.tx,
      })
      await audit(database, actor.id, 'slip', slip.number, 'taken', `voided: ${body.reason}`, door.tx)
      return null
    },
  )
  return readSlip(database, id)
}

export async function slipAsPdf(database: Sequelize, id: number): Promise<{ number: string; pdf: Buffer }> {
  const [slip, { company }] = await Promise.all([readSlip(database, id), readSettings(database)])
  return { number: slip.number, pdf: await slipPdf(slip, company) }
}

/**
 * The lines to mirror when a receipt is reversed: what was taken to the bank, or was seen there, comes back
 * through clearing, where the bank's own line meets it; the rest comes back from where it lies.
 */
export async function linesWhereMoneyIs(
  database: Sequelize,
  state: LedgerState,
  itemId: number,
  lines: readonly Line[],
  tx?: Transaction,
): Promise<Line[]> {
  const [banked, accounts] = await Promise.all([
    select<{ amount: number; baseAmount: number }>(
      database,
      `SELECT m.amount, m.base_amount AS baseAmount FROM receipt_means m WHERE m.item_id = :itemId
        AND ${LIVE_SLIP} IS NOT NULL`,
      { itemId },
      tx,
    ),
    select<{ account: string }>(database, 'SELECT account FROM bank_account', {}, tx),
  ])
  const left = [...banked]
  return lines.map(l => {
    if (accounts.some(b => b.account === l.account)) return { ...l, account: state.chart.clearing }
    const at =
      l.account === state.chart['on-hand']
        ? left.findIndex(b => b.amount === l.amount && b.baseAmount === l.baseAmount)
        : -1
    if (at < 0) return l
    left.splice(at, 1)
    return { ...l, account: state.chart.clearing }
  })
}
