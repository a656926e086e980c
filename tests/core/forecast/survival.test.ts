import fc from 'fast-check'
import { survivalCurve, type Waiting } from '../../../core/forecast'

/*
 * Remission in weeks of 21 patients under 6-mercaptopurine (Freireich and others 1963), the usual example of
 * Kaplan and Meier; a plus is a patient still in remission. Figures from memory.
 */
const FREIREICH = '6 6 6 6+ 7 9+ 10 10+ 11+ 13 16 17+ 19+ 20+ 22 23 25+ 32+ 32+ 34+ 35+'
const list: Waiting[] = FREIREICH.split(' ').map(t => ({
  time: parseInt(t, 10),
  ended: !t.endsWith('+'),
  weight: 1,
}))

test('the curve of Freireich’s patients', () => {
  const { times, share } = survivalCurve(list)
  expect([...times]).toEqual([6, 7, 10, 13, 16, 22, 23])
  expect([...share].map(s => s.toFixed(3))).toEqual([
    ...['0.857', '0.807', '0.753', '0.690'],
    ...['0.627', '0.538', '0.448'],
  ])
})

test('Greenwood’s variance, worked by hand for the first two steps', () => {
  const { share, variance } = survivalCurve(list)
  // Three of 21 end, then one of 17.
  const first = 3 / (21 * 18)
  expect(variance[0]).toBeCloseTo(share[0]! ** 2 * first, 12)
  expect(variance[1]).toBeCloseTo(share[1]! ** 2 * (first + 1 / (17 * 16)), 12)
})

test('without anybody who waits it is the plain share; weights count like so many', () => {
  const waiting = fc.record({
    time: fc.integer({ min: 0, max: 30 }),
    ended: fc.boolean(),
    weight: fc.integer({ min: 1, max: 4 }),
  })
  fc.assert(
    fc.property(fc.array(waiting, { minLength: 1, maxLength: 40 }), all => {
      const ended = all.map(w => ({ ...w, ended: true, weight: 1 }))
      const plain = survivalCurve(ended)
      plain.times.forEach((time, n) => {
        const after = ended.filter(w => w.time > time).length / ended.length
        expect(plain.share[n]).toBeCloseTo(after, 10)
      })
      const many = all.flatMap(w => Array.from({ length: w.weight }, () => ({ ...w, weight: 1 })))
      const [one, other] = [survivalCurve(all), survivalCurve(many)]
      expect([...one.times]).toEqual([...other.times])
      one.share.forEach((s, n) => expect(s).toBeCloseTo(other.share[n]!, 10))
    }),
  )
})

test('of nothing there is no curve', () => {
  expect(survivalCurve([]).times).toHaveLength(0)
})
