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
})

export async function listAccounts(database: Handle, q: z.infer<typeof accountsQuery>, scope: Scope) {
  const where = ['1 = 1']
  const values: Values = { salesId: scope.salesId ?? 0 }
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
    `SELECT number, name, currency, country FROM customer WHERE ${where.join(' AND ')} ORDER BY name, number
      LIMIT ${q.limit + 1}`,
    values,
  )
  return cut(rows, q.limit, r => [r.name, r.number])
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
