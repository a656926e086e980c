import { z } from 'zod'
import { cell } from '../../db/rows'
import type { IsoDate } from '../../../core/calendar'
import { sooner } from '../../../core/forecast'
import type { Handle } from '../../db/handle'
import { whatWorked } from '../reminders/dryRun'

/** Customers who owe something that is overdue, and by how many days sooner a reminder brings their money. */
export interface Reminded {
  ids: number[]
  days: number
}

const remindedRow = z.object({
  id: cell.whole,
})

export async function reminded(db: Handle, asOf: IsoDate): Promise<Reminded> {
  const { items } = await whatWorked(db)
  const rows = await db.rows(
    remindedRow,
    `SELECT DISTINCT i.customer_id AS id FROM open_item o JOIN item i ON i.id = o.item_id
      WHERE o.open > 0 AND i.side = 'debit' AND i.due_date < :asOf ORDER BY i.customer_id`,
    { asOf },
  )
  return { ids: rows.map(r => r.id), days: sooner(items) }
}
