import type { Sequelize } from 'sequelize'
import { select } from '../../server/db/connection'

/** Everything that is open, with its age and base amount: what must come back when everything is undone. */
export async function readAccountOpen(database: Sequelize): Promise<object[]> {
  return select(
    database,
    `SELECT i.number, o.open, o.base_open, o.due_date, o.customer_id FROM open_item o
      JOIN item i ON i.id = o.item_id ORDER BY i.id`,
  )
}
