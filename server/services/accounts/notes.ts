import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { type Actor } from '../people/scope'
import { type Customer } from './customers'

export async function writeNote(
  database: Handle,
  customer: Customer,
  text: string,
  actor: Actor,
): Promise<{ id: number }> {
  const { today } = await readSettings(database)
  const [id] = await database.insert('note', [
    { customer_id: customer.id, text, on_date: today, person_id: actor.id },
  ])
  return { id: id! }
}
