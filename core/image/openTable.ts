import type { LedgerImage } from './ledger'

/** Room for a table of so many items: a sixteenth more, and some hundreds. */
const roomFor = (items: number): number => Math.ceil(items * 1.0625) + 512

/** Puts the values of a column to their new places, of which 0 is none and 1 the first. */
function moveTo<Column extends Uint8Array | Uint32Array | Int32Array | Float64Array>(
  to: Column,
  from: Column,
  places: Uint32Array,
): void {
  for (let old = 0; old < places.length; old++) {
    const place = places[old]!
    if (place > 0) to[place - 1] = from[old]!
  }
}

/**
 * What is open, in columns of its own: a pass over it reads memory from end to end, and only what is open.
 * It begins customer by customer and is kept up by single items; what is closed meanwhile stays in it with
 * nothing open, and what comes stands behind, until there is no room left and it is put in order again.
 */
export class OpenTable {
  /** Places that hold an item. */
  count = 0
  /** By place: the item's row, and what questions ask of it. */
  item!: Uint32Array
  customer!: Uint32Array
  debit!: Uint8Array
  currency!: Uint8Array
  dueDay!: Int32Array
  documentDay!: Int32Array
  postingDay!: Int32Array
  /** What is open, in the item's currency and in base currency: never below zero. */
  amount!: Float64Array
  base!: Float64Array
  /** By row of an item its place, plus one; 0 for none. */
  private placeOf: Uint32Array

  private constructor(
    private readonly image: LedgerImage,
    room: number,
  ) {
    this.makeRoom(room)
    this.placeOf = new Uint32Array(roomFor(image.items.count))
  }

  /** Of nothing. */
  static empty(image: LedgerImage): OpenTable {
    return new OpenTable(image, roomFor(image.items.count))
  }

  get bytes(): number {
    return [...this.columns(), this.placeOf].reduce((sum, column) => sum + column.byteLength, 0)
  }

  /** Debits less credits, base currency: what the control accounts hold. */
  get whole(): number {
    const { debit, base } = this
    let sum = 0
    for (let place = 0; place < this.count; place++) sum += debit[place] === 1 ? base[place]! : -base[place]!
    return sum
  }

  /** What is open of an item, by its row. */
  openOf(row: number): { amount: number; base: number } {
    const place = (this.placeOf[row] ?? 0) - 1
    return place < 0 ? { amount: 0, base: 0 } : { amount: this.amount[place]!, base: this.base[place]! }
  }

  /** An item is posted: all of it is open. */
  add(row: number): void {
    const { amount, base } = this.image.items.column
    this.move(row, amount[row]!, base[row]!)
  }

  /** So much of an item becomes open; less than nothing when it is allocated. */
  move(row: number, amount: number, base: number): void {
    const place = this.placeFor(row)
    this.amount[place]! += amount
    this.base[place]! += base
  }

  /** Customers became one: whose items are whose is read again. */
  readCustomers(): void {
    const { customer } = this.image.items.column
    for (let place = 0; place < this.count; place++) this.customer[place] = customer[this.item[place]!]!
  }

  /** Customer by customer, without what is closed. */
  inOrder(): void {
    const starts = this.startsByCustomer()
    const { count } = this
    const from = this.columns()
    const [item, customer, amount, base] = [this.item, this.customer, this.amount, this.base]
    this.count = starts.at(-1)!
    this.makeRoom(roomFor(this.count))
    this.placeOf = new Uint32Array(roomFor(this.image.items.count))
    const to = this.columns()
    const places = new Uint32Array(count)
    for (let old = 0; old < count; old++) {
      if (amount[old] === 0 && base[old] === 0) continue
      const place = starts[customer[old]!]!++
      places[old] = place + 1
      this.placeOf[item[old]!] = place + 1
    }
    to.forEach((column, n) => moveTo(column, from[n]!, places))
  }

