import fc from 'fast-check'
import {
  commissionOf,
  costTogether,
  effectiveCost,
  facilityFaults,
  interestOn,
  moneyWeighted,
  nominalCost,
  proposeSchedule,
  splitGross,
  yearlyRate,
  type Candidate,
} from '../../../core/factoring'
import { FACILITY } from './facility'

/* Fact of the trade, common practice: 85.00 short of 1,000.00 at 20 % of tax. */
test('what a factor keeps is split into its commission and the tax on it', () => {
  expect(splitGross(8500, 2000)).toEqual({ gross: 8500, net: 7083, tax: 1417 })
  expect(splitGross(8500, 0)).toEqual({ gross: 8500, net: 8500, tax: 0 })
  fc.assert(
    fc.property(fc.integer({ min: 0, max: 1e12 }), fc.integer({ min: 0, max: 10_000 }), (gross, rate) => {
      const { net, tax } = splitGross(gross, rate)
      expect(net + tax).toBe(gross)
      // Tax worked out again from the net is the tax split out, to a minor unit.
      expect(Math.abs(Math.round((net * rate) / 10_000) - tax)).toBeLessThanOrEqual(1)
    }),
  )
})

test('commission is a share with a floor, interest goes by days of the year', () => {
  const terms = { commissionRate: 150, commissionFloor: 500, taxRate: 2000 }
  expect(commissionOf(terms, 100_000)).toEqual({ net: 1500, tax: 300, gross: 1800 })
  expect(commissionOf(terms, 10_000)).toEqual({ net: 500, tax: 100, gross: 600 })
  // Actual/360 and actual/365 (ISDA definitions, from memory): 80,000.00 at 6 % for 45 days.
  expect(interestOn({ interestRate: 600, yearDays: 360 }, 8_000_000, 45)).toBe(60_000)
  expect(interestOn({ interestRate: 600, yearDays: 365 }, 8_000_000, 45)).toBe(59_178)
  expect(interestOn({ interestRate: 600, yearDays: 360 }, 8_000_000, -3)).toBe(0)
})

test('a margin stands on a reference rate; out of date, what an advance costs is not known', () => {
  const table = [
    { code: 'ECB', from: '2026-01-01', percent: '2.15' },
    { code: 'ECB', from: '2026-07-01', percent: '-0.5' },
    { code: 'BOE', from: '2026-01-01', percent: '4' },
  ]
  const terms = { interestRate: 350, interestReference: 'ECB' }
  expect(yearlyRate(terms, table, '2026-06-30')).toBe(565)
  expect(yearlyRate(terms, table, '2026-07-01')).toBe(300)
  expect(yearlyRate(terms, table, '2027-06-30')).toBeNull()
  expect(yearlyRate({ interestRate: 600, interestReference: null }, [], '2026-06-30')).toBe(600)
})

/* Textbook example of trade credit: terms 2/10 net 30. */
test('2/10 net 30 is 37.24 % nominal and 44.59 % effective', () => {
  const given = { advance: 9800, days: 20, cost: 200 }
  expect(nominalCost(given)!.toFixed(2)).toBe('37.24')
  expect(effectiveCost(given)!.toFixed(2)).toBe('44.59')
  expect(costTogether([given, { ...given, days: 0 }]).effective!.toFixed(2)).toBe('44.59')
  expect(costTogether([])).toEqual({ nominal: null, effective: null })
})

/* The package `xirr` finds the same rate from the flows. */
test('the money-weighted rate of one turn is the effective cost; of two turns none is told', () => {
  const flows = [
    { date: '2026-01-10', amount: 9800 },
    { date: '2026-01-30', amount: -10_000 },
  ]
  const found = moneyWeighted(flows)
  expect('rate' in found && found.rate.toFixed(2)).toBe('44.59')
  const late = [
    { date: '2026-01-10', amount: 80_000 },
    { date: '2026-02-10', amount: -100_000 },
    { date: '2026-02-20', amount: 18_000 },
  ]
  expect(moneyWeighted(late)).toEqual({ none: 'several answers' })
  // A reserve that comes on the very day takes off what is given up: one turn again.
  expect(moneyWeighted([late[0]!, late[1]!, { ...late[2]!, date: '2026-02-10' }])).toHaveProperty('rate')
  expect(moneyWeighted([])).toEqual({ none: 'no flows' })
  expect(moneyWeighted([flows[0]!, { date: '2026-01-30', amount: 1 }])).toEqual({ none: 'no flows' })
})

