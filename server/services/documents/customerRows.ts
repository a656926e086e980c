import {
  circle,
  faultsOf,
  FIELDS,
  FIELD_NAMES,
  normal,
  type Field,
  type Value,
  type Values,
} from '../../../core/accounts'
import { sameNumber } from '../../../core/documents'
import { isCurrency, parseAmount } from '../../../core/money'
import { CUSTOMER_REFERENCES } from '../../../contract/documents'
import { undefuse } from '../../../formats/csv'
import type { Handle } from '../../db/handle'
import { parentsOf } from '../accounts/master/references'
import { existing } from './table'

export type Cells = Readonly<Record<string, string | undefined>>
export interface Row {
  line: number
  cells: Cells
}
export type Say = (line: number, column: string, message: string) => void

/** What stands in place of a cell that a new customer leaves empty. */
const INSTEAD: Partial<Record<Field, (base: string) => string>> = {
  language: () => 'en',
  currency: base => base,
}

function valueOf(field: Field, text: string, currency: string): Value {
  if (FIELDS[field].form === 'money') return text ? parseAmount(text, currency) : null
  return normal(field, text)
}

/**
 * A row as a master, its faults told. `there`: what is there already; a cell that is empty leaves it. The
 * limit is in its own currency, in base currency without one.
 */
export function valuesIn({ line, cells }: Row, base: string, there: Values | null, say: Say): Values {
  const values: Values = {}
  const limitCurrency = (cells.limit_currency ?? '').trim().toUpperCase() || there?.limitCurrency || base
  for (const field of FIELD_NAMES) {
    const { column } = FIELDS[field]
    const text = undefuse((cells[column] ?? '').trim())
    if (!text && there) {
      values[field] = there[field] ?? null
      continue
    }
    try {
      const known = isCurrency(String(limitCurrency)) ? String(limitCurrency) : base
      values[field] = valueOf(field, text || (INSTEAD[field]?.(base) ?? ''), known)
    } catch (error) {
      say(line, column, (error as Error).message)
    }
  }
  for (const { field, message, satisfy } of faultsOf(values))
    say(line, FIELDS[field].column, `${message}: ${satisfy}`)
  return values
}

/**
 * Numbers of customers and e-mails of people that rows name: each is there, and no group becomes a circle.
 */
export async function checkReferences(tx: Handle, rows: readonly Row[], say: Say): Promise<void> {
  const inFile = new Map(rows.map(r => [sameNumber(r.cells.number!), r]))
  const valuesIn = (column: string) => [...new Set(rows.map(r => r.cells[column] ?? '').filter(Boolean))]
  const people = await existing(tx, 'SELECT email AS value FROM person WHERE email IN (:values)', [
    ...valuesIn('controller'),
    ...valuesIn('sales'),
  ])
  const known = await tx.find('customer', {}, { columns: ['id', 'number'] })
  const idOf = new Map(known.map(c => [sameNumber(c.number), c.id]))
  // Customers that are only in the file get ids below zero.
  let next = 0
  for (const key of inFile.keys()) if (!idOf.has(key)) idOf.set(key, --next)
  const parents = new Map<number, number | null>(await parentsOf(tx))
  for (const { line, cells } of rows) {
    for (const column of CUSTOMER_REFERENCES.filter(c => c !== 'parent'))
      if (cells[column] && !people.has(sameNumber(cells[column])))
        say(line, column, `${cells[column]} is nobody here: add the person first`)
    const parent = cells.parent ?? ''
    if (!parent) continue
    const own = idOf.get(sameNumber(cells.number!))!
    const above = idOf.get(sameNumber(parent))
    if (above === undefined) {
      say(line, 'parent', `customer ${parent} is neither here nor in this file`)
      continue
    }
    if (own === above) say(line, 'parent', 'a customer cannot be its own parent')
    else if (circle(parents, own, above))
      say(line, 'parent', `${parent} stands under ${cells.number} itself: a circle`)
    else parents.set(own, above)
  }
}
