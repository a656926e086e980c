import type { Limit } from '../accounts'

/*
 * Who the accounts belong to, in memory beside the ledger: what one groups, filters and sorts by. Read anew
 * when customers change.
 */

export interface CustomerRow {
  id: number
  number: string
  name: string
  class: string
  className: string
  country: string
  city: string
  contact: string
  currency: string
  controllerId: number | null
  /** Empty without one. */
  controller: string
  salesId: number | null
  /** The topmost of its group; itself without one. */
  headId: number
  /** One with another: it only finds it, and is no account of its own. */
  isMerged: boolean
  limit: Limit
  /** Of the last review: 0 to 100, and days late of what was paid; null of who has paid nothing. */
  score: number | null
  daysLate: number | null
  /** How it pays by itself: see core/callList. */
  usual: number | null
  spread: number | null
  payDay: number | null
  /** The day of its last payment, since 1970. */
  lastPaid: number | null
}

/** What is written of a customer, and sorted by as text. */
export type CustomerText = 'number' | 'className' | 'city' | 'contact' | 'currency' | 'controller'

const inOrder = new Intl.Collator('en', { sensitivity: 'base', numeric: true })

/** Customers by row, in the order of their names. */
export class Customers {
  readonly rows: readonly CustomerRow[]
  /** By id of a customer its row; -1 where there is none. */
  readonly rowById: Int32Array
  private numbers: Map<string, number> | undefined
  private readonly places = new Map<CustomerText, Float64Array>()

  /** `rows`: in the order in which a list by name shows them. */
  constructor(rows: readonly CustomerRow[]) {
    this.rows = rows
    const last = rows.reduce((most, r) => Math.max(most, r.id), 0)
    this.rowById = new Int32Array(last + 1).fill(-1)
    rows.forEach((r, row) => (this.rowById[r.id] = row))
  }

  get count(): number {
    return this.rows.length
  }

  /**
   * By row the place of a customer in the order of a text, those without one last. The same text is the same
   * place. Worked out once.
   */
  placesBy(text: CustomerText): Float64Array {
    const known = this.places.get(text)
    if (known) return known
    const texts = [...new Set(this.rows.map(r => r[text]))].filter(Boolean).sort(inOrder.compare)
    const placeOf = new Map(texts.map((t, place) => [t, place]))
    const places = Float64Array.from(this.rows, r => placeOf.get(r[text]) ?? Number.MAX_SAFE_INTEGER)
    this.places.set(text, places)
    return places
  }

  /** The place of a number in the order of numbers; between two others when nobody has it. */
  placeOfNumber(number: string): number {
    const places = this.placesBy('number')
    this.numbers ??= new Map(this.rows.map((r, row) => [r.number, places[row]!]))
    const known = this.numbers.get(number)
    if (known !== undefined) return known
    return this.rows.filter(r => inOrder.compare(r.number, number) < 0).length - 0.5
  }

  /** The row of a customer; -1 for one that is not there. */
  rowOf(id: number): number {
    return this.rowById[id] ?? -1
  }

  byId(id: number): CustomerRow | undefined {
    return this.rows[this.rowOf(id)]
  }
}
