import fc from 'fast-check'
import { addDays, weekday } from '../../../core/calendar'
import { minorDigits, toMajor } from '../../../core/money'
import {
  amountParts,
  amountText,
  dateText,
  kindText,
  plural,
  proseText,
  rateText,
  readAmount,
  settledText,
  timeText,
  weekdayText,
  wholeText,
} from '../../../app/utils/format'

// The locale of a test is whatever the machine has: amounts are compared with Intl, the reference for it.
const CURRENCIES = ['EUR', 'JPY', 'KWD'] as const

test('amounts as the locale writes them, by the minor units of ISO 4217', () => {
  fc.assert(
    fc.property(fc.integer({ min: -1e13, max: 1e13 }), fc.constantFrom(...CURRENCIES), (amount, currency) => {
      const digits = minorDigits(currency)
      const wanted = new Intl.NumberFormat(undefined, {
        minimumFractionDigits: digits,
        maximumFractionDigits: digits,
      }).format(Math.abs(Number(toMajor(amount, currency))))
      const { units, cents } = amountParts(amount, currency)
      expect(units + cents).toBe(wanted)
      expect(amountText(amount, currency)).toBe(`${amount < 0 ? '−' : ''}${wanted}`)
    }),
  )
  expect(wholeText(-1_248_050, 'EUR')).toBe(`−${new Intl.NumberFormat().format(12_481)}`)
  expect(amountText(100, 'NOK', true)).toMatch(/^NOK 1\D00$/)
  expect(amountText(100, 'GBP', true)).toMatch(/^£ /)
})

test('what is shown is read again as the same amount', () => {
  fc.assert(
    fc.property(fc.nat(1e12), fc.constantFrom('EUR', 'JPY'), (amount, currency) => {
      expect(readAmount(amountText(amount, currency), currency)).toBe(amount)
    }),
  )
})

test.each<[string, string, number | null]>([
  ['1,210.40', 'EUR', 121_040],
  ['1.210,40', 'EUR', 121_040],
  ['1 210', 'EUR', 121_000],
  ['1210.4', 'EUR', 121_040],
  ['1,210', 'EUR', 121_000],
  ['0.05', 'EUR', 5],
  ['€ 12', 'EUR', 1200],
  ['1’210.40', 'EUR', 121_040],
  ['1.234', 'KWD', 1234],
  ['1,234', 'JPY', 1234],
  ['12.345', 'EUR', 1_234_500],
  ['12.3456', 'EUR', null],
  ['twelve', 'EUR', null],
  ['', 'EUR', null],
  ['-5', 'EUR', null],
  ['1.5', 'JPY', null],
  ['9'.repeat(20), 'EUR', null],
])('"%s" in %s is %s', (text, currency, amount) => {
  expect(readAmount(text, currency)).toBe(amount)
})

test('dates: short months, no zero before the day; sentences of the server too', () => {
  expect(dateText('2026-09-04')).toBe('4 Sep 2026')
  expect(dateText('2026-11-16T10:00:00Z')).toBe('16 Nov 2026')
  expect([dateText(null), dateText('')]).toEqual(['', ''])
  expect(proseText('due 2026-01-31, paid 2026-02-03; 26-2209 stays')).toBe(
    'due 31 Jan 2026, paid 3 Feb 2026; 26-2209 stays',
  )
  expect(timeText('2026-11-16T09:05:00.000Z')).toBe('16 Nov 2026, 09:05')
  expect(timeText('yesterday')).toBe('yesterday')
  const names = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun']
  for (let i = 0; i < 14; i++) expect(weekdayText(addDays('2026-11-16', i))).toBe(names[i % 7])
  expect(weekday('2026-11-16')).toBe(1)
  expect(weekdayText('')).toBe('')
})

test('counts and kinds in words', () => {
  expect([plural(1, 'item'), plural(0, 'item'), plural(2, 'entry', 'entries')]).toEqual([
    '1 item',
    '0 items',
    '2 entries',
  ])
  expect(plural(20_000, 'item')).toBe(`${new Intl.NumberFormat().format(20_000)} items`)
  expect([kindText('credit-note'), kindText('something')]).toEqual(['Credit note', 'something'])
})

test('rates stand with four decimals, or with eight', () => {
  expect(['1', '1.1', '0.00625', '11.7034'].map(rateText)).toEqual([
    '1.0000',
    '1.1000',
    '0.00625000',
    '11.7034',
  ])
})

test('what became of a bank line', () => {
  const line = { amount: 121_040, currency: 'EUR', match: null }
  expect(settledText(line)).toBe(`${amountText(121_040, 'EUR', true)} settled.`)
  const receipts = [{ number: 'R-000012' }, { number: 'R-000013' }]
  expect(settledText({ ...line, match: { receipts } })).toMatch(/ settled, R-000012, R-000013\.$/)
})
