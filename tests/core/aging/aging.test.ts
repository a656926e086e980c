import fc from 'fast-check'
import { age, bucketIndex, bucketsOf, netted } from '../../../core/aging'
import { addDays, daysLate } from '../../../core/calendar'

const AS_OF = '2026-11-16'

describe('buckets', () => {
  test('by default not due, 1–30, 31–60, 61–90, 91+', () => {
    expect(bucketsOf().map(b => [b.label, b.from, b.to])).toEqual([
      ['Not due', null, 0],
      ['1–30', 1, 30],
      ['31–60', 31, 60],
      ['61–90', 61, 90],
      ['91+', 91, null],
    ])
  })
  test.each([
    [0, 0],
    [-5, 0],
    [1, 1],
    [30, 1],
    [31, 2],
    [60, 2],
    [61, 3],
    [90, 3],
    [91, 4],
    [4000, 4],
  ])('%i days late is bucket %i', (late, index) => expect(bucketIndex(bucketsOf(), late)).toBe(index))
  test.each([[[]], [[30, 30]], [[0]], [[30, 20]], [[1, 2, 3, 4, 5]], [[1.5]]])('%j are no bounds', bounds =>
    expect(() => bucketsOf(bounds)).toThrow(RangeError),
  )
  test('every age falls in exactly one bucket', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: -500, max: 5000 }),
        fc.uniqueArray(fc.integer({ min: 1, max: 400 }), { minLength: 1, maxLength: 4 }),
        (late, raw) => {
          const buckets = bucketsOf([...raw].sort((a, b) => a - b))
          const within = buckets.filter(
            b => (b.from === null || late >= b.from) && (b.to === null || late <= b.to),
          )
          expect(within).toEqual([buckets[bucketIndex(buckets, late)]])
        },
      ),
    ))
})

describe('aging', () => {
  const items = fc.array(
    fc.record({
      open: fc.integer({ min: -1_000_000, max: 1_000_000 }),
      date: fc.integer({ min: -200, max: 60 }).map(n => addDays(AS_OF, n)),
    }),
  )
  test('credit stands in its own figure and the total is all of it', () =>
    fc.assert(
      fc.property(items, list => {
        const aged = age(list, AS_OF, bucketsOf())
        expect(aged.total).toBe(list.reduce((a, i) => a + i.open, 0))
        expect(aged.onAccount).toBe(list.filter(i => i.open < 0).reduce((a, i) => a + i.open, 0))
        expect(aged.amounts[0]).toBe(
          list.filter(i => i.open > 0 && daysLate(i.date, AS_OF) <= 0).reduce((a, i) => a + i.open, 0),
        )
      }),
    ))
  test('credit set off eats the oldest first', () => {
    expect(netted({ amounts: [100, 50, 30, 20], onAccount: -60, total: 140 })).toEqual({
      amounts: [100, 40, 0, 0],
      onAccount: 0,
      total: 140,
    })
    expect(netted({ amounts: [10, 0], onAccount: -25, total: -15 })).toEqual({
      amounts: [0, 0],
      onAccount: -15,
      total: -15,
    })
  })
  test('setting off changes no total', () =>
    fc.assert(
      fc.property(items, list => {
        const net = netted(age(list, AS_OF, bucketsOf()))
        expect(net.amounts.reduce((a, b) => a + b, net.onAccount)).toBe(net.total)
        expect(net.onAccount === 0 || net.amounts.every(a => a === 0)).toBe(true)
      }),
    ))
})
