import type { OpenItem } from '~~/contract/receipts'

/** What of the tick sheet is shown, and in which order. */
export interface SheetView {
  /** Words of numbers, names and orders, or the first digits of an amount. */
  find: string
  /** Number of the group's head; empty for all. */
  group: string
  only: 'all' | 'due' | 'ticked' | 'discount'
  order: 'customer' | 'due' | 'amount'
  isTicked: (itemId: number) => boolean
}

/** An amount is looked for from so many digits on. */
const DIGITS = 3

function finder(find: string): (i: OpenItem) => boolean {
  const words = find.trim().toLowerCase().split(/\s+/).filter(Boolean)
  const digits = find.replace(/[ ,.]/g, '')
  const holds = (i: OpenItem, word: string) =>
    i.number.toLowerCase().includes(word) ||
    i.name.toLowerCase().includes(word) ||
    i.customer === word ||
    i.order.toLowerCase().includes(word)
  return i =>
    words.every(word => holds(i, word)) ||
    (digits.length >= DIGITS && String(Math.abs(i.open)).startsWith(digits))
}

const compare = (a: string | number, b: string | number) => (a < b ? -1 : a > b ? 1 : 0)

const ORDERS: Record<SheetView['order'], (a: OpenItem, b: OpenItem) => number> = {
  customer: (a, b) => compare(a.customer, b.customer) || compare(a.dueDate, b.dueDate) || a.id - b.id,
  due: (a, b) => compare(a.dueDate, b.dueDate) || a.id - b.id,
  amount: (a, b) => b.open - a.open || a.id - b.id,
}

export function sheetRows(all: readonly OpenItem[], view: SheetView): OpenItem[] {
  const found = finder(view.find)
  const inGroup = (i: OpenItem) => !view.group || i.group === view.group || i.customer === view.group
  const wanted: Record<SheetView['only'], (i: OpenItem) => boolean> = {
    all: () => true,
    due: i => i.daysLate >= 0,
    ticked: i => view.isTicked(i.id),
    discount: i => i.discount !== null,
  }
  const isWanted = wanted[view.only]
  return all.filter(i => inGroup(i) && isWanted(i) && found(i)).sort(ORDERS[view.order])
}
