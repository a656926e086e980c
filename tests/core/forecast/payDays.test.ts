import { dayNumber, fromDayNumber } from '../../../core/calendar'
import { ANY_DAY, PayDays, runOf, runWords } from '../../../core/forecast'

const calendar = new PayDays(dayNumber('2026-01-01'), dayNumber('2026-12-31'))
const date = (day: number): string => fromDayNumber(day)
const FRIDAYS = 16

test('days of a run: the next, and the one before', () => {
  // 14 November 2026 is a Saturday.
  const day = dayNumber('2026-11-14')
  expect(date(calendar.next(ANY_DAY, day))).toBe('2026-11-16')
  expect(date(calendar.before(ANY_DAY, day))).toBe('2026-11-13')
  expect(date(calendar.next(FRIDAYS, day))).toBe('2026-11-20')
  // Christmas Day 2026 is a Friday: that run goes on Monday 28th.
  expect(date(calendar.next(FRIDAYS, dayNumber('2026-12-19')))).toBe('2026-12-28')
})

test('runs are told by days of payment', () => {
  const fridays = Array.from({ length: 12 }, (_, n) => dayNumber('2026-06-05') + 7 * n)
  expect(runOf(fridays, calendar)).toBe(FRIDAYS)
  expect(runWords(FRIDAYS)).toBe('Fridays')
  const monthEnds = ['2026-01-30', '2026-02-27', '2026-03-31', '2026-04-30', '2026-05-29', '2026-06-30']
  expect(runWords(runOf(monthEnds.map(dayNumber), calendar))).toBe('at month end')
  const twice = ['2026-05-15', '2026-05-29', '2026-06-15', '2026-06-30', '2026-07-15', '2026-07-31']
  expect(runWords(runOf([...twice, '2026-08-14', '2026-08-31'].map(dayNumber), calendar))).toBe(
    'on day 15 of the month and at month end',
  )
})

test('who pays on any day, or too seldom, has no run', () => {
  const any = Array.from({ length: 15 }, (_, n) => calendar.next(ANY_DAY, dayNumber('2026-03-02') + 9 * n))
  expect(runOf(any, calendar)).toBe(ANY_DAY)
  expect(runOf([dayNumber('2026-06-05'), dayNumber('2026-06-12')], calendar)).toBe(ANY_DAY)
})
