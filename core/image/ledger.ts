import { ITEM_KINDS, type ItemKind } from '../ledger'
import { Table } from './columns'

/*
 * The ledger in memory: its items and allocations as columns. It is extended by what was posted since, and
 * nothing in it changes: what is open on a day, as known at an entry, follows from the rows alone.
 */

/** One item, as it comes from the ledger. Days are days since 1970, amounts minor units. */
export interface ItemRow {
  id: number
  customerId: number
  entryId: number
  kind: ItemKind
  isDebit: boolean
  currency: string
  amount: number
  /** Base currency at the rate of its posting. */
  base: number
  documentDay: number
  dueDay: number
  postingDay: number
}

/** One allocation: negative when it takes another back. */
export interface AllocationRow {
  entryId: number
  debitId: number
  creditId: number
  amount: number
  /** What leaves the debit item, and the credit item, in base currency. */
  debitBase: number
  creditBase: number
  effectiveDay: number
}

const ITEM = {
  id: 'id',
  customer: 'id',
  entry: 'id',
  kind: 'code',
  debit: 'code',
  currency: 'code',
  amount: 'money',
  base: 'money',
  documentDay: 'day',
  dueDay: 'day',
  postingDay: 'day',
  /** The item of the same customer before this one, plus one; 0 for its first. */
  before: 'id',
  /** The last allocation of this item, plus one; 0 for none. */
  last: 'id',
} as const

const ALLOCATION = {
  entry: 'id',
  /** Rows of the two items. */
  debit: 'id',
  credit: 'id',
  amount: 'money',
  debitBase: 'money',
  creditBase: 'money',
  effectiveDay: 'day',
  /** The allocation of the debit item before this one, plus one; and that of the credit item. */
  beforeOfDebit: 'id',
  beforeOfCredit: 'id',
} as const

const NONE = 0xffffffff
const kindCode = new Map(ITEM_KINDS.map((kind, code) => [kind, code]))
export const kindOf = (code: number): ItemKind => ITEM_KINDS[code]!

/** One that is not in order cannot be kept: whoever fills it reads from the start. */
export class NotInOrder extends Error {}

export class LedgerImage {
  items = new Table(ITEM)
  allocations = new Table(ALLOCATION)
  /** Codes of currencies are their places here. */
  currencies: string[] = []
  /** The last entry whose rows are in. */
  lastEntry = 0
  /** The latest day of a posting or of an effect: from it on, what is open is what is open now. */
  lastDay = -Infinity
  /** By id of a customer, the row of its last item plus one; 0 for none. */
  private heads = new Uint32Array(new SharedArrayBuffer(0))

  get bytes(): number {
    return this.items.bytes + this.allocations.bytes + this.heads.byteLength
  }

  /** Makes room before many rows come. */
  reserve(items: number, allocations: number): void {
    this.items.reserve(items)
    this.allocations.reserve(allocations)
  }

  /** Items come by rising id. Throws NotInOrder when one does not. */
  addItem(item: ItemRow): void {
    const row = this.items.count
    this.items.reserve(row + 1)
    const c = this.items.column
    if (row > 0 && item.id <= c.id[row - 1]!) throw new NotInOrder(`item ${item.id} comes too late`)
    c.id[row] = item.id
    c.customer[row] = item.customerId
    c.entry[row] = item.entryId
    c.kind[row] = kindCode.get(item.kind)!
    c.debit[row] = item.isDebit ? 1 : 0
    c.currency[row] = this.codeOfCurrency(item.currency)
    c.amount[row] = item.amount
    c.base[row] = item.base
    c.documentDay[row] = item.documentDay
    c.dueDay[row] = item.dueDay
    c.postingDay[row] = item.postingDay
    this.lastDay = Math.max(this.lastDay, item.postingDay)
    this.reserveHeads(item.customerId)
    c.before[row] = this.heads[item.customerId]!
    this.heads[item.customerId] = row + 1
    this.items.count = row + 1
  }

  /** Its two items are there. Throws NotInOrder when one is not. */
  addAllocation(allocation: AllocationRow): void {
    const debit = this.rowOf(allocation.debitId)
    const credit = this.rowOf(allocation.creditId)
    const row = this.allocations.count
    this.allocations.reserve(row + 1)
    const c = this.allocations.column
    c.entry[row] = allocation.entryId
    c.debit[row] = debit
    c.credit[row] = credit
    c.amount[row] = allocation.amount
    c.debitBase[row] = allocation.debitBase
    c.creditBase[row] = allocation.creditBase
    c.effectiveDay[row] = allocation.effectiveDay
    this.lastDay = Math.max(this.lastDay, allocation.effectiveDay)
    const { last } = this.items.column
    c.beforeOfDebit[row] = last[debit]!
    c.beforeOfCredit[row] = last[credit]!
    last[debit] = row + 1
    last[credit] = row + 1
    this.allocations.count = row + 1
  }

  hasItem(id: number): boolean {
    return this.findRow(id) !== NONE
  }

  /** The row of an item. Throws NotInOrder when it is not there. */
  rowOf(id: number): number {
    const row = this.findRow(id)
    if (row === NONE) throw new NotInOrder(`item ${id} is not there`)
    return row
  }

  /** Two records are one customer: the items of the first belong to the second from now on. */
  mergeCustomers(fromId: number, intoId: number): void {
    const rows = [...this.itemsOf(fromId), ...this.itemsOf(intoId)].sort((a, b) => a - b)
    if (!rows.length) return
    this.reserveHeads(Math.max(fromId, intoId))
    const { customer, before } = this.items.column
    rows.forEach((row, i) => {
      customer[row] = intoId
      before[row] = i > 0 ? rows[i - 1]! + 1 : 0
    })
    this.heads[intoId] = rows.at(-1)! + 1
    this.heads[fromId] = 0
  }

  /** Rows of the items of a customer, the newest first. */
  *itemsOf(customerId: number): Generator<number> {
    if (customerId >= this.heads.length) return
    const { before } = this.items.column
    for (let next = this.heads[customerId]!; next > 0; next = before[next - 1]!)
      // One that was added while we read is not ours to see.
      if (next <= this.items.count) yield next - 1
  }

  /** Rows of the allocations of an item, the newest first. */
  *allocationsOf(item: number): Generator<number> {
    const { debit, beforeOfDebit, beforeOfCredit } = this.allocations.column
    let next = this.items.column.last[item]!
    while (next > 0) {
      const row = next - 1
      if (row < this.allocations.count) yield row
      next = debit[row] === item ? beforeOfDebit[row]! : beforeOfCredit[row]!
    }
  }

  private findRow(id: number): number {
    const ids = this.items.column.id
    let low = 0
    let high = this.items.count - 1
    while (low <= high) {
      const middle = (low + high) >>> 1
      const found = ids[middle]!
      if (found === id) return middle
      if (found < id) low = middle + 1
      else high = middle - 1
    }
    return NONE
  }

  private codeOfCurrency(currency: string): number {
    const code = this.currencies.indexOf(currency)
    if (code >= 0) return code
    if (this.currencies.length > 255) throw new RangeError('more than 256 currencies')
    return this.currencies.push(currency) - 1
  }

  private reserveHeads(customerId: number): void {
    if (customerId < this.heads.length) return
    const more = new Uint32Array(new SharedArrayBuffer((Math.ceil(customerId * 1.125) + 512) * 4))
    more.set(this.heads)
    this.heads = more
  }
}
