import { computed, shallowRef, triggerRef, type Ref } from 'vue'
import type { OpenItem } from '~~/contract/receipts'
import { isSmallDifference, spreadCredits } from '~~/core/receipts'
import type { Extra } from '~/composables/receipts/allocation'

/** What a ticked item is paid, and what goes with it. Credits are ticked whole. */
export type Tick = { amount: number } & Extra
type Tickable = Pick<OpenItem, 'id' | 'customer' | 'open' | 'baseOpen' | 'discount' | 'offered'>

const plain = (amount: number): Tick => ({ amount, discount: 0, difference: 0, late: false })

/**
 * Items ticked off against a remittance advice, of any number of customers. `authority`: whether a late
 * discount may be granted; `tolerance`: up to which base amount a difference may be written off. Amounts in
 * minor units; the items may be thousands, a tick costs what is ticked.
 */
export function useTicks<T extends Tickable>(
  all: Ref<T[]>,
  authority: () => boolean,
  tolerance: () => number,
) {
  const ticks = shallowRef(new Map<number, Tick>())
  const byId = computed(() => new Map(all.value.map(i => [i.id, i])))
  const ticked = computed(() =>
    [...ticks.value].flatMap(([id, tick]) => {
      const item = byId.value.get(id)
      return item ? [{ item, ...tick }] : []
    }),
  )
  const debits = computed(() => ticked.value.filter(t => t.item.open > 0))
  const credits = computed(() => ticked.value.filter(t => t.item.open < 0))
  /** What must have come in: the ticked amounts less the ticked credits. */
  const running = computed(
    () => debits.value.reduce((a, t) => a + t.amount, 0) + credits.value.reduce((a, t) => a + t.item.open, 0),
  )
  const customers = computed(() => [...new Set(ticked.value.map(t => t.item.customer))])

  function put(item: T, tick: Tick | null): void {
    if (tick) ticks.value.set(item.id, tick)
    else ticks.value.delete(item.id)
    triggerRef(ticks)
  }
  function clear(): void {
    ticks.value = new Map()
  }
  /** A tick takes the discount that the payment date still earns. */
  function toggle(item: T): void {
    if (ticks.value.has(item.id)) put(item, null)
    else if (item.open < 0) put(item, plain(-item.open))
    else if (item.discount)
      put(item, { ...plain(item.open - item.discount.amount), discount: item.discount.amount })
    else put(item, plain(item.open))
  }
  /** Takes the discount, or leaves it; one that is late only on authority. */
  function flipDiscount(item: T): void {
    if (ticks.value.get(item.id)?.discount) {
      put(item, plain(item.open))
      return
    }
    const discount = item.discount?.amount ?? (authority() ? item.offered : 0)
    if (discount)
      put(item, { amount: item.open - discount, discount, difference: 0, late: item.discount === null })
  }
  function setAmount(item: T, amount: number | null): void {
    put(item, amount ? { ...(ticks.value.get(item.id) ?? plain(0)), amount, difference: 0 } : null)
  }
  /** Writes off what is left of a ticked item, within the tolerance, or leaves it open. */
  function writeOff(item: T): void {
    const tick = ticks.value.get(item.id)
    if (!tick) return
    const left = item.open - tick.amount - tick.discount
    if (tick.difference) put(item, { ...tick, difference: 0 })
    else if (isSmallDifference(item, left, tolerance())) put(item, { ...tick, difference: left })
  }
  /** Ticks what an advice names, in place of what was ticked. Answers how many. */
  function follow(
    lines: readonly { itemId: number | null; amount: number | null; discount: number | null }[],
  ): number {
    const next = new Map<number, Tick>()
    for (const l of lines) {
      const item = l.itemId === null ? undefined : byId.value.get(l.itemId)
      if (!item) continue
      if (item.open < 0) {
        next.set(item.id, plain(-item.open))
        continue
      }
      const discount = l.discount && item.offered ? Math.min(l.discount, item.offered) : 0
      next.set(item.id, {
        amount: Math.min(l.amount ?? item.open - discount, item.open),
        discount,
        difference: 0,
        late: discount > 0 && item.discount === null,
      })
    }
    ticks.value = next
    return next.size
  }
  /** Takes off what is not open any more. */
  function keepOpen(): void {
    for (const id of ticks.value.keys()) if (!byId.value.has(id)) ticks.value.delete(id)
    triggerRef(ticks)
  }

  /**
   * The parts by customer; credits go against the largest ticked items that are simply paid, without discount
   * or write-off.
   */
  const parts = computed(() =>
    customers.value.map(customer => {
      const own = debits.value.filter(t => t.item.customer === customer)
      const pairs = spreadCredits(
        credits.value
          .filter(t => t.item.customer === customer)
          .map(t => ({ id: t.item.id, amount: -t.item.open })),
        own.filter(t => !t.discount && !t.difference).map(t => ({ id: t.item.id, amount: t.amount })),
      )
      const off = (id: number) => pairs.filter(p => p.debitItemId === id).reduce((a, p) => a + p.amount, 0)
      return {
        customer,
        allocations: own
          .map(t => ({
            itemId: t.item.id,
            amount: t.amount - off(t.item.id),
            discount: t.discount,
            difference: t.difference,
          }))
          .filter(a => a.amount > 0),
        credits: pairs,
        onAccount: 0,
      }
    }),
  )
  /**
   * Whether every ticked credit went against items of its customer to the last cent: what is left over could
   * not be posted.
   */
  const creditsFit = computed(() =>
    credits.value.every(
      c =>
        parts.value
          .find(p => p.customer === c.item.customer)!
          .credits.reduce((a, x) => a + (x.creditItemId === c.item.id ? x.amount : 0), 0) === -c.item.open,
    ),
  )
  const late = computed(() => debits.value.some(t => t.late))
  return {
    ticks,
    ticked,
    byId,
    debits,
    credits,
    running,
    customers,
    parts,
    creditsFit,
    late,
    toggle,
    flipDiscount,
    setAmount,
    writeOff,
    follow,
    keepOpen,
    clear,
  }
}
