import fc from 'fast-check'
import { RISK_CLASSES } from '../../../core/accounts'
import {
  RISK_BANDS,
  roundedUp,
  SCORE_PART_NAMES,
  SCORE_PARTS,
  scoreOf,
  suggest,
  WEIGHTS,
  type Behaviour,
  type Weights,
} from '../../../core/review'

const behaviour = (set: Partial<Behaviour> = {}): Behaviour => ({
  months: 24,
  daysLate: 0,
  trend: 0,
  shareLate: 0,
  shareOverdue: 0,
  returned: 0,
  promised: 4,
  broken: 0,
  paid: 1000,
  open: 500,
  ...set,
})
const anyBehaviour: fc.Arbitrary<Behaviour> = fc.record({
  months: fc.double({ min: 0, max: 120, noNaN: true }),
  daysLate: fc.option(fc.double({ min: -60, max: 400, noNaN: true })),
  trend: fc.option(fc.double({ min: -200, max: 200, noNaN: true })),
  shareLate: fc.option(fc.double({ min: 0, max: 1, noNaN: true })),
  shareOverdue: fc.option(fc.double({ min: 0, max: 1, noNaN: true })),
  returned: fc.integer({ min: 0, max: 9 }),
  promised: fc.constant(5),
  broken: fc.integer({ min: 0, max: 5 }),
  paid: fc.integer({ min: 0, max: 1_000_000 }),
  open: fc.integer({ min: 0, max: 1_000_000 }),
})
const anyWeights: fc.Arbitrary<Weights> = fc
  .tuple(...SCORE_PART_NAMES.map(() => fc.integer({ min: 0, max: 100 })))
  .map(list => Object.fromEntries(SCORE_PART_NAMES.map((name, n) => [name, list[n]!])) as Weights)

test('the best gets a hundred, the worst nothing', () => {
  expect(scoreOf(behaviour(), WEIGHTS).score).toBe(100)
  const worst = { daysLate: 60, trend: 30, shareLate: 1, shareOverdue: 0.5, returned: 2, broken: 4 }
  expect(scoreOf(behaviour({ ...worst, months: 0 }), WEIGHTS).score).toBe(0)
})

test('whatever the behaviour and the weights, it lies between 0 and 100 and its parts add up to it', () => {
  fc.assert(
    fc.property(anyBehaviour, anyWeights, (b, weights) => {
      const { score, parts } = scoreOf(b, weights)
      if (score === null) return
      expect(score).toBeGreaterThanOrEqual(0)
      expect(score).toBeLessThanOrEqual(100 + 1e-9)
      expect(parts.reduce((sum, p) => sum + p.gives, 0)).toBeCloseTo(score, 9)
    }),
  )
})

test('to pay later never helps', () => {
  fc.assert(
    fc.property(anyBehaviour, fc.double({ min: 0, max: 100, noNaN: true }), (b, later) => {
      if (b.daysLate === null) return
      const now = scoreOf(b, WEIGHTS).score
      const then = scoreOf({ ...b, daysLate: b.daysLate + later }, WEIGHTS).score
      if (now !== null) expect(then!).toBeLessThanOrEqual(now + 1e-9)
    }),
  )
})

test('what is not known leaves its weight to the others', () => {
  const known = scoreOf(behaviour({ daysLate: 30, trend: null }), WEIGHTS)
  // 30 × 50 of 90 instead of 100: half of the points of lateness, all of the others.
  expect(known.score).toBeCloseTo(100 - (30 * 50) / 90, 9)
})

test('who has paid nothing and owes nothing late has shown nothing', () => {
  const fresh = behaviour({ paid: 0, daysLate: null, trend: null, shareLate: null, months: 0.3 })
  expect(scoreOf(fresh, WEIGHTS).score).toBeNull()
  expect(scoreOf({ ...fresh, shareOverdue: 0.2 }, WEIGHTS).score).not.toBeNull()
})

test('each part says what it found, in words', () => {
  const said = (set: Partial<Behaviour>, part: (typeof SCORE_PART_NAMES)[number]) =>
    SCORE_PARTS[part].said(behaviour(set))
  expect(said({ daysLate: 12.4 }, 'daysLate')).toBe(
    'paid 12 days late over the last year, weighted by amount',
  )
  expect(said({ daysLate: -1 }, 'daysLate')).toBe('paid 1 day early over the last year, weighted by amount')
  expect(said({ returned: 1 }, 'returned')).toBe('1 payment came back in the last year')
  expect(said({ months: 1.2 }, 'months')).toBe('first invoice a month ago')
})

describe('what is suggested', () => {
  const money = (amount: number) => `${amount / 100} EUR`
  const of = (set: Partial<Parameters<typeof suggest>[0]>) =>
    suggest({ probability: 0.03, isLongLate: false, most: 1_000_000, unit: 100, ...set }, money)

  test('a class by the probability, a limit by the need: 10,000 and a fifth of room', () => {
    expect(of({})).toMatchObject({ riskClass: 'A', limit: 1_200_000, months: 12 })
    expect(of({ probability: 0.15 })).toMatchObject({ riskClass: 'C', limit: 960_000, months: 6 })
    expect(of({ probability: 0.3 })).toMatchObject({ riskClass: 'D', limit: 600_000 })
    expect(of({ probability: 0.9 })).toMatchObject({ riskClass: 'E', limit: 0 })
  })
  test('late now is the last class, whatever was likely', () =>
    expect(of({ isLongLate: true, probability: null })).toMatchObject({ riskClass: 'E', limit: 0 }))
  test('nothing known, nothing suggested', () => expect(of({ probability: null })).toBeNull())
  test('nothing needed, no limit', () =>
    expect(of({ most: 0 })).toMatchObject({
      limit: 0,
      reasons: expect.arrayContaining([expect.stringMatching(/needs no limit/)]),
    }))
  test('every probability has a class, and more risk never a better one', () => {
    const classes = Object.keys(RISK_CLASSES)
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (a, b) => {
          const [less, more] = [Math.min(a, b), Math.max(a, b)].map(probability => of({ probability })!)
          expect(classes.indexOf(more!.riskClass)).toBeGreaterThanOrEqual(classes.indexOf(less!.riskClass))
          expect(more!.limit).toBeLessThanOrEqual(less!.limit)
        },
      ),
    )
    expect(Object.keys(RISK_BANDS)).toEqual(classes)
  })
  test.each([
    [0, 100, 0],
    [4_130_000, 100, 4_200_000],
    [999, 100, 1000],
    [123_456, 1, 130_000],
    [7, 1000, 1000],
  ])('%i in units of %i is rounded up to %i', (amount, unit, rounded) =>
    expect(roundedUp(amount, unit)).toBe(rounded),
  )
})
