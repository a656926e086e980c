import fc from 'fast-check'
import { ref } from 'vue'
import { useAllocation } from '../../../app/composables/receipts/allocation'

const item = (id: number, open: number, over: object = {}) => ({
  id,
  open,
  offered: 0,
  dueDate: `2026-10-${String(id).padStart(2, '0')}`,
  daysLate: 10,
  discount: null,
  currency: 'EUR',
  ...over,
})
const open = (list: ReturnType<typeof item>[], total = 0, bounded = total > 0) =>
  useAllocation(
    ref(list),
    ref('EUR'),
    () => total,
    () => bounded,
  )

test('ticks follow a total that was typed: the last one takes what is left', () => {
  const list = [item(1, 10_000), item(2, 20_000)]
  const a = open(list, 25_000)
  list.forEach(a.toggle)
  expect(a.allocations.value).toEqual([
    { itemId: 1, amount: 10_000, discount: 0, difference: 0 },
    { itemId: 2, amount: 15_000, discount: 0, difference: 0 },
  ])
  a.toggle(list[0]!)
  expect(a.assigned.value).toBe(15_000)
})

test('discount, small difference and deduction: one at a time, each taken back by the same command', () => {
  const i = item(1, 10_000, { discount: { amount: 200, until: '2026-11-20' }, offered: 200 })
  const a = open([i])
  a.toggle(i)
  a.takeDiscount(i)
  expect([a.assigned.value, a.late.value, a.left(i)]).toEqual([9800, false, 0])
  a.takeDiscount(i)
  expect(a.assigned.value).toBe(10_000)
  a.setAmount(i, 9990)
  a.writeOff(i)
  expect(a.allocations.value[0]).toMatchObject({ amount: 9990, difference: 10 })
  a.deduct(i, 'short-delivery')
  expect(a.allocations.value[0]).toMatchObject({ difference: 0, deduction: { reason: 'short-delivery' } })
  a.deduct(i, '')
  expect(a.allocations.value[0]).not.toHaveProperty('deduction')
  a.clear()
  expect([a.assigned.value, a.allocations.value]).toEqual([0, []])
})

test('a discount whose date is past is late', () => {
  const i = item(1, 10_000, { offered: 300 })
  const a = open([i])
  a.takeDiscount(i)
  expect([a.assigned.value, a.late.value]).toEqual([9700, true])
})

test(
  'oldest first never assigns more than there is nor more than is open, and leaves no older item half ' +
    'paid before a younger one',
  () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 50_000 }), { minLength: 1, maxLength: 12 }),
        fc.integer({ min: 1, max: 400_000 }),
        (amounts, total) => {
          const list = amounts.map((amount, i) => item(i + 1, amount))
          const a = open(list, total)
          a.oldestFirst()
          expect(a.assigned.value).toBe(
            Math.min(
              total,
              amounts.reduce((x, y) => x + y, 0),
            ),
          )
          const firstShort = list.findIndex(i => a.left(i) > 0)
          if (firstShort >= 0)
            for (const later of list.slice(firstShort + 1)) expect(a.chosen[later.id] ?? 0).toBe(0)
        },
      ),
    )
  },
)
