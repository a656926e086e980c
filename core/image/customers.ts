/*
 * Who the accounts belong to, in memory beside the ledger: what one groups, filters and sorts by. Read anew
 * when customers change.
 */

export interface CustomerRow {
  id: number
  number: string
  name: string
  class: string
  country: string
  controllerId: number | null
  salesId: number | null
  /** The topmost of its group; itself without one. */
  headId: number
}

/** Customers by row, in the order of their names. */
export class Customers {
  readonly rows: readonly CustomerRow[]
  /** By id of a customer its row; -1 where there is none. */
  readonly rowById: Int32Array

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

  /** The row of a customer; -1 for one that is not there. */
  rowOf(id: number): number {
    return this.rowById[id] ?? -1
  }

  byId(id: number): CustomerRow | undefined {
    return this.rows[this.rowOf(id)]
  }
}
