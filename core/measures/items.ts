import type { Customers, LedgerImage, Open } from '../image'
import { KINDS } from '../ledger'
import { kindOf } from '../image'
import {
  disputedOn,
  disputesByItem,
  isPayment,
  LONG_LATE,
  takenBack,
  type Disputed,
  type MeasuredDay,
} from './ingredients'
import type { Part } from './table'

/** One item of a part; `late`: days late, of a payment when it came. */
export interface PartItem {
  itemId: number
  amount: number
  late: number
  /** Days since 1970: of a payment when it came, of all else the day of posting. */
  day: number
}

export interface PartAsk extends MeasuredDay {
  part: Part
  /** By row of a customer, 1 for those that count; null for all. */
  wanted: Uint8Array | null
  disputed: readonly Disputed[]
}

/** The items that a part of a measure is made of; they add up to it. */
export function* partItems(
  image: LedgerImage,
  customers: Customers,
  openAt: (day: number) => Open,
  ask: PartAsk,
): Generator<PartItem> {
  const { part, day, from, wanted } = ask
  const { customer, id, debit, kind, base, dueDay, postingDay } = image.items.column
  const counts = (row: number): boolean => {
    const who = customers.rowOf(customer[row]!)
    return who >= 0 && (wanted === null || wanted[who] === 1)
  }
  const item = (row: number, amount: number, at: number): PartItem => ({
    itemId: id[row]!,
    amount,
    late: at - dueDay[row]!,
    day: postingDay[row]!,
  })
  if (part === 'paid') {
    const gone = takenBack(image)
    const { debit: paid, debitBase, effectiveDay } = image.allocations.column
    for (let row = 0; row < image.allocations.count; row++) {
      const on = effectiveDay[row]!
      if (on <= from || on > day || gone[row] === 1 || !isPayment(image, row) || !counts(paid[row]!)) continue
      yield { ...item(paid[row]!, debitBase[row]!, on), day: on }
    }
    return
  }
  if (part === 'disputed') {
    for (const [itemId, own] of disputesByItem(ask.disputed)) {
      const row = image.rowOf(itemId)
      const amount = counts(row) ? disputedOn(image, itemId, own, day) : 0
      if (amount) yield item(row, amount, day)
    }
    return
  }
  if (part === 'sales') {
    for (let row = 0; row < image.items.count; row++) {
      if (postingDay[row]! <= from || postingDay[row]! > day || !counts(row)) continue
      if (KINDS[kindOf(kind[row]!)].receivable)
        yield item(row, debit[row] === 1 ? base[row]! : -base[row]!, day)
    }
    return
  }
  const at = part === 'opening' ? from : day
  const open = openAt(at)
  const { table } = open
  for (let place = 0; place < table.count; place++) {
    const row = table.item[place]!
    const amount = table.base[place]!
    if (amount === 0 || !counts(row) || !belongs(part, row)) continue
    yield item(row, part === 'onAccount' ? -amount : amount, at)
  }

  function belongs(of: Part, row: number): boolean {
    const isDebit = debit[row] === 1
    const late = at - dueDay[row]!
    switch (of) {
      case 'receivables':
      case 'opening':
        return isDebit
      case 'current':
        return isDebit && late <= 0
      case 'overdue':
        return isDebit && late > 0
      case 'over90':
        return isDebit && late > LONG_LATE
      case 'onAccount':
        return !isDebit
      case 'unallocated':
        return !isDebit && KINDS[kindOf(kind[row]!)].money
      default:
        return false
    }
  }
}
