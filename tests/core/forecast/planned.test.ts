import fc from 'fast-check'
import { addDays } from '../../../core/calendar'
import { daysOfRule, EVERY, type Every, type PlannedRule } from '../../../core/forecast'

const rule = (over: Partial<PlannedRule> = {}): PlannedRule => ({
  ...{ amount: 100, currency: 'EUR', from: '2026-01-31', until: null, every: 'month' },
  ...over,
})

test('a month that is too short has its last day', () => {
  expect(daysOfRule(rule(), '2026-01-30', '2026-04-30')).toEqual([
    ...['2026-01-31', '2026-02-28', '2026-03-31', '2026-04-30'],
  ])
  expect(daysOfRule(rule({ every: 'quarter' }), '2026-02-01', '2026-12-31')).toEqual([
    ...['2026-04-30', '2026-07-31', '2026-10-31'],
  ])
  expect(daysOfRule(rule({ every: 'once' }), '2026-01-31', '2026-12-31')).toEqual([])
  expect(daysOfRule(rule({ every: 'week', until: '2026-02-10' }), '2026-01-31', '2026-12-31')).toEqual([
    '2026-02-07',
  ])
})

test('any span: rising, within it, and the same as in two halves', () => {
  const day = fc.integer({ min: 0, max: 4000 }).map(n => addDays('2020-01-01', n))
  const every = fc.constantFrom(...(Object.keys(EVERY) as Every[]))
  fc.assert(
    fc.property(day, day, fc.integer({ min: 0, max: 500 }), every, (from, after, length, how) => {
      const upTo = addDays(after, length)
      const middle = addDays(after, Math.floor(length / 2))
      const own = rule({ from, every: how })
      const days = daysOfRule(own, after, upTo)
      expect([...days].sort()).toEqual(days)
      expect(new Set(days).size).toBe(days.length)
      days.forEach(d => expect(d > after && d <= upTo && d >= from).toBe(true))
      expect([...daysOfRule(own, after, middle), ...daysOfRule(own, middle, upTo)]).toEqual(days)
    }),
  )
})
