import { z } from 'zod'
import { addDays, type IsoDate } from '../../../core/calendar'
import { FILE_STATES, reasonLabel, type FileState } from '../../../core/payments'
import type { RefundMethod } from '../../../core/refunds'
import type { RefundRow, refunds as operations } from '../../../contract/refunds'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound } from '../common/problems'
import { findCustomer } from '../accounts/customers'

const cells = z.object({
  id: cell.whole,
  number: cell.text,
  customerNumber: cell.text,
  customerName: cell.text,
  date: cell.day,
  method: z.enum(['transfer', 'cheque', 'card', 'cash']),
  currency: cell.text,
  amount: cell.whole,
  iban: cell.text,
  holder: cell.text,
  text: cell.text,
  reason: cell.text,
  reasonText: cell.text,
  reversedOn: cell.day.nullable(),
  settled: cell.flag,
  fileId: cell.whole.nullable(),
  fileNumber: cell.text.nullable(),
  fileState: cell.text.nullable(),
  slip: cell.text,
  chequeId: cell.whole.nullable(),
  chequeNumber: cell.text.nullable(),
  chequeOn: cell.day.nullable(),
  by: cell.text,
})
type Cells = z.output<typeof cells>

/** Stands for the slip of the card terminal while it is asked. */
export const CARD_ASKED = 'asked'

/** In SQL, of a refund `f` and its item `i`. */
export const REFUND_SETTLED = `EXISTS (SELECT 1 FROM bank_match_target t WHERE t.kind = 'refund'
  AND t.ref_id = f.item_id AND t.live IS NOT NULL)`
export const REFUND_GONE = 'EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = f.item_id)'
/** Not paid, not taken back: a transfer waits for a file, a card for the terminal, a cheque to be written. */
export const REFUND_WAITS = `f.method <> 'cash' AND f.card_slip = '' AND f.file_id IS NULL AND NOT ${REFUND_GONE}
  AND NOT ${REFUND_SETTLED} AND NOT EXISTS (SELECT 1 FROM refund_cheque w WHERE w.refund_item_id = f.item_id
    AND w.void_on IS NULL)`

const REFUND = `SELECT i.id, i.number, c.number AS customerNumber, c.name AS customerName, i.posting_date AS date,
    f.method, i.currency, i.amount, f.iban, f.holder, i.text, f.reason, f.reason_text AS reasonText,
    (SELECT v.posting_date FROM item v WHERE v.reverses_item_id = i.id) AS reversedOn,
    ${REFUND_SETTLED} AS settled, p.id AS fileId, p.number AS fileNumber, p.state AS fileState,
    f.card_slip AS slip, q.id AS chequeId, q.number AS chequeNumber, q.issued_on AS chequeOn, w.name AS \`by\`
  FROM refund f JOIN item i ON i.id = f.item_id JOIN customer c ON c.id = i.customer_id
    JOIN person w ON w.id = i.person_id LEFT JOIN payment_file p ON p.id = f.file_id
    LEFT JOIN refund_cheque q ON q.refund_item_id = f.item_id AND q.void_on IS NULL`

function stateOf(row: Cells): Pick<RefundRow, 'state' | 'told'> {
  if (row.settled && row.reversedOn !== null)
    return { state: 'refused', told: `came back on ${row.reversedOn}: the credit is open again` }
  if (row.reversedOn !== null && row.reason)
    return { state: 'refused', told: `not paid: ${reasonLabel(row.reason).toLowerCase()}` }
  if (row.reversedOn !== null) return { state: 'taken-back', told: `taken back: ${row.reasonText}` }
  if (row.method === 'cash') return { state: 'settled', told: 'paid from petty cash' }
  if (row.settled) return { state: 'settled', told: 'seen on the bank statement' }
  if (row.chequeNumber !== null)
    return { state: 'sent', told: `cheque ${row.chequeNumber} of ${row.chequeOn}, not cashed yet` }
  if (row.method === 'card') return cardState(row.slip)
  if (row.fileNumber !== null) {
    const words = FILE_STATES[row.fileState as FileState].toLowerCase()
    return {
      state: row.fileState === 'made' ? 'in-file' : 'sent',
      told: `${row.fileNumber}: ${words}`,
    }
  }
  return row.method === 'cheque'
    ? { state: 'cheque', told: 'its cheque is not written yet' }
    : { state: 'waits', told: 'waits for a file' }
}

