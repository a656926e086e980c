import fc from 'fast-check'
import { brier, fit, probability, reliability, type Observation } from '../../../core/review'
import { chance } from '../../../simulators/chance'

const seen = (risk: number, weeks: readonly (number | string)[]): Observation[] =>
  weeks.map(w => ({ risk, years: parseInt(String(w), 10), happened: !String(w).endsWith('+') }))

describe('the fit', () => {
  // Remission of leukaemia, Freireich et al. 1963, both arms. A Weibull model with proportional hazards gives
  // treatment −1.731, constant −3.071, shape 1.366: Kleinbaum and Klein, Survival Analysis, from memory.
  test('of the usual textbook data gives the figures of the textbook', () => {
    const treated = seen(1, [
      6,
      6,
      6,
      '6+',
      7,
      '9+',
      10,
      '10+',
      '11+',
      13,
      16,
      '17+',
      '19+',
      '20+',
      22,
      23,
    ]).concat(seen(1, ['25+', '32+', '32+', '34+', '35+']))
    const placebo = seen(0, [1, 1, 2, 2, 3, 4, 4, 5, 5, 8, 8, 8, 8, 11, 11, 12, 12, 15, 17, 22, 23])
    const model = fit([...treated, ...placebo], null)
    expect(model.b).toBeCloseTo(-1.731, 2)
    expect(model.a).toBeCloseTo(-3.071, 2)
    expect(model.shape).toBeCloseTo(1.366, 2)
  })

  test('finds the law that observations were drawn from, half of them not seen to the end', () => {
    const c = chance('weibull')
    const law = { a: -2.5, b: 4, shape: 0.8 }
    const observations = Array.from({ length: 20_000 }, (): Observation => {
      const risk = c.whole(0, 100) / 100
      const when = (-Math.log(c.whole(1, 999_999) / 1e6) / Math.exp(law.a + law.b * risk)) ** (1 / law.shape)
      const until = c.whole(1, 100) / 100
      return { risk, years: Math.max(1e-6, Math.min(when, until)), happened: when <= until }
    })
    const model = fit(observations)
    expect(model.a).toBeCloseTo(law.a, 0)
    expect(Math.abs(model.b - law.b)).toBeLessThan(0.25)
    expect(Math.abs(model.shape - law.shape)).toBeLessThan(0.05)
  })

  test('whatever was seen, it ends, and more time never means less likely', () => {
    const observation = fc.record({
      risk: fc.double({ min: 0, max: 1, noNaN: true }),
      years: fc.double({ min: 0.003, max: 1, noNaN: true }),
      happened: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(observation, { maxLength: 40 }), list => {
        const model = fit(list)
        for (const risk of [0, 0.3, 1]) {
          const p = [0.25, 0.5, 1].map(years => probability(model, risk, years))
          expect(p.every(x => x >= 0 && x <= 1)).toBe(true)
          expect(p[0]! <= p[1]! && p[1]! <= p[2]!).toBe(true)
        }
      }),
    )
  })

  test('with nothing seen it says what was held likely before: a few in a hundred without risk', () => {
    expect(probability(fit([]), 0)).toBeCloseTo(0.049, 2)
  })
})

// Brier 1950: the mean of (said − came)²; worked out by hand.
test('Brier score: (0.1² + 0.4² + 0.2²) ÷ 3 = 0.07', () => {
  const told = [
    { said: 0.1, happened: false },
    { said: 0.6, happened: true },
    { said: 0.2, happened: false },
  ]
  expect(brier(told)).toBeCloseTo(0.07, 10)
})

test('the table of reliability holds everybody once', () => {
  const told = fc.array(
    fc.record({ said: fc.double({ min: 0, max: 1, noNaN: true }), happened: fc.boolean() }),
  )
  fc.assert(
    fc.property(told, list => {
      const bands = reliability(list)
      expect(bands.reduce((sum, b) => sum + b.count, 0)).toBe(list.length)
      for (const b of bands) expect(b.said >= b.from && b.said <= b.to).toBe(true)
    }),
  )
})
