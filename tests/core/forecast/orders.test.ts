import fc from 'fast-check'
import { invoicedByWeek, invoiceDay, ordersCurve, sooner } from '../../../core/forecast'
import { TODAY } from './world'

const order = (age: number, isDelivered = false) => ({ orderedOn: TODAY - age, isDelivered })

test('orders are invoiced as those before them were, and those that wait count as waiting', () => {
  const seen = [
    ...Array.from({ length: 80 }, () => ({ time: 10, ended: true })),
    ...Array.from({ length: 80 }, () => ({ time: 30, ended: true })),
    ...Array.from({ length: 40 }, () => ({ time: 12, ended: false })),
  ]
  const curve = ordersCurve(seen)
  const fresh = invoiceDay(curve, order(0), TODAY)
  // Of 200 some 80 are invoiced on the tenth day; forty more are known only to have waited twelve.
  expect(fresh(0.2)).toBe(TODAY + 10)
  expect(fresh(0.9)).toBe(TODAY + 30)
  // Who waits for eleven days is one of the slow.
  expect(invoiceDay(curve, order(11), TODAY)(0.3)).toBe(TODAY - 11 + 30)
})

test('what is delivered is invoiced within a week; what has waited longer than any, at a steady rate', () => {
  const curve = ordersCurve([])
  const soon = [0, 0.5, 0.999].map(invoiceDay(curve, order(90, true), TODAY))
  expect(soon).toEqual([TODAY + 1, TODAY + 4, TODAY + 7])
  const old = invoiceDay(curve, order(500), TODAY)
  expect(old(0.5)).toBe(TODAY + 31)
  expect(old(0.75)).toBe(TODAY + 61)
})

test('an invoice never lies in the past, comes later for a larger chance, and its weeks make at most one', () => {
  fc.assert(
    fc.property(
      fc.array(fc.record({ time: fc.integer({ min: 0, max: 200 }), ended: fc.boolean() }), { maxLength: 60 }),
      fc.integer({ min: 0, max: 300 }),
      fc.boolean(),
      (seen, age, isDelivered) => {
        const day = invoiceDay(ordersCurve(seen), order(age, isDelivered), TODAY)
        const days = [0, 0.1, 0.25, 0.5, 0.75, 0.9, 0.999].map(day)
        expect(Math.min(...days)).toBeGreaterThan(TODAY)
        expect([...days].sort((a, b) => a - b)).toEqual(days)
        const sum = invoicedByWeek(day, TODAY, 26).reduce((a, b) => a + b, 0)
        expect(sum).toBeLessThanOrEqual(1 + 1e-9)
      },
    ),
  )
})

test('a reminder brings money sooner by the area between two curves, near a rule where little was seen', () => {
  // By hand: 7 days: (0.2 - 0.1) * 7 / 2; 7 more: (0.3 - 0.15) * 7; 16 more: (0.5 - 0.3) * 16; 4.6 in all.
  const seen = { notices: 1e9, share: [0.2, 0.4, 0.6], alone: { share: [0.1, 0.2, 0.4] } }
  expect(sooner([seen])).toBe(5)
  expect(sooner([])).toBe(3)
  expect(sooner([{ ...seen, notices: 50 }])).toBe(4)
  expect(sooner([{ ...seen, alone: { share: [null, null, null] } }])).toBe(3)
  // Reminded money that comes later than other is no reason to remind.
  expect(sooner([{ notices: 1e9, share: [0, 0, 0], alone: { share: [0.5, 0.6, 0.9] } }])).toBe(0)
})
