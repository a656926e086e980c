import { z } from 'zod'
import { cell } from '../../db/rows'
import type { CardTerminal } from '../../ports/cardTerminal'
import { reasonLabel } from '../../../core/payments'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'
import { requireAbility } from '../../ledger/rights'
import { takeLocks } from '../../ledger/locks'
import type { Actor } from '../people/scope'
import { CARD_ASKED, REFUND_GONE, REFUND_SETTLED } from './refunds'
import { refuseRefund } from './undo'

/*
 * Refunds back to the card of the receipt. The terminal is asked once for each, by the refund's number:
 * where it was asked and its answer was lost, asking again gives the same answer.
 */

const cardRow = z.object({
  id: cell.whole,
  number: cell.text,
  customerId: cell.whole,
  amount: cell.whole,
  currency: cell.text,
  reference: cell.text,
})
type CardRow = z.output<typeof cardRow>

/** Refunds by card that the terminal has not paid; those it was asked for before are among them. */
const CARDS = `SELECT i.id, i.number, i.customer_id AS customerId, i.amount, i.currency,
    COALESCE((SELECT MAX(m.reference) FROM allocation a JOIN receipt_means m ON m.item_id = a.credit_item_id
      AND m.means = 'card' WHERE a.debit_item_id = i.id AND a.undoes_id IS NULL), '') AS reference
  FROM refund f JOIN item i ON i.id = f.item_id WHERE f.method = 'card' AND f.card_slip IN ('', '${CARD_ASKED}')
    AND NOT ${REFUND_GONE} AND NOT ${REFUND_SETTLED}`

/** What became of refunds at the terminal. */
export interface CardsTold {
  paid: number
  refused: { number: string; why: string }[]
}

/** Gives all refunds by card that wait to the terminal. What it refuses is open again, with a task. */
export async function payByCard(database: Handle, actor: Actor, terminal: CardTerminal): Promise<CardsTold> {
  requireAbility(actor, 'payments.send')
  const told: CardsTold = { paid: 0, refused: [] }
  for (const row of await database.rows(cardRow, `${CARDS} ORDER BY i.id`)) {
    if (!(await markAsked(database, row))) continue
    const { number, reference, amount, currency } = row
    const answer = await terminal.refund({ key: number, reference, amount, currency })
    if (answer.taken) {
      if (await keepSlip(database, actor, row, answer.slip)) told.paid++
      continue
    }
    const { code, text } = answer
    if (await refuseRefund(database, actor, row.id, { code, text, by: 'card terminal' }))
      told.refused.push({ number, why: `${reasonLabel(code)}${text ? `: ${text}` : ''}` })
  }
  return told
}

/** From now on nobody takes the refund back by hand; false when somebody did meanwhile. */
async function markAsked(database: Handle, { id, customerId }: CardRow): Promise<boolean> {
  return database.transaction(async tx => {
    await takeLocks(tx, { customers: [customerId] })
    const done = await tx.run(
      `UPDATE refund f SET f.card_slip = '${CARD_ASKED}' WHERE f.item_id = :id AND f.card_slip IN ('', '${CARD_ASKED}')
        AND NOT ${REFUND_GONE}`,
      { id },
    )
    // One that was asked for before is not changed by this, and still counts.
    if (done.affectedRows) return true
    return (await tx.select(`${CARDS} AND i.id = :id`, { id })).length > 0
  })
}

/** False when somebody else kept it. */
async function keepSlip(database: Handle, actor: Actor, row: CardRow, slip: string): Promise<boolean> {
  return database.transaction(async tx => {
    const done = await tx.update(
      'refund',
      { card_slip: slip.slice(0, 40) },
      { item_id: row.id, card_slip: CARD_ASKED },
    )
    if (!done) return false
    await audit(tx, actor.id, 'refund', row.number, 'waits for the card terminal', `paid, slip ${slip}`)
    return true
  })
}
