import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { notFound } from '../common/problems'
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

/** Pins a note, so that the Card shows it first, or lets it go. */
export async function pinNote(
  database: Handle,
  customer: Customer,
  id: number,
  pinned: boolean,
): Promise<{ pinned: boolean }> {
  const [row] = await database.find('note', { id, customer_id: customer.id }, { columns: ['id'] })
  if (!row) throw notFound(`note ${id} of ${customer.number}`)
  await database.update('note', { pinned: Number(pinned) }, { id })
  return { pinned }
}
