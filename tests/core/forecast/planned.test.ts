import fc from 'fast-check'
import { addDays, isBankWorkingDay } from '../../../core/calendar'
import { bankDaysOfRule, daysOfRule, EVERY, type Every, type PlannedRule } from '../../../core/forecast'

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

describe('on days on which banks are closed', () => {
  const once = (from: string) => rule({ every: 'once', from })
  test.each([
    ['a Sunday', '2026-11-01', '2026-10-30', '2026-11-02'],
    ['a Sunday, asked on that day', '2026-11-01', '2026-11-01', '2026-11-02'],
    ['Good Friday to Easter Monday', '2026-04-03', '2026-04-02', '2026-04-07'],
    ['Christmas and a weekend', '2026-12-25', '2026-12-24', '2026-12-28'],
    ['a working day', '2026-11-03', '2026-11-02', '2026-11-03'],
  ])('%s: carried out on the next that they work', (_, from, after, on) => {
    expect(bankDaysOfRule(once(from), after, '2027-01-31')).toEqual([on])
    expect(bankDaysOfRule(once(from), on, '2027-01-31')).toEqual([])
  })

  test('whenever it is asked, each payment goes out once, on an open day', () => {
    const day = fc.integer({ min: 0, max: 4000 }).map(n => addDays('2020-01-01', n))
    fc.assert(
      fc.property(day, day, fc.integer({ min: 0, max: 60 }), (from, after, length) => {
        const own = rule({ from, every: 'week' })
        const days = Array.from({ length }, (_, n) =>
          bankDaysOfRule(own, addDays(after, n), addDays(after, n + 1)),
        ).flat()
        expect(days).toEqual(bankDaysOfRule(own, after, addDays(after, length)))
        days.forEach(d => expect(isBankWorkingDay(d)).toBe(true))
      }),
    )
  })
})
