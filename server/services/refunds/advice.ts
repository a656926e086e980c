import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { refundSheet, unclaimedSheet, type RefundTold } from '../letters/paymentSheets'
import { addressee, sendLetter } from '../letters/send'
import { readSettings } from '../../db/settings'
import type { Actor } from '../people/scope'

const toldRefundRow = z.object({
  number: cell.text,
  currency: cell.text,
  iban: cell.text,
  method: z.enum(['cash', 'cheque', 'card', 'transfer']),
  customerId: cell.whole,
})

const toldRefundAllocationRow = z.object({
  number: cell.text,
  date: cell.day,
  amount: cell.whole,
})

/** A refund with the credits that it pays back, as a letter tells it. */
export async function toldRefund(db: Handle, itemId: number): Promise<RefundTold & { customerId: number }> {
  const [row] = await db.rows(
    toldRefundRow,
    `SELECT i.number, i.currency, i.customer_id AS customerId, f.method, f.iban FROM refund f
      JOIN item i ON i.id = f.item_id WHERE f.item_id = :itemId`,
    { itemId },
  )
  const credits = await db.rows(
    toldRefundAllocationRow,
    `SELECT k.number, k.document_date AS date, a.amount FROM allocation a JOIN item k ON k.id = a.credit_item_id
      WHERE a.debit_item_id = :itemId AND a.undoes_id IS NULL AND k.kind <> 'reversal' ORDER BY a.id`,
    { itemId },
  )
  return { ...row!, credits, cheque: '' }
}

/** Tells customers by mail what is being paid back to them: those of a file, when it goes to the bank. */
export async function adviseFile(
  tx: Handle,
  actor: { id: number },
  settings: Settings,
  fileId: number,
): Promise<number> {
  const rows = await tx.find('refund', { file_id: fileId }, { columns: { id: 'item_id' } })
  for (const { id } of rows) {
    const told = await toldRefund(tx, id)
    const to = await addressee(tx, told.customerId)
    // By e-mail only: nobody writes by post that a transfer comes.
    if (!to.email) continue
    const sheet = refundSheet(settings, to, told)
    await sendLetter(tx, actor, to, { kind: 'refund', sheet, asOf: settings.today, jobId: null })
  }
  return rows.length
}

const remindOfCreditsRow = z.object({
  customerId: cell.whole,
  currency: cell.text,
  number: cell.text,
  date: cell.text,
  amount: cell.whole,
})

/** Writes to customers that credit of theirs waits: one letter for each and currency. */
export async function remindOfCredits(
  database: Handle,
  actor: Actor,
  itemIds: readonly number[],
): Promise<{ sent: number }> {
  const settings = await readSettings(database)
  const rows = await database.rows(
    remindOfCreditsRow,
    `SELECT o.customer_id AS customerId, o.currency, i.number, i.document_date AS date, -o.open AS amount
      FROM open_item o JOIN item i ON i.id = o.item_id WHERE o.item_id IN (:itemIds) AND o.open < 0
      ORDER BY o.customer_id, o.currency, i.document_date, i.id`,
    { itemIds },
  )
  const letters = new Map<string, typeof rows>()
  for (const row of rows) {
    const key = `${row.customerId} ${row.currency}`
    letters.set(key, [...(letters.get(key) ?? []), row])
  }
  await database.transaction(async tx => {
    for (const credits of letters.values()) {
      const [{ customerId, currency }] = credits as [(typeof rows)[number]]
      const to = await addressee(tx, customerId)
      const sheet = unclaimedSheet(
        settings,
        to,
        currency,
        credits.map(c => ({ ...c, amount: Number(c.amount) })),
      )
      await sendLetter(tx, actor, to, { kind: 'unclaimed', sheet, asOf: settings.today, jobId: null })
    }
  })
  return { sent: letters.size }
}
