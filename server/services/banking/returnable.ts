import { z } from 'zod'
import { cell } from '../../db/rows'
import { addDays } from '../../../core/calendar'
import { textOf } from '../../../core/banking/matching/payers'
import type { MatchLine, Returnable } from '../../../core/banking/matching'
import { kindList } from '../../../core/ledger'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'

/*
 * What a bank can send back: receipts and refunds with the amount of a line, and those that a line names,
 * since the bank may have kept a charge for itself.
 */

const MONEY = kindList(k => k.money)
/** So many of one amount are enough to say that there are several. */
const MOST = 500
/** So long after it was paid a refund may come back. Ours. */
const BACK_DAYS = 120
/** Numbers of ours have no more signs, and at least one digit. */
const NUMBER = /^(?=.*\d)[\w/-]{4,35}$/

interface Wanted {
  /** What the bank took or gave, without sign. */
  amounts: number[]
  /** Numbers of documents that the lines name. */
  numbers: string[]
}

function wantedOf(lines: readonly MatchLine[]): Wanted {
  const told = lines.filter(l => l.returnReason).flatMap(l => textOf(l).split(/[\s,;:]+/))
  return {
    amounts: [0, ...new Set(lines.map(l => Math.abs(l.amount)))],
    numbers: ['-', ...new Set(told.filter(word => NUMBER.test(word)))],
  }
}

/** Receipts and refunds that the lines may be sending back. */
export async function returnableOf(
  database: Handle,
  settings: Settings,
  currency: string,
  lines: readonly MatchLine[],
): Promise<Returnable[]> {
  const backIn = lines.filter(l => l.amount > 0 && l.returnReason)
  const takenOut = lines.filter(l => l.amount < 0)
  return [
    ...(backIn.length ? await refundsBack(database, currency, backIn) : []),
    ...(takenOut.length ? await receiptsBack(database, settings, currency, takenOut) : []),
  ]
}

const refundsBackRow = z.object({
  number: cell.text,
  amount: cell.whole,
  date: cell.text,
  customerId: cell.whole,
  fee: cell.whole.optional(),
  name: cell.text,
  iban: cell.text,
  itemId: cell.whole,
})

/** Refunds that the bank paid and may send back: money that comes in again. */
async function refundsBack(
  database: Handle,
  currency: string,
  lines: readonly MatchLine[],
): Promise<Returnable[]> {
  const since = lines.map(l => l.bookingDate).reduce((a, b) => (a < b ? a : b))
  const rows = await database.rows(
    refundsBackRow,
    `SELECT i.id AS itemId, i.number, i.customer_id AS customerId, -i.amount AS amount,
      i.document_date AS date, f.iban, f.holder AS name FROM refund f JOIN item i ON i.id = f.item_id
      WHERE i.currency = :currency AND (i.amount IN (:amounts) OR i.number IN (:numbers))
      AND i.posting_date >= :since
      AND EXISTS (SELECT 1 FROM bank_match_target t WHERE t.kind = 'refund' AND t.ref_id = i.id
        AND t.live IS NOT NULL)
      AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id) ORDER BY i.id DESC LIMIT ${MOST}`,
    { currency, since: addDays(since, -BACK_DAYS), ...wantedOf(lines) },
  )
  return rows.map(r => ({ ...r, amount: Number(r.amount), references: [] }))
}

const receiptsBackRow = z.object({
  number: cell.text,
  amount: cell.whole,
  date: cell.text,
  customerId: cell.whole,
  fee: cell.whole.optional(),
  itemId: cell.whole,
  reference: cell.text.nullable(),
  iban: cell.text.nullable(),
  name: cell.text.nullable(),
  collected: cell.sum,
})

/** Receipts that the bank may take back. */
async function receiptsBack(
  database: Handle,
  settings: Settings,
  currency: string,
  lines: readonly MatchLine[],
): Promise<Returnable[]> {
  const rows = await database.rows(
    receiptsBackRow,
    `SELECT i.id AS itemId, i.number, i.customer_id AS customerId, i.amount, i.document_date AS date,
      (SELECT GROUP_CONCAT(m.reference SEPARATOR ' ') FROM receipt_means m
      WHERE m.item_id = i.id) AS reference, l.iban, l.name,
      EXISTS (SELECT 1 FROM collection k WHERE k.receipt_item_id = i.id) AS collected
    FROM (SELECT id FROM item WHERE kind IN (${MONEY}) AND currency = :currency AND amount IN (:amounts)
        UNION SELECT id FROM item WHERE kind IN (${MONEY}) AND currency = :currency AND number IN (:numbers)
        UNION SELECT receipt_item_id FROM collection WHERE number IN (:numbers)) s
    JOIN item i ON i.id = s.id
    LEFT JOIN bank_match b ON b.id = (SELECT MAX(t.match_id) FROM bank_match_target t
      WHERE t.kind = 'receipt' AND t.ref_id = i.id)
    LEFT JOIN bank_line l ON l.id = b.line_id
    WHERE NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id) ORDER BY i.id DESC LIMIT ${MOST}`,
    { currency, ...wantedOf(lines) },
  )
  return rows.map(({ reference, iban, name, collected, ...r }) => ({
    ...r,
    ...(Number(collected) ? { fee: settings.paymentPolicy.returnFee } : {}),
    iban: iban ?? '',
    name: name ?? '',
    references: (reference ?? '').split(/\s+/).filter(Boolean),
  }))
}