test('where there is one answer it solves the flows', () => {
  const amount = fc.integer({ min: 1000, max: 10_000_000 })
  fc.assert(
    fc.property(
      amount,
      fc.integer({ min: 1, max: 400 }),
      fc.integer({ min: 1, max: 2000 }),
      (advance, days, bp) => {
        const cost = Math.ceil((advance * bp) / 10_000)
        const date = new Date(Date.UTC(2026, 0, 10 + days)).toISOString().slice(0, 10)
        const found = moneyWeighted([
          { date: '2026-01-10', amount: advance },
          { date, amount: -(advance + cost) },
        ])
        if (!('rate' in found)) return
        expect(found.rate / effectiveCost({ advance, days, cost })!).toBeCloseTo(1, 6)
      },
    ),
  )
})

const candidate = (itemId: number, over: Partial<Candidate> = {}): Candidate => ({
  ...{ itemId, number: `26-${itemId}`, customerId: 1, customer: 'Alder', country: 'IE', class: 'food' },
  ...{ currency: 'EUR', open: 100_000, base: 100_000, documentDate: '2026-10-20', dueDate: '2026-11-19' },
  ...{ atFactor: '', disputed: '', collection: '' },
  ...over,
})
const TODAY = '2026-11-16'

test('every invoice that is left out is told with its reason', () => {
  const list = [
    candidate(1),
    candidate(2, { atFactor: 'Tern Finance' }),
    candidate(3, { open: 0, base: 0 }),
    candidate(4, { currency: 'JPY' }),
    candidate(5, { disputed: 'price' }),
    candidate(6, { collection: 'DD-7' }),
    candidate(7, { country: 'US' }),
    candidate(8, { class: 'fish' }),
    candidate(9, { open: 900, base: 900 }),
    candidate(10, { dueDate: '2027-06-01' }),
    candidate(11, { documentDate: '2026-01-01', dueDate: '2026-01-31' }),
    candidate(12, { customerId: 2 }),
  ]
  const facility = {
    ...FACILITY,
    debtorLimit: 150_000,
    eligible: { mostAge: 60, mostTerm: 90, countries: ['IE', 'DE'], classes: ['food'], least: 1000 },
  }
  const { chosen, leftOut } = proposeSchedule(facility, list, { total: 0, byDebtor: new Map() }, TODAY, 'EUR')
  expect(chosen.map(c => c.itemId)).toEqual([1, 12])
  expect(leftOut.map(l => [l.candidate.itemId, l.rule])).toEqual([
    [2, 'sold'],
    [3, 'nothing'],
    [4, 'currency'],
    [5, 'disputed'],
    [6, 'collection'],
    [7, 'country'],
    [8, 'class'],
    [9, 'least'],
    [10, 'term'],
    [11, 'age'],
  ])
})

test('the limits hold for what lies there already and all that is proposed', () => {
  const open = fc.integer({ min: 1, max: 500_000 })
  const list = fc.array(fc.tuple(fc.integer({ min: 1, max: 4 }), open), { maxLength: 30 })
  const limit = fc.option(fc.integer({ min: 1000, max: 3_000_000 }), { nil: null })
  fc.assert(
    fc.property(
      list,
      limit,
      limit,
      fc.option(fc.integer({ min: 100, max: 9000 }), { nil: null }),
      (all, most, one, part) => {
        const there = { total: 200_000, byDebtor: new Map([[1, 200_000]]) }
        const facility = {
          ...FACILITY,
          limit: most,
          debtorLimit: one,
          concentration: most === null ? null : part,
        }
        const candidates = all.map(([customerId, base], n) => candidate(n, { customerId, open: base, base }))
        const { chosen, leftOut } = proposeSchedule(facility, candidates, there, TODAY, 'EUR')
        expect(chosen.length + leftOut.length).toBe(candidates.length)
        const sum = (of: Candidate[]) => of.reduce((total, c) => total + c.base, 0)
        if (most !== null && chosen.length) expect(there.total + sum(chosen)).toBeLessThanOrEqual(most)
        for (const debtor of new Set(chosen.map(c => c.customerId))) {
          const own = sum(chosen.filter(c => c.customerId === debtor)) + (there.byDebtor.get(debtor) ?? 0)
          if (one !== null) expect(own).toBeLessThanOrEqual(one)
        }
      },
    ),
  )
})

test('terms that cannot be are told', () => {
  const faults = (over: object) => facilityFaults({ ...FACILITY, ...over }).map(f => f.path)
  expect(faults({})).toEqual([])
  expect(faults({ advanceRate: 10_001 })).toEqual(['advanceRate'])
  expect(faults({ concentration: 1000, limit: null })).toEqual(['concentration'])
  expect(faults({ currencies: [] })).toEqual(['currencies'])
  expect(faults({ accounts: { ...FACILITY.accounts, interest: '1310' } })).toEqual(['accounts'])
})
