import type { Sequelize, Transaction } from 'sequelize'
import { seesOwnCustomersOnly, type Role } from '../../../core/people'
import { select } from '../../db/connection'
import { notFound } from '../common/problems'

/** Whose customers a reader sees; empty: all. */
export interface Scope {
  salesId?: number
}

export interface Actor {
  id: number
  name: string
  email: string
  role: Role
}

export function scopeOf(actor: Actor): Scope {
  return seesOwnCustomersOnly(actor.role) ? { salesId: actor.id } : {}
}

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
}

const CUSTOMER =
  'id, number, name, class, country, language, currency, terms, credit_limit AS creditLimit, contact, email, phone, iban, vat_number AS vatNumber, parent_id AS parentId, policy'

export async function findCustomer(
  database: Sequelize,
  number: string,
  scope: Scope,
  tx?: Transaction,
): Promise<Customer> {
  const [row] = await select<Customer>(
    database,
    `
    SELECT ${CUSTOMER} FROM customer WHERE number = :number ${scope.salesId ? 'AND sales_id = :salesId' : ''}`,
    { number, salesId: scope.salesId ?? 0 },
    tx,
  )
  if (!row) throw notFound(`customer ${number}`)
  return row
}

/** Customers by their numbers as they stand in the ledger; those that are not there are left out. */
export async function findCustomers(
  database: Sequelize,
  numbers: readonly string[],
  tx?: Transaction,
): Promise<Map<string, Customer>> {
  const rows = numbers.length
    ? await select<Customer>(
        database,
        `SELECT ${CUSTOMER} FROM customer WHERE number IN (:numbers)`,
        { numbers },
        tx,
      )
    : []
  return new Map(rows.map(r => [r.number, r]))
}
