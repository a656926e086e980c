import fc from 'fast-check'
import { shallowRef } from 'vue'
import { useTicks } from '../../../app/composables/receipts/ticks'

interface Row {
  id: number
  customer: string
  open: number
  baseOpen: number
  discount: { amount: number; until: string } | null
  offered: number
}
const row = (id: number, open: number, over: Partial<Row> = {}): Row => ({
  id,
  customer: 'A',
  open,
  baseOpen: open,
  discount: null,
  offered: 0,
  ...over,
})
const sheet = (rows: Row[], authority = false, tolerance = 500) => {
  const all = shallowRef(rows)
  return {
    all,
    rows,
    ...useTicks(
      all,
      () => authority,
      () => tolerance,
    ),
  }
}

test('a tick takes what is open, less the discount that is still earned; another tick takes it off', () => {
  const s = sheet([
    row(1, 10_000),
    row(2, 20_000, { discount: { amount: 400, until: '2026-11-20' }, offered: 400 }),
  ])
  s.rows.forEach(s.toggle)
  expect(s.running.value).toBe(29_600)
  expect(s.parts.value).toEqual([
    {
      customer: 'A',
      allocations: [
        { itemId: 1, amount: 10_000, discount: 0, difference: 0 },
        { itemId: 2, amount: 19_600, discount: 400, difference: 0 },
      ],
      credits: [],
      onAccount: 0,
    },
  ])
  s.toggle(s.rows[1]!)
  expect(s.running.value).toBe(10_000)
  s.clear()
  expect([s.running.value, s.parts.value]).toEqual([0, []])
})

test('a late discount is for those with authority only, and is told as late', () => {
  const late = row(1, 10_000, { offered: 200 })
  const without = sheet([late])
  without.flipDiscount(late)
  expect(without.ticked.value).toEqual([])
  const allowed = sheet([late], true)
  allowed.flipDiscount(late)
  expect([allowed.running.value, allowed.late.value]).toEqual([9800, true])
  allowed.flipDiscount(late)
  expect([allowed.running.value, allowed.late.value]).toEqual([10_000, false])
})

test('what is left is written off within the tolerance, measured in base currency', () => {
  const yen = row(1, 100_000, { baseOpen: 60_000 })
  const s = sheet([yen])
  s.writeOff(yen)
  expect(s.ticked.value).toEqual([])
  s.setAmount(yen, 99_000)
  s.writeOff(yen)
  expect(s.ticks.value.get(1)!.difference).toBe(0)
  s.setAmount(yen, 99_200)
  s.writeOff(yen)
  expect(s.ticks.value.get(1)!.difference).toBe(800)
  s.writeOff(yen)
  expect(s.ticks.value.get(1)!.difference).toBe(0)
  s.setAmount(yen, null)
  expect(s.ticked.value).toEqual([])
})

test(
  'credits go against the largest items of their own customer that take no discount; what does not fit ' +
    'is told',
  () => {
    const s = sheet([
      row(1, 10_000),
      row(2, 30_000),
      row(3, 90_000, { discount: { amount: 1800, until: '2026-11-20' }, offered: 1800 }),
      row(4, -35_000),
      row(5, 50_000, { customer: 'B' }),
    ])
    s.rows.forEach(s.toggle)
    expect(s.running.value).toBe(10_000 + 30_000 + 88_200 - 35_000 + 50_000)
    expect(s.parts.value[0]!.credits).toEqual([
      { creditItemId: 4, debitItemId: 2, amount: 30_000 },
      { creditItemId: 4, debitItemId: 1, amount: 5000 },
    ])
    expect(s.parts.value[0]!.allocations).toEqual([
      { itemId: 1, amount: 5000, discount: 0, difference: 0 },
      { itemId: 3, amount: 88_200, discount: 1800, difference: 0 },
    ])
    expect(s.creditsFit.value).toBe(true)
    s.toggle(s.rows[1]!)
    expect(s.creditsFit.value).toBe(false)
  },
)

