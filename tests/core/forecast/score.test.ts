import { coverage, meanAbsoluteError, pinball, quantileOf, summaryOf } from '../../../core/forecast'

test('pinball loss, coverage and mean error by their definitions', () => {
  // 100 was said with nine in ten below it: 110 came, 10 too low counts nine tenths.
  expect(pinball(0.9, 100, 110)).toBeCloseTo(9)
  expect(pinball(0.9, 100, 90)).toBeCloseTo(1)
  expect(pinball(0.5, 100, 90)).toBeCloseTo(5)
  expect(
    coverage([
      { low: 0, high: 10, came: 10 },
      { low: 0, high: 10, came: 11 },
    ]),
  ).toBe(0.5)
  expect(
    meanAbsoluteError([
      { forecast: 10, came: 13 },
      { forecast: 10, came: 5 },
    ]),
  ).toBe(4)
})

test('quantiles between values (type 7)', () => {
  expect(quantileOf([1, 2, 3, 4], 0.5)).toBe(2.5)
  expect(quantileOf([1, 2, 3, 4], 0.1)).toBeCloseTo(1.3)
  expect(quantileOf([7], 0.9)).toBe(7)
})

test('the pinball loss is least at the true quantile', () => {
  const came = Array.from({ length: 101 }, (_, n) => n)
  const loss = (said: number) => came.reduce((sum, y) => sum + pinball(0.9, said, y), 0)
  const best = came.reduce((a, b) => (loss(b) < loss(a) ? b : a))
  expect(best).toBe(90)
})

test('a self-test is told by weeks ahead', () => {
  const week = { asOf: 0, p10: 5, p50: 10, p90: 15, mean: 10, plain: { due: 20, house: 12, customer: 11 } }
  const [first, all] = summaryOf(
    [
      { ...week, week: 1, came: 14 },
      { ...week, week: 2, came: 16 },
    ],
    [1, 4, 0],
  )
  expect(first).toMatchObject({
    week: 1,
    count: 1,
    error: 4,
    covered: 1,
    plain: { due: 6, house: 2, customer: 3 },
  })
  expect(all).toMatchObject({ week: 0, count: 2, error: 5, covered: 0.5 })
})
