import { z } from 'zod'
import { cell } from '../../../db/rows'
import type { Handle } from '../../../db/handle'
import { takeLocks } from '../../../ledger/locks'
import { ProblemError } from '../../common/problems'
import type { Actor, Scope } from '../../people/scope'
import { writeFields } from './limit'
import { masterRow } from './read'

const openOnRow = z.object({
  items: cell.whole,
  waiting: cell.whole,
  orders: cell.whole,
  members: cell.whole,
})

/** What keeps an account from being closed, in words. */
async function openOn(tx: Handle, customerId: number): Promise<string[]> {
  const [row] = await tx.rows(
    openOnRow,
    `SELECT (SELECT COUNT(*) FROM open_item WHERE customer_id = :id) AS items,
      (SELECT COUNT(*) FROM waiting_command WHERE customer_id = :id AND state IN ('waiting', 'returned')) AS waiting,
      (SELECT COUNT(*) FROM sales_order WHERE customer_id = :id AND state = 'open') AS orders,
      (SELECT COUNT(*) FROM customer WHERE parent_id = :id AND closed_on IS NULL) AS members`,
    { id: customerId },
  )
  const { items, waiting, orders, members } = row!
  return [
    ...(items ? [`${items} ${items === 1 ? 'item is' : 'items are'} open`] : []),
    ...(orders ? [`${orders} ${orders === 1 ? 'order is' : 'orders are'} open`] : []),
    ...(waiting
      ? [`${waiting} ${waiting === 1 ? 'request waits' : 'requests wait'} for a second person`]
      : []),
    ...(members ? [`${members} ${members === 1 ? 'account stands' : 'accounts stand'} under it`] : []),
  ]
}

/** Closes an account, refused while anything is open on it; or opens it again. */
export async function closeCustomer(
  database: Handle,
  actor: Actor,
  number: string,
  body: { version: number; closed: boolean; reason: string },
  scope: Scope,
): Promise<{ version: number; closedOn: string | null }> {
  const { id } = await masterRow(database, number, scope)
  return database.transaction(async tx => {
    const { today } = await takeLocks(tx, { settings: 'change', customers: [id] })
    const row = await masterRow(tx, number, {})
    if (row.version !== body.version)
      throw new ProblemError(
        409,
        'Changed meanwhile',
        'somebody changed this customer: reload, then decide again',
      )
    if (row.mergedInto !== null)
      throw new ProblemError(409, 'One with another', `${number} is ${row.mergedInto} now: close that one`)
    const open = body.closed ? await openOn(tx, id) : []
    if (open.length)
      throw new ProblemError(
        409,
        'Not yet',
        `${number} cannot be closed: ${open.join(', ')}`,
        open.map(message => ({ path: 'closed', message, satisfy: 'settle it first' })),
      )
    const closedOn = body.closed ? today : null
    const fields = [
      { field: 'Account', before: row.closedOn ? 'closed' : 'open', after: body.closed ? 'closed' : 'open' },
    ]
    const version = await writeFields(
      tx,
      actor,
      row,
      { closed_on: closedOn },
      { reason: body.reason, fields },
    )
    return { version, closedOn }
  })
}
