import { z } from 'zod'
import { cell } from '../../db/rows'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { findCustomer } from '../accounts/customers'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'

export async function addPause(
  database: Handle,
  actor: Actor,
  body: { customer: string; itemId?: number; reason: string; until: string },
): Promise<{ id: number }> {
  const { id: customerId } = await findCustomer(database, body.customer, {})
  return database.transaction(async tx => {
    // The account is held: a run that is being confirmed either has this pause or comes before it.
    const { today } = await takeLocks(tx, { customers: [customerId] })
    if (body.until < today)
      throw new ProblemError(422, 'Ends in the past', `a pause ends today, ${today}, or later`, [
        { path: 'until', message: `${today} or later` },
      ])
    if (body.itemId) {
      const [item] = await tx.find('item', { id: body.itemId, customer_id: customerId }, { columns: ['id'] })
      if (!item) throw notFound(`item ${body.itemId} of customer ${body.customer}`)
    }
    const [id] = await tx.insert('pause', [
      {
        customer_id: customerId,
        item_id: body.itemId ?? null,
        reason: body.reason,
        until_date: body.until,
        person_id: actor.id,
      },
    ])
    await audit(tx, actor.id, 'pause', body.customer, null, JSON.stringify(body))
    return { id: id! }
  })
}

const endPauseRow = z.object({
  customer: cell.text,
  ended: cell.whole,
})

export async function endPause(database: Handle, actor: Actor, id: number): Promise<void> {
  await database.transaction(async tx => {
    const [row] = await tx.rows(
      endPauseRow,
      `SELECT c.number AS customer, p.ended FROM pause p JOIN customer c ON c.id = p.customer_id
        WHERE p.id = :id FOR UPDATE`,
      { id },
    )
    if (!row) throw notFound(`pause ${id}`)
    if (row.ended) return
    await tx.update('pause', { ended: 1 }, { id })
    await audit(tx, actor.id, 'pause', row.customer, `pause ${id}`, 'ended')
  })
}
