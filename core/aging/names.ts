import type { CustomerRow, Customers } from '../image'
import type { Dimension, Named } from './position'

export interface PersonName {
  email: string
  name: string
}

/** Who may be seen, and what people are called. */
export interface Naming {
  people: ReadonlyMap<number, PersonName>
  /** Names of classes by code. */
  classes: ReadonlyMap<string, string>
  /** A sales contact: a head of a group that is somebody else's customer is not named. */
  salesId: number | null
}

const personNamed = (id: number | null, people: Naming['people']): { key: string; name: string } => {
  const person = id === null ? undefined : people.get(id)
  return person ? { key: person.email, name: person.name } : { key: '', name: 'nobody' }
}

/** The head of the group of a customer; the customer itself without one, or when it may not be named. */
export function headOf(customers: Customers, customer: CustomerRow, salesId: number | null): CustomerRow {
  const head = customers.byId(customer.headId)
  return head && (salesId === null || head.salesId === salesId) ? head : customer
}

/** What a customer's row of the aging is called, by a dimension. */
export function namedBy(dimension: Dimension, customers: Customers, naming: Naming): Named {
  const of = (row: number) => customers.rows[row]!
  switch (dimension) {
    case 'customer':
      return row => ({ key: of(row).number, name: of(row).name })
    case 'group':
      return row => {
        const head = headOf(customers, of(row), naming.salesId)
        return { key: head.number, name: head.name }
      }
    case 'class':
      return row => ({ key: of(row).class, name: naming.classes.get(of(row).class) ?? of(row).class })
    case 'controller':
      return row => personNamed(of(row).controllerId, naming.people)
    case 'sales':
      return row => personNamed(of(row).salesId, naming.people)
    case 'country':
      return row => ({ key: of(row).country, name: of(row).country })
    case 'currency':
      return (_row, currency) => ({ key: currency, name: currency })
  }
}
