import Holidays from 'date-holidays'
import {
  addDays as fnsAddDays,
  addMonths as fnsAddMonths,
  differenceInCalendarDays,
  endOfMonth as fnsEndOfMonth,
  formatISO,
} from 'date-fns'
import fc from 'fast-check'
import {
  addBankWorkingDays,
  addDays,
  addMonths,
  daysBetween,
  daysLate,
  discountOn,
  discountSteps,
  dueParts,
  easterSunday,
  endOfMonth,
  isBankWorkingDay,
  isIsoDate,
  lastMonthEnd,
  onBankWorkingDay,
  parseTerms,
  weekday,
  yearlyCostOfNotTaking,
} from '../../../core/calendar'

const day = fc.integer({ min: 0, max: 60_000 }).map(n => addDays('1970-01-01', n))
const local = (iso: string) => new Date(`${iso}T12:00:00`)
const iso = (d: Date) => formatISO(d, { representation: 'date' })

describe('days against date-fns', () => {
  test('adding days and months, month ends, differences', () =>
    fc.assert(
      fc.property(day, fc.integer({ min: -800, max: 800 }), day, (d, n, other) => {
        expect(addDays(d, n)).toBe(iso(fnsAddDays(local(d), n)))
        expect(addMonths(d, n % 60)).toBe(iso(fnsAddMonths(local(d), n % 60)))
        expect(endOfMonth(d)).toBe(iso(fnsEndOfMonth(local(d))))
        expect(daysBetween(d, other)).toBe(differenceInCalendarDays(local(other), local(d)))
        expect(weekday(d)).toBe(local(d).getDay())
      }),
    ))
  test('due today is not late', () =>
    expect([
      daysLate('2026-11-16', '2026-11-16'),
      daysLate('2026-11-15', '2026-11-16'),
      daysLate('2026-11-17', '2026-11-16'),
    ]).toEqual([0, 1, -1]))
  test('last month end', () =>
    expect([lastMonthEnd('2026-11-16'), lastMonthEnd('2026-03-31'), lastMonthEnd('2024-03-01')]).toEqual([
      '2026-10-31',
      '2026-02-28',
      '2024-02-29',
    ]))
  test.each([
    '2026-02-29',
    '2026-13-01',
    '26-01-01',
    '2026-1-1',
    '1899-12-31',
    '2026-00-10',
    'yesterday',
    '',
  ])('%s is not a date', text => expect(isIsoDate(text)).toBe(false))
  test('leap day is', () => expect(isIsoDate('2024-02-29')).toBe(true))
})

describe('bank working days', () => {
  // Source: shared design, checks.md (Easter Sundays; TARGET closing days), and the package date-holidays.
  test.each([['2025-04-20'], ['2026-04-05'], ['2027-03-28']])('Easter %s', date =>
    expect(easterSunday(Number(date.slice(0, 4)))).toBe(date),
  )
  test('Easter of two centuries as date-holidays has it', () => {
    for (let year = 1970; year < 2100; year++) {
      const easter = new Holidays('DE', 'BB').getHolidays(year).find(h => h.rule === 'easter')!
      expect(easterSunday(year)).toBe(easter.date.slice(0, 10))
    }
  })
  test.each([
    '2026-01-01',
    '2026-04-03',
    '2026-04-06',
    '2026-05-01',
    '2026-12-25',
    '2026-12-26',
    '2026-11-14',
    '2026-11-15',
  ])('closed on %s', date => expect(isBankWorkingDay(date)).toBe(false))
  test.each(['2026-11-16', '2026-04-02', '2026-04-07', '2026-12-24'])('open on %s', date =>
    expect(isBankWorkingDay(date)).toBe(true),
  )
  test('counting over Easter', () => {
    expect(addBankWorkingDays('2026-04-02', 1)).toBe('2026-04-07')
    expect(addBankWorkingDays('2026-04-07', -1)).toBe('2026-04-02')
    expect(onBankWorkingDay('2026-04-03')).toBe('2026-04-07')
  })
})

describe('payment terms', () => {
  const due = (terms: string, date: string, amount = 10_000) =>
    dueParts(parseTerms(terms), date, amount).map(p => `${p.dueDate} ${p.amount}`)
  test.each([
    ['net 30', '2026-01-31', ['2026-03-02 10000']],
    ['eom 30', '2026-01-15', ['2026-03-02 10000']],
    ['eom', '2026-02-03', ['2026-02-28 10000']],
    ['30', '2026-11-01', ['2026-12-01 10000']],
    ['30 days', '2026-11-01', ['2026-12-01 10000']],
    ['30 days eom', '2026-01-15', ['2026-03-02 10000']],
    ['2/10 n/30', '2026-11-01', ['2026-12-01 10000']],
    ['cash', '2026-11-01', ['2026-11-01 10000']],
    ['50% net 30 / 50% net 60', '2026-11-01', ['2026-12-01 5000', '2026-12-31 5000']],
    [
      '34% net 0 / 33% net 30 / 33% net 60',
      '2026-11-01',
      ['2026-11-01 3400', '2026-12-01 3300', '2026-12-31 3300'],
    ],
  ])('%s from %s', (terms, date, expected) => expect(due(terms, date)).toEqual(expected))
  test('instalments add up to the amount', () =>
    expect(
      due('33.33% net 10 / 33.33% net 20 / 33.34% net 30', '2026-11-01', 100)
        .map(p => Number(p.split(' ')[1]))
        .reduce((a, b) => a + b),
    ).toBe(100))
  test('one- and two-step cash discount', () => {
    // 3 % within 7 days, 2 % within 14, else net: common practice.
    const steps = discountSteps(parseTerms('3% 7, 2% 14, net 30'), '2026-11-01', 119_000)
    expect(steps).toEqual([
      { date: '2026-11-08', amount: 3570 },
      { date: '2026-11-15', amount: 2380 },
    ])
    expect(['2026-11-08', '2026-11-09', '2026-11-15', '2026-11-16'].map(d => discountOn(steps, d))).toEqual([
      3570, 2380, 2380, 0,
    ])
    expect(discountSteps(parseTerms('2/10, n/30'), '2026-11-01', 780_050)).toEqual([
      { date: '2026-11-11', amount: 15_601 },
    ])
  })
  test('what not taking 2/10 net 30 costs a year', () => {
    // Source: corporate finance handbooks, 2/98 × 365/20 = 37.24 %.
    expect(yearlyCostOfNotTaking(parseTerms('2% 10, net 30').discounts[0]!, 30) * 100).toBeCloseTo(37.24, 2)
  })
  test.each([
    ['whenever', 'are not payment terms'],
    ['net', 'are not payment terms'],
    ['50% net 30 / 40% net 60', 'add up to 100 %'],
    ['3% 7, 2% 14, 1% 20, net 30', 'more than two'],
    ['2% 14, 3% 20, net 30', 'later and smaller'],
    ['120% 10, net 30', 'are not payment terms'],
  ])('%s is refused', (terms, why) => expect(() => parseTerms(terms)).toThrow(why))
})
