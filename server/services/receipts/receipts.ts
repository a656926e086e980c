import { z } from 'zod'
import { kindList } from '../../../core/ledger'
import type { ReceiptDetail, receipts } from '../../../contract/receipts'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { cut, decodeCursor, like } from '../common/paging'
import { notFound } from '../common/problems'
import { deductionsOfReceipt } from '../disputes/deductions'

const MONEY = kindList(k => k.money)

const RECEIPT_ROW = `i.id, i.number, i.document_date AS date, c.number AS customerNumber,
  c.name AS customerName, i.currency, i.amount, COALESCE(-o.open, 0) AS unallocated, p.name AS \`by\`, i.text,
  (SELECT GROUP_CONCAT(DISTINCT m.means ORDER BY m.id SEPARATOR ', ') FROM receipt_means m
    WHERE m.item_id = i.id) AS means,
  (SELECT GROUP_CONCAT(NULLIF(m.reference, '') ORDER BY m.id SEPARATOR ', ') FROM receipt_means m
    WHERE m.item_id = i.id) AS reference,
  EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id) AS reversed, i.kind, i.rest_use AS restUse,
  (SELECT COUNT(*) FROM receipt_means m WHERE m.item_id = i.id) AS meansCount,
  (SELECT COUNT(*) FROM receipt_means m WHERE m.item_id = i.id AND m.account = (SELECT number
    FROM ledger_account WHERE purpose = 'on-hand') AND NOT EXISTS (SELECT 1 FROM slip_means sm
    JOIN slip s ON s.id = sm.slip_id WHERE sm.means_id = m.id AND s.void_entry_id IS NULL)) AS inTray,
  (SELECT COUNT(*) FROM receipt_means m WHERE m.item_id = i.id AND (m.account IN (SELECT account
    FROM bank_account)
    OR m.met = 1 OR EXISTS (SELECT 1 FROM slip_means sm JOIN bank_match_target t ON t.kind = 'slip'
    AND t.ref_id = sm.slip_id JOIN bank_match b ON b.id = t.match_id WHERE sm.means_id = m.id
    AND b.undone_entry_id IS NULL))) AS settledCount`
const RECEIPT_FROM = `FROM item i JOIN customer c ON c.id = i.customer_id
    JOIN person p ON p.id = i.person_id LEFT
    JOIN open_item o ON o.item_id = i.id`
const receiptCells = z.object({
  id: cell.whole,
  number: cell.text,
  date: cell.day,
  customerNumber: cell.text,
  customerName: cell.text,
  currency: cell.text,
  amount: cell.whole,
  unallocated: cell.sum,
  by: cell.text,
  text: cell.text,
  means: cell.text.nullable(),
  reference: cell.text.nullable(),
  reversed: cell.flag,
  kind: z.enum(['receipt', 'advance']),
  restUse: cell.text,
  meansCount: cell.sum,
  inTray: cell.sum,
  settledCount: cell.sum,
})
type ReceiptRow = z.output<typeof receiptCells>

/** Covered becomes settled when the bank shows the money. */
function moneyState(r: ReceiptRow): ReceiptDetail['state'] {
  if (r.reversed) return 'reversed'
  const settled = int(r.settledCount)
  return settled === int(r.meansCount)
    ? 'settled'
    : settled
      ? 'partly settled'
      : int(r.inTray) === int(r.meansCount)
        ? 'tray'
        : 'covered'
}
const receiptRow = ({
  customerNumber,
  customerName,
  meansCount,
  inTray,
  settledCount,
  ...r
}: ReceiptRow) => ({
  ...r,
  state: moneyState({
    customerNumber,
    customerName,
    meansCount,
    inTray,
    settledCount,
    ...r,
  }),
  customer: { number: customerNumber, name: customerName },
  unallocated: int(r.unallocated),
  means: r.means ?? '',
  reference: r.reference ?? '',
  reversed: Boolean(r.reversed),
})

const receiptsRow = z.object({
  currency: cell.text,
  amount: cell.sum,
  unallocated: cell.sum,
  count: cell.sum,
})

