import { dayBegins } from '../../../server/services/books/auditTrail'

test.each([
  ['2026-11-26', 'UTC', '2026-11-26 00:00:00.000'],
  ['2026-11-26', 'Europe/Dublin', '2026-11-26 00:00:00.000'],
  ['2026-07-01', 'Europe/Oslo', '2026-06-30 22:00:00.000'],
  // At noon UTC it is midnight there: once read as hour 24 of another day.
  ['2026-07-01', 'Pacific/Auckland', '2026-06-30 12:00:00.000'],
  ['2026-11-26', 'America/New_York', '2026-11-26 05:00:00.000'],
])('the day %s begins in %s', (day, zone, begins) => {
  expect(dayBegins(day, zone)).toBe(begins)
})
