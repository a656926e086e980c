import { z } from 'zod'
import { kindList } from '../../../core/ledger'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { accountsQuery } from '../../../contract/accounts'
import type { Values } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { cut, decodeCursor, like } from '../common/paging'
import { type Customer } from './customers'
import { type Actor, type Scope } from '../people/scope'

export const MONEY = kindList(k => k.money)

const accountsRow = z.object({
  number: cell.text,
  name: cell.text,
  currency: cell.text,
  country: cell.text,
  city: cell.text,
  class: cell.text,
  contact: cell.text,
  phone: cell.text,
  open: cell.sum,
  overdue: cell.sum,
})

export async function listAccounts(database: Handle, q: z.infer<typeof accountsQuery>, scope: Scope) {
  // A record that only finds another is no account of its own.
  const where = ['merged_into IS NULL']
  const { today } = await readSettings(database)
  const values: Values = { salesId: scope.salesId ?? 0, today }
  if (scope.salesId) where.push('sales_id = :salesId')
  if (q.search) {
    where.push('(name LIKE :search OR number LIKE :search)')
    values.search = like(q.search)
  }
  const cursor = decodeCursor(q.cursor, 2)
  if (cursor) {
    where.push('(name > :lastName OR (name = :lastName AND number > :lastNumber))')
    ;[values.lastName, values.lastNumber] = cursor
  }
  const rows = await database.rows(
    accountsRow,
    // The page is chosen first: only its accounts are summed.
    `SELECT c.number, c.name, c.currency, c.country, c.city, COALESCE(k.name, c.class) AS class, c.contact,
      c.phone, COALESCE(SUM(o.base_open), 0) AS open,
      COALESCE(SUM(IF(o.open > 0 AND o.due_date < :today, o.base_open, 0)), 0) AS overdue
      FROM (SELECT id FROM customer WHERE ${where.join(' AND ')} ORDER BY name, number LIMIT ${q.limit + 1}) page
      JOIN customer c ON c.id = page.id LEFT JOIN customer_class k ON k.code = c.class
      LEFT JOIN open_item o ON o.customer_id = c.id GROUP BY c.id ORDER BY c.name, c.number`,
    values,
  )
  const page = cut(rows, q.limit, r => [r.name, r.number])
  return {
    ...page,
    items: page.items.map(r => ({ ...r, open: Number(r.open), overdue: Number(r.overdue) })),
  }
}

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