  /**
   * The same of a day before: items posted since are not there, and what was allocated since is open. Only
   * what changed since is looked at one by one.
   */
  before(day: number): OpenTable {
    const since = this.allocatedSince(day)
    const posted = this.image.items.column.postingDay
    const a = this.image.allocations.column
    const isClosed = (row: number) => posted[row]! <= day && !((this.placeOf[row] ?? 0) > 0)
    let closed = 0
    for (const row of since) {
      if (isClosed(a.debit[row]!)) closed++
      if (isClosed(a.credit[row]!)) closed++
    }
    const then = this.copy(closed)
    const { postingDay, amount, base } = then
    for (let place = 0; place < this.count; place++)
      if (postingDay[place]! > day) {
        amount[place] = 0
        base[place] = 0
      }
    for (const row of since) {
      const debit = a.debit[row]!
      const credit = a.credit[row]!
      if (posted[debit]! <= day) then.move(debit, a.amount[row]!, a.debitBase[row]!)
      if (posted[credit]! <= day) then.move(credit, a.amount[row]!, a.creditBase[row]!)
    }
    // Reopened ones stand behind, here and there in the customers: a pass would jump about.
    then.inOrder()
    return then
  }

  /** Rows of allocations with a later effect. */
  private allocatedSince(day: number): Uint32Array {
    const { count, column } = this.image.allocations
    const { effectiveDay } = column
    let many = 0
    for (let row = 0; row < count; row++) if (effectiveDay[row]! > day) many++
    const rows = new Uint32Array(many)
    let next = 0
    for (let row = 0; row < count; row++) if (effectiveDay[row]! > day) rows[next++] = row
    return rows
  }

  private copy(more: number): OpenTable {
    const then = new OpenTable(this.image, roomFor(this.count + more))
    const mine = this.columns()
    then.columns().forEach((column, n) => column.set(mine[n]!.subarray(0, this.count)))
    then.placeOf.set(this.placeOf.subarray(0, then.placeOf.length))
    then.count = this.count
    return then
  }

  /** The place of an item, at the end when it has none yet. */
  private placeFor(row: number): number {
    if (row >= this.placeOf.length) {
      const more = new Uint32Array(roomFor(Math.max(row + 1, this.image.items.count)))
      more.set(this.placeOf)
      this.placeOf = more
    }
    const known = this.placeOf[row]!
    if (known > 0) return known - 1
    if (this.count === this.item.length) this.inOrder()
    const place = this.count++
    this.describe(place, row)
    return place
  }

  private describe(place: number, row: number): void {
    const { customer, debit, currency, dueDay, documentDay, postingDay } = this.image.items.column
    this.item[place] = row
    this.customer[place] = customer[row]!
    this.debit[place] = debit[row]!
    this.currency[place] = currency[row]!
    this.dueDay[place] = dueDay[row]!
    this.documentDay[place] = documentDay[row]!
    this.postingDay[place] = postingDay[row]!
    this.placeOf[row] = place + 1
  }

  /** By id of a customer the place of its first open item; behind the last id how many are open in all. */
  private startsByCustomer(): Uint32Array {
    const { customer, amount, base, count } = this
    let last = 0
    for (let place = 0; place < count; place++) if (customer[place]! > last) last = customer[place]!
    const starts = new Uint32Array(last + 2)
    for (let place = 0; place < count; place++)
      if (amount[place] !== 0 || base[place] !== 0) starts[customer[place]! + 1]!++
    for (let id = 1; id < starts.length; id++) starts[id]! += starts[id - 1]!
    return starts
  }

  private columns() {
    const { item, customer, debit, currency, dueDay, documentDay, postingDay, amount, base } = this
    return [item, customer, debit, currency, dueDay, documentDay, postingDay, amount, base]
  }

  private makeRoom(room: number): void {
    this.item = new Uint32Array(room)
    this.customer = new Uint32Array(room)
    this.debit = new Uint8Array(room)
    this.currency = new Uint8Array(room)
    this.dueDay = new Int32Array(room)
    this.documentDay = new Int32Array(room)
    this.postingDay = new Int32Array(room)
    this.amount = new Float64Array(room)
    this.base = new Float64Array(room)
  }
}
