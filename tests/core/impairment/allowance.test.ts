import fc from 'fast-check'
import {
  allowanceOf,
  allowanceRefusals,
  cohortRates,
  decideAllowance,
  differenceOf,
  rollRates,
  type AllowanceAsk,
  type OpenInBand,
} from '../../../core/impairment'
import { WHOLE } from '../../../core/money'
import { books, rules, TODAY } from '../books'

const plain = (over: Partial<AllowanceAsk> = {}): AllowanceAsk => ({
  matrix: { rest: [30, 160, 360, 660, 1060], byClass: {} },
  factor: WHOLE,
  reason: '',
  ...over,
})
const inBand = (band: number, gross: number, over: Partial<OpenInBand> = {}): OpenInBand => ({
  ...{ customerId: 1, riskClass: '', currency: 'EUR', band, gross, base: gross, borne: 0, borneBase: 0 },
  ...over,
})

/*
 * IFRS 9, Illustrative Example 12 (IE74–IE77), a provision matrix: figures from memory.
 */
test('the matrix of IFRS 9 IE12 makes 580,000', () => {
  const gross = [15_000_000, 7_500_000, 4_000_000, 2_500_000, 1_000_000]
  const { cells, totals } = allowanceOf(
    gross.map((g, band) => inBand(band, g * 100)),
    [],
    plain(),
  )
  expect(cells.map(c => c.allowance / 100)).toEqual([45_000, 120_000, 144_000, 165_000, 106_000])
  expect(totals).toEqual([{ currency: 'EUR', amount: 58_000_000, base: 58_000_000 }])
})

test('a named case leaves the matrix, the insured part has none, the factor is never above the whole', () => {
  const open = [inBand(4, 100_000), inBand(4, 60_000, { customerId: 2, borne: 50_000, borneBase: 50_000 })]
  const byBand = [{ band: 4, gross: 100_000, base: 100_000 }]
  const named = { id: 7, customerId: 1, currency: 'EUR', gross: 100_000, base: 100_000, rate: 8000, byBand }
  const made = allowanceOf(open, [named], plain({ factor: 20_000, reason: 'a bad winter is expected' }))
  expect(made.cells).toMatchObject([
    { gross: 160_000, borne: 50_000, named: 100_000, exposed: 10_000, rate: 2120, allowance: 2120 },
  ])
  expect(made.named).toMatchObject([{ id: 7, allowance: 80_000 }])
  expect(made.totals[0]!.amount).toBe(82_120)
  const most = allowanceOf(open, [], plain({ factor: 10 * WHOLE, reason: 'worst' }))
  expect(most.cells[0]!.rate).toBe(WHOLE)
})

test('rates above the whole, bands that are missing, a factor without a reason are refused', () => {
  expect(allowanceRefusals(plain())).toEqual([])
  const of = (over: Partial<AllowanceAsk>) => allowanceRefusals(plain(over)).map(r => r.rule)
  expect(of({ matrix: { rest: [10_001], byClass: {} } })).toEqual(['allowance.rate'])
  expect(of({ matrix: { rest: [-1], byClass: {} } })).toEqual(['allowance.rate'])
  expect(of({ matrix: { rest: [1, 2], byClass: { high: [3] } } })).toEqual(['allowance.bands'])
  expect(of({ factor: 12_000 })).toEqual(['allowance.reason'])
  for (const factor of [-1, 10 * WHOLE + 1, 0.5])
    expect(of({ factor, reason: 'outlook' })).toEqual(['allowance.factor'])
  for (const factor of [0, 10 * WHOLE]) expect(of({ factor, reason: 'outlook' })).toEqual([])
})

test('only the difference is posted, a second of the same day is refused, a smaller one goes back', () => {
  const allowance = allowanceOf([inBand(0, 1_000_000)], [], plain())
  const state = { ledger: books().state, allowance, posted: [], standing: null, date: TODAY }
  const first = decideAllowance(state, plain())
  if (!first.ok) throw new Error('refused')
  expect(first.postings[0]!.lines.map(l => [l.account, l.amount])).toEqual([
    ['6870', 3000],
    ['1190', -3000],
  ])
  const posted = [{ currency: 'EUR', amount: 3000, base: 3000 }]
  expect(decideAllowance({ ...state, posted }, plain())).toMatchObject({ ok: true, postings: [] })
  expect(rules(decideAllowance({ ...state, standing: TODAY }, plain()))).toEqual(['allowance.twice'])
  expect(rules(decideAllowance({ ...state, standing: '2027-01-31' }, plain()))).toEqual(['allowance.later'])
  const less = decideAllowance({ ...state, posted: [{ currency: 'EUR', amount: 5000, base: 5000 }] }, plain())
  expect(less.ok && less.postings[0]!.lines[0]).toMatchObject({ account: '6870', amount: -2000 })
})

test('what is posted and the difference are always the matrix worked out again', () => {
  const amounts = fc.record({
    currency: fc.constantFrom('EUR', 'GBP'),
    band: fc.integer({ min: 0, max: 4 }),
    gross: fc.integer({ min: 0, max: 10_000_000 }),
  })
  fc.assert(
    fc.property(
      fc.array(amounts, { maxLength: 30 }),
      fc.array(amounts, { maxLength: 10 }),
      (open, before) => {
        const of = (list: typeof open) =>
          allowanceOf(
            list.map(({ currency, band, gross }, n) => inBand(band, gross, { currency, customerId: n })),
            [],
            plain(),
          )
        const [now, then] = [of(open), of(before)]
        const difference = differenceOf(now.totals, then.totals)
        for (const { currency, amount } of now.totals) {
          const was = then.totals.find(t => t.currency === currency)?.amount ?? 0
          const moved = difference.find(d => d.currency === currency)?.amount ?? 0
          expect(was + moved).toBe(amount)
        }
      },
    ),
  )
})

/* Common practice of credit risk: the chain of rolls from a band to the loss. */
test('roll rates: each band is lost as far as it rolls on', () => {
  const open = [
    [100_000, 40_000, 10_000],
    [100_000, 50_000, 20_000],
  ]
  expect(rollRates(open, 6000)).toEqual({ rolls: [5000, 5000], lastLost: 2000, rates: [500, 1000, 2000] })
  expect(rollRates([], 0)).toEqual({ rolls: [], lastLost: 0, rates: [] })
  expect(rollRates([[0, 0, 0]], 500).rates).toEqual([0, 0, 0])
})

test('cohorts: what was lost of all that stood in a band, less what came back', () => {
  const cohorts = [
    { band: 0, stood: 100_000, lost: 1000 },
    { band: 0, stood: 300_000, lost: 3000 },
    { band: 2, stood: 10_000, lost: -500 },
  ]
  expect(cohortRates(cohorts, 3)).toEqual([100, 0, 0])
})