test('an advice ticks what it names, in place of what was ticked; what is not open any more is left out', () => {
  const s = sheet([row(1, 10_000), row(2, 20_000, { offered: 400 }), row(3, -500)])
  s.toggle(s.rows[0]!)
  expect(
    s.follow([
      { itemId: 2, amount: null, discount: 900 },
      { itemId: 3, amount: -500, discount: null },
      { itemId: null, amount: 1, discount: null },
      { itemId: 77, amount: 1, discount: null },
    ]),
  ).toBe(2)
  expect(s.ticks.value.get(2)).toEqual({ amount: 19_600, discount: 400, difference: 0, late: true })
  expect(s.running.value).toBe(19_100)
  expect(s.follow([{ itemId: 1, amount: 12_000, discount: null }])).toBe(1)
  expect(s.running.value).toBe(10_000)
  s.all.value = [s.rows[1]!]
  s.keepOpen()
  expect(s.ticks.value.size).toBe(0)
})

test(
  'whatever is ticked: the parts make the running total when the credits fit, and nothing is used beyond ' +
    'what is open',
  () => {
    const rows = fc.array(
      fc.record({
        customer: fc.constantFrom('A', 'B', 'C'),
        open: fc.oneof(fc.integer({ min: 1, max: 90_000 }), fc.integer({ min: -40_000, max: -1 })),
        rate: fc.constantFrom(0, 0, 2, 3),
      }),
      { minLength: 1, maxLength: 14 },
    )
    const acts = fc.array(
      fc.record({
        what: fc.constantFrom('toggle', 'discount', 'amount', 'off'),
        at: fc.nat(),
        amount: fc.nat(90_000),
      }),
      { maxLength: 30 },
    )
    fc.assert(
      fc.property(rows, acts, (list, steps) => {
        const s = sheet(
          list.map((r, i) => {
            const cut = r.open > 0 ? Math.floor((r.open * r.rate) / 100) : 0
            return row(i + 1, r.open, {
              customer: r.customer,
              discount: cut ? { amount: cut, until: '2026-12-01' } : null,
              offered: cut,
            })
          }),
        )
        for (const step of steps) {
          const item = s.rows[step.at % s.rows.length]!
          if (step.what === 'toggle') s.toggle(item)
          else if (item.open < 0) continue
          else if (step.what === 'discount') s.flipDiscount(item)
          else if (step.what === 'amount')
            s.setAmount(item, Math.min(step.amount, item.open - (s.ticks.value.get(item.id)?.discount ?? 0)))
          else s.writeOff(item)
        }
        const paid = s.parts.value.flatMap(p => p.allocations)
        const pairs = s.parts.value.flatMap(p => p.credits)
        for (const t of s.debits.value)
          if (t.difference)
            expect(paid).toContainEqual({
              itemId: t.item.id,
              amount: t.amount,
              discount: t.discount,
              difference: t.difference,
            })
        if (s.creditsFit.value) expect(paid.reduce((a, x) => a + x.amount, 0)).toBe(s.running.value)
        for (const r of s.rows) {
          const used =
            r.open > 0
              ? paid
                  .filter(x => x.itemId === r.id)
                  .reduce((a, x) => a + x.amount + x.discount + x.difference, 0) +
                pairs.filter(x => x.debitItemId === r.id).reduce((a, x) => a + x.amount, 0)
              : pairs.filter(x => x.creditItemId === r.id).reduce((a, x) => a + x.amount, 0)
          expect(used).toBeLessThanOrEqual(Math.abs(r.open))
        }
        for (const x of pairs) {
          expect(s.byId.value.get(x.creditItemId)!.customer).toBe(s.byId.value.get(x.debitItemId)!.customer)
          expect(s.ticks.value.get(x.debitItemId)).toMatchObject({ discount: 0, difference: 0 })
        }
      }),
      { numRuns: 400 },
    )
  },
)
