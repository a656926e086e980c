import { HyperFormula } from 'hyperformula'
import { addDays, daysBetween } from '../../../core/calendar'
import {
  accrue,
  CONVENTION_CODES,
  isPercent,
  percentUnits,
  rateOn,
  sumOf,
  yearShare,
  type Convention,
  type Debt,
  type InterestTerms,
  type ReferenceRate,
} from '../../../core/interest'
import { chance } from '../../../simulators/chance'

/** A general spreadsheet engine, as a second opinion. */
function sheet(formula: string): number {
  const engine = HyperFormula.buildFromArray([[`=${formula}`]], { licenseKey: 'gpl-v3' })
  const value = engine.getCellValue({ sheet: 0, row: 0, col: 0 })
  engine.destroy()
  if (typeof value !== 'number') throw new Error(`${formula} is no number: ${JSON.stringify(value)}`)
  return value
}
const date = (day: string) => `DATE(${day.split('-').map(Number).join(',')})`

/** YEARFRAC counts from a day, not from the day after it. */
const BASIS: Partial<Record<Convention, number>> = { 'actual/360': 2, 'actual/365': 3, '30E/360': 4 }

// ISDA definitions (from memory): the examples of the agreed values.
test.each([
  ['actual/360', '2026', 181, 181 / 360],
  ['actual/365', '2026', 181, 181 / 365],
  ['30E/360', '2026', 180, 180 / 360],
  ['actual/actual', '2026', 181, 181 / 365],
  ['actual/360', '2024', 182, 182 / 360],
  ['30E/360', '2024', 180, 180 / 360],
  ['actual/actual', '2024', 182, 182 / 366],
] as const)('30 January to 30 July by %s in %s: %d days', (convention, year, days, fraction) => {
  const share = yearShare(convention, `${year}-01-31`, `${year}-07-30`)
  expect(share.days).toBe(days)
  expect(share.numerator / share.denominator).toBeCloseTo(fraction, 12)
})

test('across a leap year each day counts in the year it lies in', () => {
  const share = yearShare('actual/actual', '2023-12-01', '2024-01-31')
  expect(share.numerator / share.denominator).toBeCloseTo(31 / 365 + 31 / 366, 12)
})

test.each(Object.entries(BASIS) as [Convention, number][])(
  '%s: a spreadsheet engine finds the same share for any two days, month ends among them',
  (convention, basis) => {
    const draw = chance(`days ${convention}`)
    for (let n = 0; n < 60; n++) {
      const day = () => {
        const any = addDays('2023-01-01', draw.whole(0, 1200))
        return draw.happens(0.4) ? addDays(`${any.slice(0, 8)}01`, -1) : any
      }
      const [from, until] = [day(), day()].sort() as [string, string]
      const share = yearShare(convention, addDays(from, 1), until)
      const found = from === until ? 0 : sheet(`YEARFRAC(${date(from)},${date(until)},${basis})`)
      expect([from, until, share.numerator / share.denominator]).toEqual([
        from,
        until,
        expect.closeTo(found, 10),
      ])
    }
  },
)

test.each(CONVENTION_CODES)('%s: shares of neighbouring periods add up to that of both', convention => {
  const draw = chance(`adds up ${convention}`)
  for (let n = 0; n < 300; n++) {
    const first = addDays('2023-06-01', draw.whole(0, 900))
    const middle = addDays(first, draw.whole(0, 400))
    const last = addDays(middle, 1 + draw.whole(0, 400))
    const value = (a: string, b: string) => {
      const share = yearShare(convention, a, b)
      return share.numerator / share.denominator
    }
    expect(value(first, middle) + value(addDays(middle, 1), last)).toBeCloseTo(value(first, last), 12)
  }
})

/** Half-year reference rates made up for the tests. */
const RATES: ReferenceRate[] = [
  { code: 'ECB', from: '2025-07-01', percent: '2.15' },
  { code: 'ECB', from: '2026-01-01', percent: '2.00' },
  { code: 'ECB', from: '2026-07-01', percent: '2.50' },
]
const debt = (over: Partial<Debt> = {}): Debt => ({
  amount: 1_000_000,
  dueDate: '2026-05-31',
  moves: [],
  without: 0,
  chargedThrough: null,
  ...over,
})
const directive: InterestTerms = {
  convention: 'actual/365',
  percent: '8',
  reference: 'ECB',
  basis: 'floating',
}
const lines = (over: Partial<Debt>, terms: InterestTerms = directive, until = '2026-08-15') => {
  const accrued = accrue(debt(over), terms, RATES, until)
  if (!accrued.ok) throw new Error(`rate missing on ${accrued.day}`)
  return accrued.lines
}

// Directive 2011/7/EU, Art. 2 (6) and 3 (3): reference rate + 8 points, fixed for each half year.
test('the day after the due date begins, a rate of 1 July counts on 1 July: a line for each', () => {
  expect(lines({})).toEqual([
    { from: '2026-06-01', to: '2026-06-30', days: 30, rate: '10', base: 1_000_000, amount: 8219 },
    { from: '2026-07-01', to: '2026-08-15', days: 46, rate: '10.5', base: 1_000_000, amount: 13_233 },
  ])
})

