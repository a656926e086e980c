import type { LedgerImage } from './ledger'

/** What is open of each item, by row. */
export interface Amounts {
  amount: Float64Array
  base: Float64Array
}

/**
 * What is open, customer by customer, in columns of its own: a pass over it reads memory from end to end, and
 * only what is open. It is kept up by single items; what is closed meanwhile stays in it with nothing open.
 */
export class OpenTable {
  /** Places that hold an item. */
  count = 0
  /** Debits less credits, base currency: what the control accounts hold. */
  whole = 0
  /** By place: the item's row, and what questions ask of it. */
  readonly item: Uint32Array
  readonly customer: Uint32Array
  readonly debit: Uint8Array
  readonly currency: Uint8Array
  readonly dueDay: Int32Array
  readonly documentDay: Int32Array
  readonly amount: Float64Array
  readonly base: Float64Array
  /** By row of an item its place, plus one; 0 for none. */
  private placeOf: Uint32Array

  private constructor(
    private readonly image: LedgerImage,
    room: number,
  ) {
    this.item = new Uint32Array(room)
    this.customer = new Uint32Array(room)
    this.debit = new Uint8Array(room)
    this.currency = new Uint8Array(room)
    this.dueDay = new Int32Array(room)
    this.documentDay = new Int32Array(room)
    this.amount = new Float64Array(room)
    this.base = new Float64Array(room)
    this.placeOf = new Uint32Array(Math.ceil(image.items.count * 1.125) + 512)
  }

  /** Of all that is open. Rows are read in their order, and each goes straight to its place. */
  static of(image: LedgerImage, open: Amounts): OpenTable {
    const { items } = image
    const { customer } = items.column
    const places = placesByCustomer(image, open)
    const many = places.at(-1)!
    const table = new OpenTable(image, Math.ceil(many * 1.0625) + 512)
    for (let row = 0; row < items.count; row++)
      if (open.base[row] !== 0 || open.amount[row] !== 0) table.putAt(places[customer[row]!]!++, row, open)
    table.count = many
    return table
  }

  get bytes(): number {
    const { item, customer, debit, currency, dueDay, documentDay, amount, base, placeOf } = this
    return [item, customer, debit, currency, dueDay, documentDay, amount, base, placeOf].reduce(
      (sum, column) => sum + column.byteLength,
      0,
    )
  }

  /** Brings one item up to what is open of it now. False when there is no room for it: make another table. */
  touch(row: number, open: Amounts): boolean {
    if (row >= this.placeOf.length) return false
    const place = this.placeOf[row]! - 1
    if (place < 0) return (open.amount[row] === 0 && open.base[row] === 0) || this.put(row, open)
    const base = open.base[row]!
    this.whole += (this.debit[place] === 1 ? 1 : -1) * (base - this.base[place]!)
    this.amount[place] = open.amount[row]!
    this.base[place] = base
    return true
  }

  private put(row: number, open: Amounts): boolean {
    if (this.count === this.item.length) return false
    this.putAt(this.count++, row, open)
    return true
  }

  private putAt(place: number, row: number, open: Amounts): void {
    const { customer, debit, currency, dueDay, documentDay } = this.image.items.column
    this.item[place] = row
    this.customer[place] = customer[row]!
    this.debit[place] = debit[row]!
    this.currency[place] = currency[row]!
    this.dueDay[place] = dueDay[row]!
    this.documentDay[place] = documentDay[row]!
    this.amount[place] = open.amount[row]!
    this.base[place] = open.base[row]!
    this.placeOf[row] = place + 1
    this.whole += debit[row] === 1 ? open.base[row]! : -open.base[row]!
  }
}

/** By id of a customer the place of its first open item; behind the last id how many are open in all. */
function placesByCustomer(image: LedgerImage, { amount, base }: Amounts): Uint32Array {
  const { items } = image
  const { customer } = items.column
  let last = 0
  for (let row = 0; row < items.count; row++) if (customer[row]! > last) last = customer[row]!
  const places = new Uint32Array(last + 2)
  for (let row = 0; row < items.count; row++)
    if (base[row] !== 0 || amount[row] !== 0) places[customer[row]! + 1]!++
  for (let id = 1; id < places.length; id++) places[id]! += places[id - 1]!
  return places
}