function cardState(slip: string): Pick<RefundRow, 'state' | 'told'> {
  if (slip === '') return { state: 'waits', told: 'waits for the card terminal' }
  if (slip === CARD_ASKED)
    return { state: 'waits', told: 'the card terminal was asked and its answer was lost: ask again' }
  return { state: 'sent', told: `paid by the card terminal, slip ${slip}, awaited from the bank` }
}

const creditsOfRow = z.object({
  refundId: cell.whole,
  id: cell.whole,
  number: cell.text,
  amount: cell.whole,
})

async function creditsOf(
  database: Handle,
  ids: readonly number[],
): Promise<Map<number, RefundRow['credits']>> {
  const byRefund = new Map<number, RefundRow['credits']>()
  if (!ids.length) return byRefund
  const rows = await database.rows(
    creditsOfRow,
    `SELECT a.debit_item_id AS refundId, k.id, k.number, a.amount FROM allocation a
      JOIN item k ON k.id = a.credit_item_id AND k.kind <> 'reversal'
      WHERE a.debit_item_id IN (:ids) AND a.undoes_id IS NULL ORDER BY a.id`,
    { ids },
  )
  for (const { refundId, ...credit } of rows)
    byRefund.set(refundId, [...(byRefund.get(refundId) ?? []), credit])
  return byRefund
}

async function shown(
  database: Handle,
  rows: readonly Cells[],
  { today, chequeDays }: { today: IsoDate; chequeDays: number },
): Promise<RefundRow[]> {
  const credits = await creditsOf(
    database,
    rows.map(r => r.id),
  )
  return rows.map(row => ({
    id: row.id,
    number: row.number,
    customer: { number: row.customerNumber, name: row.customerName },
    date: row.date,
    method: row.method as RefundMethod,
    currency: row.currency,
    amount: row.amount,
    iban: row.iban,
    holder: row.holder,
    text: row.text,
    ...stateOf(row),
    file: row.fileId === null ? null : { id: row.fileId, number: row.fileNumber!, state: row.fileState! },
    cheque:
      row.chequeId === null
        ? null
        : {
            id: row.chequeId,
            number: row.chequeNumber!,
            issuedOn: row.chequeOn!,
            late: !row.settled && addDays(row.chequeOn!, chequeDays) < today,
          },
    credits: credits.get(row.id) ?? [],
    by: row.by,
  }))
}

type Query = z.output<NonNullable<(typeof operations.list)['query']>>

export async function listRefunds(database: Handle, q: Query) {
  const { today, paymentPolicy } = await readSettings(database)
  const values: Values = {}
  const where: string[] = []
  if (q.state === 'waits') where.push(`(${REFUND_WAITS})`)
  if (q.state === 'open') where.push(`f.method <> 'cash' AND NOT ${REFUND_GONE} AND NOT ${REFUND_SETTLED}`)
  if (q.customer) {
    values.customerId = (await findCustomer(database, q.customer, {})).id
    where.push('i.customer_id = :customerId')
  }
  if (q.search) {
    values.search = like(q.search)
    where.push(
      `(i.number LIKE :search OR c.name LIKE :search OR c.number LIKE :search OR q.number LIKE :search
        OR f.iban LIKE :search)`,
    )
  }
  const all = where.length ? `WHERE ${where.join(' AND ')}` : ''
  const cursor = decodeCursor(q.cursor, 1)
  if (cursor) [values.lastId] = cursor
  const and = where.length ? 'AND' : 'WHERE'
  const [rows, totals] = await Promise.all([
    database.rows(
      cells,
      `${REFUND} ${all} ${cursor ? `${and} i.id < :lastId` : ''} ORDER BY i.id DESC LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(
      z.object({ currency: cell.text, amount: cell.sum, count: cell.sum }),
      `SELECT x.currency, SUM(x.amount) AS amount, COUNT(*) AS count FROM (${REFUND} ${all}) x
        WHERE x.reversedOn IS NULL GROUP BY x.currency ORDER BY x.currency`,
      values,
    ),
  ])
  const page = cut(rows, q.limit, r => [r.id])
  return {
    items: await shown(database, page.items, { today, chequeDays: paymentPolicy.chequeDays }),
    totals: totals.map(t => ({ currency: t.currency, amount: int(t.amount), count: int(t.count) })),
    next: page.next,
  }
}

export async function readRefund(database: Handle, itemId: number): Promise<RefundRow> {
  const { today, paymentPolicy } = await readSettings(database)
  const rows = await database.rows(cells, `${REFUND} WHERE i.id = :itemId`, { itemId })
  if (!rows.length) throw notFound(`refund ${itemId}`)
  return (await shown(database, rows, { today, chequeDays: paymentPolicy.chequeDays }))[0]!
}