// Late Payment of Commercial Debts (Interest) Act 1998: the rate of before interest starts holds.
test('locked at its start, the rate of the next half year changes nothing', () => {
  expect(lines({}, { ...directive, basis: 'locked' })).toEqual([
    { from: '2026-06-01', to: '2026-08-15', days: 76, rate: '10', base: 1_000_000, amount: 20_822 },
  ])
})

test('a part payment splits the period: interest runs through the day of payment', () => {
  const found = lines({ moves: [{ effective: '2026-06-10', amount: 400_000 }] })
  expect(found.map(l => [l.from, l.to, l.base])).toEqual([
    ['2026-06-01', '2026-06-10', 1_000_000],
    ['2026-06-11', '2026-06-30', 600_000],
    ['2026-07-01', '2026-08-15', 600_000],
  ])
  // A spreadsheet engine, from the amounts and days alone.
  const parts = [
    'ROUND(1000000*10/100*10/365,0)',
    'ROUND(600000*10/100*20/365,0)',
    'ROUND(600000*10.5/100*46/365,0)',
  ]
  expect(found.map(l => l.amount)).toEqual(parts.map(sheet))
  expect(sumOf(found)).toBe(sheet(parts.join('+')))
})

test('paid before it is due: nothing; paid and returned: nothing for the days the money was there', () => {
  expect(lines({ moves: [{ effective: '2026-05-20', amount: 1_000_000 }] })).toEqual([])
  const back = lines({
    moves: [
      { effective: '2026-06-10', amount: 1_000_000 },
      { effective: '2026-06-20', amount: -1_000_000 },
    ],
  })
  expect(back.map(l => [l.from, l.to])).toEqual([
    ['2026-06-01', '2026-06-10'],
    ['2026-06-21', '2026-06-30'],
    ['2026-07-01', '2026-08-15'],
  ])
})

test('what was charged before is not charged again, and what is disputed bears none', () => {
  expect(lines({ chargedThrough: '2026-07-31' }).map(l => [l.from, l.to, l.days])).toEqual([
    ['2026-08-01', '2026-08-15', 15],
  ])
  expect(lines({ without: 900_000 }).every(l => l.base === 100_000)).toBe(true)
  expect(lines({ without: 1_000_000 })).toEqual([])
  expect(lines({ chargedThrough: '2026-08-15' })).toEqual([])
})

test('a rate that is missing or out of date is told with its day, never made up', () => {
  expect(accrue(debt({ dueDate: '2025-05-31' }), directive, RATES, '2026-08-15')).toEqual({
    ok: false,
    missing: 'ECB',
    day: '2025-06-01',
  })
  // Nobody entered 1 January 2027.
  expect(accrue(debt(), directive, RATES, '2027-02-01')).toEqual({
    ok: false,
    missing: 'ECB',
    day: '2027-01-08',
  })
  expect(accrue(debt(), { ...directive, reference: null }, [], '2027-02-01').ok).toBe(true)
  expect(rateOn(RATES, 'ECB', '2026-06-30')?.percent).toBe('2.00')
  expect(rateOn(RATES, 'BOE', '2026-06-30')).toBeUndefined()
})

test('percentages are exact, and what is none is refused', () => {
  expect(percentUnits('8.15')).toBe(81_500)
  expect(percentUnits('-0.88')).toBe(-8_800)
  expect(['8', '0.0001', '-0.5'].every(isPercent)).toBe(true)
  expect(['', '8,15', '8.15000', '1e3', '1000'].some(isPercent)).toBe(false)
  expect(() => percentUnits('8,15')).toThrow('write it as 8 or 8.15')
  // A negative rate charges nothing.
  expect(lines({}, { ...directive, reference: null, percent: '-1' })).toEqual([])
})

test('charged in any steps, each day bears interest once: the days of all lines are those of one', () => {
  const draw = chance('steps')
  for (let n = 0; n < 200; n++) {
    const dueDate = addDays('2026-01-15', draw.whole(0, 150))
    const until = addDays(dueDate, draw.whole(1, 200))
    let left = 1_000_000
    const moves = Array.from({ length: draw.whole(0, 4) }, () => {
      const amount = draw.whole(0, Math.floor(left / 2))
      left -= amount
      return { effective: addDays(dueDate, draw.whole(-20, 200)), amount }
    })
    const own = { dueDate, moves }
    if (rateOn(RATES, 'ECB', until) === undefined) continue
    const whole = lines(own, directive, until)
    let chargedThrough: string | null = null
    const steps: ReturnType<typeof lines> = []
    for (let day = dueDate; day < until;) {
      day = addDays(day, draw.whole(1, 60))
      if (day > until) day = until
      steps.push(...lines({ ...own, chargedThrough }, directive, day))
      chargedThrough = day
    }
    const weight = (list: typeof whole) =>
      list.reduce((sum, l) => sum + l.base * (daysBetween(l.from, l.to) + 1) * percentUnits(l.rate), 0)
    expect(weight(steps)).toBe(weight(whole))
    // Each line rounds once: so the sums differ by at most half a unit a line.
    expect(Math.abs(sumOf(steps) - sumOf(whole))).toBeLessThanOrEqual((steps.length + whole.length) / 2)
  }
})
