import type { Sequelize } from 'sequelize'
import type { Handle } from '../../db/handle'
import { notFound } from '../common/problems'
import type { Scope } from '../people/scope'
import { INHERITED, WITH_CLASS } from './inherited'

export interface Customer {
  id: number
  number: string
  name: string
  class: string
  country: string
  language: string
  currency: string
  terms: string
  creditLimit: number | null
  contact: string
  email: string
  phone: string
  iban: string
  vatNumber: string
  parentId: number | null
  policy: string
  /** An overpayment may be kept for one item: a rule of the class. */
  keepsOnItem: boolean
}

const CUSTOMER = `c.id, c.number, c.name, c.class, c.country, c.language, c.currency, ${INHERITED.terms} AS terms,
  c.credit_limit AS creditLimit, c.contact, c.email, c.phone, c.iban, c.vat_number AS vatNumber,
  c.parent_id AS parentId, c.policy, COALESCE(k.keep_on_item, 0) AS keepsOnItem
  FROM customer c ${WITH_CLASS}`
type Row = Omit<Customer, 'keepsOnItem'> & { keepsOnItem: number }
const shown = (r: Row): Customer => ({ ...r, keepsOnItem: Boolean(Number(r.keepsOnItem)) })

export async function findCustomer(database: Handle, number: string, scope: Scope): Promise<Customer> {
  const [row] = await database.select<Row>(
    `SELECT ${CUSTOMER} WHERE c.number = :number ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { number, salesId: scope.salesId ?? 0 },
  )
  if (!row) throw notFound(`customer ${number}`)
  return shown(row)
}

/** Customers by their numbers as they stand in the ledger; those that are not there are left out. */
export async function findCustomers(
  database: Handle,
  numbers: readonly string[],
): Promise<Map<string, Customer>> {
  if (!numbers.length) return new Map()
  const rows = await database.select<Row>(`SELECT ${CUSTOMER} WHERE c.number IN (:numbers)`, { numbers })
  return new Map(rows.map(r => [r.number, shown(r)]))
}

/** Of each pool the ids of the numbers that were asked for: a number stays with its customer for good. */
const ids = new WeakMap<Sequelize, Map<string, number>>()

/** The id of a customer, for a lock. */
export async function idOfCustomer(database: Handle, number: string): Promise<number> {
  const known = ids.get(database.sequelize) ?? new Map<string, number>()
  ids.set(database.sequelize, known)
  const id = known.get(number)
  if (id !== undefined) return id
  const [row] = await database.select<{ id: number }>('SELECT id FROM customer WHERE number = :number', {
    number,
  })
  if (!row) throw notFound(`customer ${number}`)
  // One that was made in this transaction may still be taken back with it.
  if (!database.inTransaction) known.set(number, row.id)
  return row.id
}