export async function listReceipts(
  database: Handle,
  q: z.infer<NonNullable<(typeof receipts.list)['query']>>,
) {
  const values: Values = {}
  const where = [`i.kind IN (${MONEY})`]
  if (q.customer) {
    where.push('c.number = :customer')
    values.customer = q.customer
  }
  if (q.state === 'unallocated') where.push('o.open < 0')
  if (q.state === 'reversed') where.push('EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)')
  if (q.search) {
    const digits = q.search.replace(/[ ,.]/g, '')
    where.push(`(i.number LIKE :search OR c.name LIKE :search OR i.id IN (SELECT item_id FROM receipt_means
      WHERE reference LIKE :search)${/^\d+$/.test(digits) ? ' OR i.amount IN (:digits, :major)' : ''}
      OR i.id IN (SELECT a.credit_item_id FROM allocation a JOIN item d ON d.id = a.debit_item_id
        WHERE d.number = :exact))`)
    Object.assign(values, { search: like(q.search), exact: q.search, digits, major: `${digits}00` })
  }
  const matching = where.join(' AND ')
  const byCustomer = Boolean(q.customer || q.search)
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) [values.lastDate, values.lastId] = cursor
  const [rows, totals] = await Promise.all([
    // The page is chosen first: what is told of each receipt is then looked up for its rows only.
    database.rows(
      receiptCells,
      `SELECT ${RECEIPT_ROW} ${RECEIPT_FROM} JOIN (SELECT i.id AS chosen
      FROM item i ${byCustomer ? 'JOIN customer c ON c.id = i.customer_id' : ''}
      ${q.state === 'unallocated' ? 'JOIN open_item o ON o.item_id = i.id' : ''}
      WHERE ${matching}
      ${cursor ? 'AND (i.document_date < :lastDate OR (i.document_date = :lastDate AND i.id < :lastId))' : ''}
      ORDER BY i.document_date DESC, i.id DESC LIMIT ${q.limit + 1}) page ON page.chosen = i.id
      ORDER BY i.document_date DESC, i.id DESC`,
      values,
    ),
    database.rows(
      receiptsRow,
      `SELECT i.currency, SUM(i.amount) AS amount, SUM(COALESCE(-o.open, 0)) AS unallocated, COUNT(*) AS count
        FROM item i ${byCustomer ? 'JOIN customer c ON c.id = i.customer_id' : ''} LEFT
        JOIN open_item o ON o.item_id = i.id WHERE ${matching} GROUP BY i.currency ORDER BY i.currency`,
      values,
    ),
  ])
  const page = cut(rows, q.limit, r => [r.date, r.id])
  return {
    items: page.items.map(receiptRow),
    next: page.next,
    count: totals.reduce((a, t) => a + int(t.count), 0),
    totals: totals.map(t => ({
      currency: t.currency,
      amount: int(t.amount),
      unallocated: int(t.unallocated),
    })),
  }
}

const bankLineRow = z.object({
  id: cell.whole,
  date: cell.day,
  text: cell.text,
  direct: cell.flag,
})

const readReceiptRow = z.object({
  means: cell.text,
  amount: cell.whole,
  reference: cell.text,
  account: cell.text,
  accountName: cell.text,
})

const readReceiptAllocationRow = z.object({
  number: cell.text,
  amount: cell.whole,
  kind: cell.text,
  dueDate: cell.text,
  at: cell.text,
  effective: cell.text,
  itemId: cell.whole,
  by: cell.text,
  allocationId: cell.whole,
  undoes: cell.whole.nullable(),
  creditKind: cell.text,
  undone: cell.whole,
})

const readReceiptEntryRow = z.object({
  number: cell.whole,
})

const readReceiptBatchReceiptRow = z.object({
  id: cell.whole,
  number: cell.text,
})

