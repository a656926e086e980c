import currencyCodes from 'currency-codes'
import fc from 'fast-check'
import {
  convert,
  divideRounded,
  MAX_AMOUNT,
  minorDigits,
  mostWithin,
  parseAmount,
  share,
  split,
  toMajor,
} from '../../../core/money'

describe('minor units by ISO 4217', () => {
  // Source: ISO 4217, minor unit column; the package currency-codes carries the published list.
  test.each([
    ['JPY', 0],
    ['EUR', 2],
    ['GBP', 2],
    ['USD', 2],
    ['NOK', 2],
    ['KWD', 3],
  ])('%s has %i', (code, digits) => {
    expect(minorDigits(code)).toBe(digits)
    expect(currencyCodes.code(code)!.digits).toBe(digits)
  })
  test('an unknown code is named', () =>
    expect(() => minorDigits('EUX')).toThrow('EUX is not an ISO 4217 currency'))
})

describe('amounts as text', () => {
  test.each([
    ['1210.40', 'EUR', 121040],
    ['0.005', 'KWD', 5],
    ['1200', 'JPY', 1200],
    ['1.500', 'EUR', 150],
    ['-3.1', 'EUR', -310],
    ['7.', 'EUR', 700],
  ])('%s %s', (text, currency, minor) => {
    expect(parseAmount(text, currency)).toBe(minor)
  })
  test.each([
    ['1,200.50', 'EUR', 'decimal point'],
    ['12.345', 'EUR', 'EUR has 2'],
    ['1.5', 'JPY', 'JPY has 0'],
    ['', 'EUR', 'not an amount'],
    ['1e5', 'EUR', 'not an amount'],
    ['99999999999999', 'EUR', 'too large'],
  ])('%s %s is refused', (text, currency, why) => {
    expect(() => parseAmount(text, currency)).toThrow(why)
  })
  test('what is written is read back', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: -MAX_AMOUNT, max: MAX_AMOUNT }),
        fc.constantFrom('EUR', 'JPY', 'KWD'),
        (minor, currency) => {
          expect(parseAmount(toMajor(minor, currency), currency)).toBe(minor)
        },
      ),
    ))
})

describe('rounding', () => {
  // Half away from zero at the minor unit: common practice in commercial accounting.
  test.each([
    [5n, 2n, 3n],
    [-5n, 2n, -3n],
    [7n, 3n, 2n],
    [-7n, 3n, -2n],
    [0n, 9n, 0n],
  ])('%s / %s', (a, b, q) => expect(divideRounded(a, b)).toBe(q))
  test('a share', () =>
    expect([share(1000, 1, 3), share(-125, 1, 2), share(9_007_199_254_740_991, 1, 3)]).toEqual([
      333, -63, 3_002_399_751_580_330,
    ]))
  test('a share needs a denominator', () => expect(() => share(1, 1, 0)).toThrow(RangeError))
})

describe('splitting', () => {
  test('the remainder goes by largest fraction', () => {
    expect(split(100, [1, 1, 1])).toEqual([34, 33, 33])
    expect(split(10, [50, 30, 20])).toEqual([5, 3, 2])
    expect(split(-100, [2, 1])).toEqual([-67, -33])
  })
  test('parts always add up and are never a unit or more away from their share', () =>
    fc.assert(
      fc.property(
        fc.integer({ min: -MAX_AMOUNT, max: MAX_AMOUNT }),
        fc
          .array(fc.integer({ min: 0, max: 10_000 }), { minLength: 1, maxLength: 20 })
          .filter(w => w.some(x => x > 0)),
        (amount, weights) => {
          const parts = split(amount, weights)
          const sum = weights.reduce((a, b) => a + b, 0)
          expect(parts.reduce((a, b) => a + b, 0)).toBe(amount)
          parts.forEach((p, i) => expect(Math.abs(p - (amount * weights[i]!) / sum)).toBeLessThan(1.001))
        },
      ),
    ))
  test('weights must be usable', () => expect(() => split(5, [0, 0])).toThrow(RangeError))
})

describe('conversion', () => {
  test('exact until the one rounding', () => {
    expect(convert(10_000, 'GBP', 'EUR', '1.1523')).toBe(11_523)
    expect(convert(100, 'JPY', 'EUR', '0.00572')).toBe(57)
    expect(convert(1, 'EUR', 'JPY', '174.5')).toBe(2)
    expect(convert(1000, 'KWD', 'EUR', '2.84')).toBe(284)
    expect(convert(77, 'EUR', 'EUR', '9')).toBe(77)
  })
  test('a rate must be a decimal', () => expect(() => convert(1, 'GBP', 'EUR', '1,15')).toThrow('not a rate'))
})

describe('the most that is within a limit of another currency', () => {
  test.each([
    [500, 'EUR', 'EUR', '1', 500],
    [500, 'NOK', 'EUR', '0.0837', 5973],
    [500, 'JPY', 'EUR', '0.0056', 892],
    [500, 'KWD', 'EUR', '2.79', 1792],
    [0, 'GBP', 'EUR', '1.15', 0],
  ])('%i: in %s, of %s at %s, is %i', (limit, from, to, rate, most) => {
    expect(mostWithin(limit, from, to, rate)).toBe(most)
  })
  test('is worth no more than the limit, and one unit more is worth more', () => {
    const rates = fc.integer({ min: 1, max: 99_999_999 }).map(n => `0.${String(n).padStart(8, '0')}`)
    const currencies = fc.constantFrom('GBP', 'JPY', 'KWD', 'NOK')
    fc.assert(
      fc.property(fc.nat(100_000), currencies, rates, (limit, from, rate) => {
        const most = mostWithin(limit, from, 'EUR', rate)
        // Compared in units of 10^-8 of a minor unit, without rounding.
        const scale = 10n ** BigInt(8 + minorDigits(from))
        const worth = (amount: number) => BigInt(amount) * BigInt(rate.slice(2)) * 100n
        expect(worth(most) <= BigInt(limit) * scale).toBe(true)
        expect(worth(most + 1) > BigInt(limit) * scale).toBe(true)
      }),
    )
  })
  test('needs a rate above zero', () => {
    expect(() => mostWithin(500, 'GBP', 'EUR', '0')).toThrow('more than zero')
    expect(() => mostWithin(500, 'GBP', 'EUR', 'one')).toThrow('is not a rate')
  })
})
