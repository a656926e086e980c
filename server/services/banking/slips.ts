import { z } from 'zod'
import type { TrayMeans } from '../../../core/banking'
import type { SlipDetail, SlipRow, TrayItem } from '../../../contract/banking/slips'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { slipPdf } from '../../letters/slip'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound } from '../common/problems'

const LIVE_SLIP = `(SELECT p.number FROM slip_means sm JOIN slip p ON p.id = sm.slip_id
  WHERE sm.means_id = m.id AND p.void_entry_id IS NULL)`
export const REVERSED =
  '(s.void_entry_id IS NOT NULL OR EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id))'
/** Receipts of customers, and sundry ones, whose means lie under the negative of their id. */
export const FROM_RECEIPTS = `LEFT JOIN item i ON i.id = m.item_id LEFT
    JOIN customer c ON c.id = i.customer_id LEFT
    JOIN sundry_receipt s ON s.id = -m.item_id`

const trayRow = z.object({
  id: cell.whole,
  receiptId: cell.whole,
  receipt: cell.text,
  customerNumber: cell.text,
  customerName: cell.text,
  means: z.enum(['cash', 'cheque']),
  reference: cell.text,
  date: cell.text,
  currency: cell.text,
  amount: cell.whole,
})
type TrayRow = z.output<typeof trayRow>
const TRAY = `SELECT m.id, COALESCE(i.id, 0) AS receiptId, COALESCE(i.number, s.number) AS receipt,
  COALESCE(c.number, '') AS customerNumber, COALESCE(c.name, s.payer) AS customerName, m.means, m.reference,
  COALESCE(i.document_date, s.date) AS date, COALESCE(i.currency, s.currency) AS currency, m.amount
  FROM receipt_means m ${FROM_RECEIPTS}`
const trayItem = ({ customerNumber, customerName, ...r }: TrayRow): TrayItem => ({
  ...r,
  customer: { number: customerNumber, name: customerName },
})

/** What lies in the Tray: posted, not reversed, on no slip. */
export async function readTray(database: Handle, q: { search?: string; currency?: string }) {
  const found = ['c.name', 's.payer', 'm.reference', 'i.number', 's.number']
    .map(column => `${column} LIKE :search`)
    .join(' OR ')
  const rows = await database.rows(
    trayRow,
    `${TRAY} WHERE m.account = (SELECT number FROM ledger_account WHERE purpose = 'on-hand')
    AND ${LIVE_SLIP} IS NULL AND NOT ${REVERSED} ${q.search ? `AND (${found})` : ''}
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

const meansOfRow = z.object({
  id: cell.whole,
  receipt: cell.text,
  means: z.enum(['cash', 'cheque', 'card', 'transfer', 'debit']),
  currency: cell.text,
  amount: cell.whole,
  baseAmount: cell.whole,
  date: cell.text,
  slip: cell.text.nullable(),
  customerId: cell.whole.nullable(),
  reversed: cell.whole,
})

/** The means named, as the decision needs them, with their customers. */
export async function meansOf(
  database: Handle,
  ids: readonly number[],
): Promise<{ means: TrayMeans[]; customerIds: number[] }> {
  const rows = await database.rows(
    meansOfRow,
    `
    SELECT m.id, COALESCE(i.number, s.number) AS receipt, m.means, COALESCE(i.currency,
      s.currency) AS currency, m.amount, m.base_amount AS baseAmount, COALESCE(i.document_date,
      s.date) AS date, ${LIVE_SLIP} AS slip, ${REVERSED} AS reversed, i.customer_id AS customerId
    FROM receipt_means m ${FROM_RECEIPTS} WHERE m.id IN (:ids) AND m.account = (SELECT number
      FROM ledger_account WHERE purpose = 'on-hand')`,
    { ids },
  )
  return {
    means: rows.map(({ customerId: _, ...r }) => ({ ...r, reversed: Boolean(r.reversed) })),
    customerIds: rows.flatMap(r => (r.customerId === null ? [] : [r.customerId])),
  }
}

const slipCells = z.object({
  id: cell.whole,
  number: cell.text,
  date: cell.day,
  currency: cell.text,
  total: cell.whole,
  cashKept: cell.whole,
  count: cell.sum,
  voidEntryId: cell.whole.nullable(),
  voidReason: cell.text,
  entryId: cell.whole,
  by: cell.text,
})
type SlipData = z.output<typeof slipCells>

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

export async function listSlips(database: Handle, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 1)
  const rows = await database.rows(
    slipCells,
    `${SLIP} ${cursor ? 'WHERE s.id < :lastId' : ''} ORDER BY s.id DESC LIMIT ${q.limit + 1}`,
    { lastId: cursor?.[0] ?? 0 },
  )
  const page = cut(rows, q.limit, r => [r.id])
  return { items: page.items.map(slipRow), next: page.next }
}

export async function slipData(database: Handle, id: number): Promise<SlipData> {
  const [row] = await database.rows(slipCells, `${SLIP} WHERE s.id = :id`, { id })
  if (!row) throw notFound(`slip ${id}`)
  return row
}

export async function readSlip(database: Handle, id: number): Promise<SlipDetail> {
  const row = await slipData(database, id)
  const [means, entries] = await Promise.all([
    database.rows(
      trayRow,
      `${TRAY} JOIN slip_means sm ON sm.means_id = m.id WHERE sm.slip_id = :id ORDER BY m.means, m.id`,
      { id },
    ),
    database.find(
      'entry',
      { id: [row.entryId, row.voidEntryId ?? 0] },
      { columns: ['number'], order: ['id'] },
    ),
  ])
  return {
    ...slipRow(row),
    means: means.map(trayItem),
    entries: entries.map(e => e.number),
    voidReason: row.voidReason,
  }
}

export async function slipAsPdf(database: Handle, id: number): Promise<{ number: string; pdf: Buffer }> {
  const [slip, { company }] = await Promise.all([readSlip(database, id), readSettings(database)])
  return { number: slip.number, pdf: await slipPdf(slip, company) }
}