export async function readReceipt(database: Handle, id: number): Promise<ReceiptDetail> {
  const [row] = await database.rows(
    receiptCells,
    `SELECT ${RECEIPT_ROW} ${RECEIPT_FROM} WHERE i.kind IN (${MONEY}) AND i.id = :id`,
    { id },
  )
  if (!row) throw notFound(`receipt ${id}`)
  const [meansLines, links, [reversal], entries, [batch], bankLines, [became], [was], deductions] =
    await Promise.all([
      database.rows(
        readReceiptRow,
        `SELECT m.means, m.amount, m.reference, m.account, a.name AS accountName FROM receipt_means m
          JOIN ledger_account a ON a.number = m.account WHERE m.item_id = :id ORDER BY m.id`,
        { id },
      ),
      database.rows(
        readReceiptAllocationRow,
        `
      SELECT a.id AS allocationId, c.kind AS creditKind, i.id AS itemId, i.number, i.kind,
        i.due_date AS dueDate, a.amount, a.effective, p.name AS \`by\`, a.at, a.undoes_id AS undoes,
        EXISTS (SELECT 1 FROM allocation u WHERE u.undoes_id = a.id) AS undone
      FROM allocation a JOIN item i ON i.id = a.debit_item_id JOIN item c ON c.id = a.credit_item_id
        JOIN person p ON p.id = a.person_id
      WHERE (c.id = :id OR c.born_of_item_id = :id OR c.born_of_item_id IN (SELECT k.id FROM item k
        WHERE k.born_of_item_id = :id)) AND NOT (c.born_of_item_id IS NOT NULL AND i.kind = 'reversal')
        ORDER BY a.id`,
        { id },
      ),
      database.find(
        'item',
        { reverses_item_id: id },
        { columns: { number: 'number', date: 'posting_date', reason: 'text' } },
      ),
      database.rows(
        readReceiptEntryRow,
        `
      SELECT DISTINCT e.number FROM entry e WHERE e.id IN (SELECT entry_id FROM item WHERE id = :id UNION
        SELECT entry_id FROM item WHERE reverses_item_id = :id UNION SELECT entry_id FROM allocation
        WHERE credit_item_id = :id) ORDER BY e.number`,
        { id },
      ),
      database.rows(
        readReceiptBatchReceiptRow,
        'SELECT b.id, b.number FROM batch_receipt r JOIN batch b ON b.id = r.batch_id WHERE r.item_id = :id',
        { id },
      ),
      database.rows(
        bankLineRow,
        `SELECT l.id, l.booking_date AS date, l.text, MAX(t.kind = 'receipt') AS direct
      FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id JOIN bank_line l ON l.id = b.line_id
      WHERE b.undone_entry_id IS NULL AND (
      (t.kind IN ('receipt', 'return') AND t.ref_id = :id) OR (t.kind = 'means' AND t.ref_id IN (SELECT m.id
        FROM receipt_means m WHERE m.item_id = :id)) OR (t.kind = 'slip' AND t.ref_id IN (SELECT sm.slip_id
        FROM slip_means sm JOIN receipt_means m ON m.id = sm.means_id WHERE m.item_id = :id))
      OR (t.kind = 'reversal' AND t.ref_id IN (SELECT r.id FROM item r WHERE r.reverses_item_id = :id)))
        GROUP BY l.id, l.booking_date, l.text ORDER BY l.id`,
        { id },
      ),
      database.rows(
        readReceiptBatchReceiptRow,
        `SELECT i.id, i.number FROM put_right p JOIN item i ON i.id = p.new_item_id WHERE p.old_item_id =
          :id`,
        { id },
      ),
      database.rows(
        readReceiptBatchReceiptRow,
        `SELECT i.id, i.number FROM put_right p JOIN item i ON i.id = p.old_item_id WHERE p.new_item_id =
          :id`,
        { id },
      ),
      deductionsOfReceipt(database, id),
    ])
  return {
    ...receiptRow(row),
    meansLines,
    links: links.map(l => ({ ...l, undone: Boolean(l.undone) })),
    reversal: reversal ?? null,
    entries: entries.map(e => e.number),
    batch: batch ?? null,
    bankLines: bankLines.map(l => ({ ...l, direct: Boolean(Number(l.direct)) })),
    became: became ?? null,
    was: was ?? null,
    deductions,
  }
}
