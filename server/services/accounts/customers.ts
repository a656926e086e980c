import { z } from 'zod'
import { cell } from '../../db/rows'
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
/** The id of the account that a number finds: of a record made one with another, that of the other. */
export const ACCOUNT_OF = '(SELECT COALESCE(n.merged_into, n.id) FROM customer n WHERE n.number = :number)'
type Row = Omit<Customer, 'keepsOnItem'> & { keepsOnItem: number }
const shown = (r: Row): Customer => ({ ...r, keepsOnItem: Boolean(Number(r.keepsOnItem)) })

const findCustomerRow = z.object({
  number: cell.text,
  id: cell.whole,
  currency: cell.text,
  name: cell.text,
  iban: cell.text,
  email: cell.text,
  phone: cell.text,
  contact: cell.text,
  class: cell.text,
  country: cell.text,
  language: cell.text,
  terms: cell.text,
  policy: cell.text,
  creditLimit: cell.whole.nullable(),
  vatNumber: cell.text,
  parentId: cell.whole.nullable(),
  keepsOnItem: cell.whole,
})

export async function findCustomer(database: Handle, number: string, scope: Scope): Promise<Customer> {
  const [row] = await database.rows(
    findCustomerRow,
    `SELECT ${CUSTOMER} WHERE c.id = ${ACCOUNT_OF} ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { number, salesId: scope.salesId ?? 0 },
  )
  if (!row) throw notFound(`customer ${number}`)
  return shown(row)
}

const findCustomersRow = findCustomerRow.extend({
  asked: cell.text,
})

/** Customers by the numbers that were asked for; those that are not there are left out. */
export async function findCustomers(
  database: Handle,
  numbers: readonly string[],
): Promise<Map<string, Customer>> {
  if (!numbers.length) return new Map()
  const rows = await database.rows(
    findCustomersRow,
    `SELECT n.number AS asked, ${CUSTOMER} JOIN customer n ON COALESCE(n.merged_into, n.id) = c.id
      WHERE n.number IN (:numbers)`,
    { numbers },
  )
  return new Map(rows.map(({ asked, ...r }) => [asked, shown(r)]))
}

const idOfCustomerRow = z.object({
  id: cell.whole,
})

/**
 * The id of a customer, for a lock. Two records that were made one have one id, whichever number is asked
 * for: so it is asked again behind the locks.
 */
export async function idOfCustomer(database: Handle, number: string): Promise<number> {
  const [row] = await database.rows(
    idOfCustomerRow,
    'SELECT COALESCE(merged_into, id) AS id FROM customer WHERE number = :number',
    { number },
  )
  if (!row) throw notFound(`customer ${number}`)
  return row.id
}
