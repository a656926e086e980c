import { computed, reactive, type Ref } from 'vue'
import type { AccountItem } from '~~/contract/accounts'

/**
 * What goes with a payment of an item: discount taken, small difference written off, or a deduction that
 * opens a dispute.
 */
export interface Extra {
  discount: number
  difference: number
  late: boolean
  deduction?: string
}
type Allocatable = Pick<
  AccountItem,
  'id' | 'open' | 'offered' | 'dueDate' | 'daysLate' | 'discount' | 'currency'
>

/**
 * What is ticked of the open items in one currency. `total`: what there is to assign; `bounded`: whether a
 * tick may take more than is left of it (a total that somebody typed bounds, one that follows the ticks does
 * not).
 */
export function useAllocation<T extends Allocatable>(
  items: Ref<T[]>,
  currency: Ref<string>,
  total: () => number,
  bounded: () => boolean,
) {
  const chosen = reactive<Record<number, number | null>>({})
  const extras = reactive<Record<number, Extra>>({})
  const debits = computed(() => items.value.filter(i => i.open > 0 && i.currency === currency.value))
  const assigned = computed(() => debits.value.reduce((a, i) => a + (chosen[i.id] ?? 0), 0))
  const extraOf = (id: number): Extra => extras[id] ?? { discount: 0, difference: 0, late: false }
  const left = (item: T) =>
    item.open - (chosen[item.id] ?? 0) - extraOf(item.id).discount - extraOf(item.id).difference
  function toggle(item: T): void {
    const rest = total() - assigned.value
    delete extras[item.id]
    chosen[item.id] = chosen[item.id]
      ? null
      : bounded()
        ? Math.max(0, Math.min(item.open, rest)) || item.open
        : item.open
  }
  /** Takes the discount of an item, or leaves it: the payment is then less by it. */
  function takeDiscount(item: T): void {
    if (extras[item.id]?.discount) {
      delete extras[item.id]
      chosen[item.id] = item.open
      return
    }
    const discount = item.discount?.amount ?? item.offered
    extras[item.id] = { discount, difference: 0, late: item.discount === null }
    chosen[item.id] = item.open - discount
  }
  /** Writes off what a payment leaves, or leaves it open. */
  function writeOff(item: T): void {
    const extra = extraOf(item.id)
    extras[item.id] = {
      ...extra,
      deduction: undefined,
      difference: extra.difference ? 0 : item.open - (chosen[item.id] ?? 0) - extra.discount,
    }
  }
  function setAmount(item: T, value: number | null): void {
    chosen[item.id] = value
    const extra = extras[item.id]
    if (extra) extras[item.id] = { ...extra, difference: 0, discount: value ? extra.discount : 0 }
  }
  /** Calls what a payment leaves a deduction, or not (empty). */
  function deduct(item: T, reason: string): void {
    extras[item.id] = { ...extraOf(item.id), difference: 0, deduction: reason || undefined }
  }
  function oldestFirst(): void {
    let rest = total() || debits.value.reduce((a, i) => a + (i.daysLate > 0 ? i.open : 0), 0)
    for (const i of [...debits.value].sort((a, b) =>
      a.dueDate < b.dueDate ? -1 : a.dueDate > b.dueDate ? 1 : a.id - b.id,
    )) {
      delete extras[i.id]
      const part = Math.min(rest, i.open)
      chosen[i.id] = part || null
      rest -= part
    }
  }
  function clear(): void {
    for (const id of Object.keys(chosen)) chosen[Number(id)] = null
    for (const id of Object.keys(extras)) delete extras[Number(id)]
  }
  const allocations = computed(() =>
    debits.value
      .filter(i => chosen[i.id])
      .map(i => {
        const { discount, difference, deduction } = extraOf(i.id)
        return {
          itemId: i.id,
          amount: chosen[i.id]!,
          discount,
          difference,
          ...(deduction ? { deduction: { reason: deduction as 'other' } } : {}),
        }
      }),
  )
  const late = computed(() => debits.value.some(i => chosen[i.id] && extras[i.id]?.late))
  return {
    chosen,
    extras,
    debits,
    assigned,
    allocations,
    late,
    left,
    toggle,
    takeDiscount,
    writeOff,
    setAmount,
    deduct,
    oldestFirst,
    clear,
  }
}
