import type { Handle } from '../../server/db/handle'

/** Everything that is open, with its age and base amount: what must come back when everything is undone. */
export async function readAccountOpen(database: Handle): Promise<object[]> {
  return database.select(`SELECT i.number, o.open, o.base_open, o.due_date, o.customer_id FROM open_item o
      JOIN item i ON i.id = o.item_id ORDER BY i.id`)
}
