import fc from 'fast-check'
import { dayNumber } from '../../../core/calendar'
import { countBack, figuresOf, monthsBack, type Ingredients } from '../../../core/measures'

/** A quarter with nothing unusual in it: what the formulas make of it can be checked with a pencil. */
const quarter = (set: Partial<Ingredients> = {}): Ingredients => ({
  receivables: 600_000,
  current: 400_000,
  overdue: 200_000,
  over90: 30_000,
  onAccount: -10_000,
  unallocated: 8_000,
  disputed: 5_000,
  opening: 500_000,
  sales: 900_000,
  days: 90,
  paid: 700_000,
  paidDays: 700_000 * 12,
  promised: 40_000,
  promiseKept: 30_000,
  months: [
    { sales: 300_000, days: 31 },
    { sales: 400_000, days: 28 },
    { sales: 200_000, days: 31 },
  ],
  ...set,
})

// Formulas: Credit Research Foundation, from memory; the figures are ours and were worked out by hand.
describe('the DSO family', () => {
  const figures = figuresOf(quarter())

  test('days sales outstanding: 600 ÷ 900 × 90 = 60 days', () => expect(figures.dso).toBe(60))
  test('best possible: 400 ÷ 900 × 90 = 40 days', () => expect(figures.bestDso).toBe(40))
  test('average days delinquent is the difference: 20 days', () => expect(figures.delinquent).toBe(20))
  test('count-back: 31 days of the newest month, then 300 ÷ 400 of 28: 52 days', () =>
    expect(figures.countBack).toBe(52))
  test('promises kept: 300 of 400 came in time', () => expect(figures.promisesKept).toBe(75))
  test('nothing sold, nothing said', () => {
    const { dso, bestDso, delinquent } = figuresOf(quarter({ sales: 0 }))
    expect([dso, bestDso, delinquent]).toEqual([null, null, null])
  })
})

// Credit Research Foundation, from memory:
// (opening + sales − closing total) ÷ (opening + sales − closing current).
describe('collection effectiveness', () => {
  test('(500 + 900 − 600) ÷ (500 + 900 − 400) = 80 %', () =>
    expect(figuresOf(quarter()).effectiveness).toBe(80))
  test('100 % when nothing that is due stayed open', () =>
    expect(figuresOf(quarter({ current: 600_000, overdue: 0 })).effectiveness).toBe(100))
  test('nothing to collect, nothing said', () =>
    expect(figuresOf(quarter({ opening: 0, sales: 0, receivables: 0, current: 0 })).effectiveness).toBeNull())
})

test('shares and lateness', () => {
  const figures = figuresOf(quarter())
  expect(figures.overdueShare).toBe(33.3)
  expect(figures.over90Share).toBe(5)
  expect(figures.daysLate).toBe(12)
  expect(figuresOf(quarter({ paid: 0, paidDays: 0 })).daysLate).toBeNull()
})

describe('count-back', () => {
  const month = { sales: 100, days: 30 }

  test('with the same sales every month it is DSO', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1200 }), balance => {
        expect(
          countBack(
            balance,
            Array.from({ length: 12 }, () => month),
          ),
        ).toBeCloseTo((balance / 100) * 30, 9)
      }),
    )
  })
  test('it never falls when the balance rises, and never passes the days there are', () => {
    const months = fc.array(fc.record({ sales: fc.integer({ min: -50, max: 500 }), days: fc.constant(30) }), {
      minLength: 1,
      maxLength: 24,
    })
    fc.assert(
      fc.property(months, fc.integer({ min: 0, max: 3000 }), (list, balance) => {
        const [less, more] = [countBack(balance, list), countBack(balance + 1, list)]
        if (more !== null) expect(less!).toBeLessThanOrEqual(more)
        if (less !== null) expect(less).toBeLessThanOrEqual(30 * list.length)
      }),
    )
  })
  test('a balance beyond all sales cannot be told', () => expect(countBack(250, [month, month])).toBeNull())
  test('nothing open is no days', () => expect(countBack(0, [])).toBe(0))
  test('a month of more credit notes than invoices adds its days and takes nothing off', () =>
    expect(countBack(50, [{ sales: -20, days: 31 }, month])).toBe(31 + 15))
})

test('months go back from the day: what has passed of its own, then whole ones', () => {
  const days = monthsBack(dayNumber('2026-03-10'), 3).map(m => m.to - m.from)
  expect(days).toEqual([10, 28, 31])
})
