import Holidays from 'date-holidays'
import fc from 'fast-check'
import { addDays, isBankWorkingDay, weekday } from '../../../core/calendar'
import {
  earliestCollection,
  finalAfter,
  isWithinWindow,
  lapsesOn,
  mandateRefusals,
  presentAgainOn,
  proposeCollection,
  sendBy,
  sequenceOf,
  unauthorisedUntil,
  unusable,
  type CollectAsk,
  type CollectionPolicy,
  type Debtor,
  type DueItem,
  type Mandate,
} from '../../../core/collections'

const mandate: Mandate = {
  id: 1,
  reference: 'M-1',
  scheme: 'CORE',
  use: 'recurring',
  signedOn: '2026-01-15',
  iban: 'DE89370400440532013000',
  bic: '',
  holder: 'Dune',
  state: 'active',
  lastUsed: null,
  most: null,
  noticeDays: null,
  endsNext: false,
}
const policy: CollectionPolicy = {
  noticeDays: 14,
  creditsFirst: true,
  withCharges: true,
  graceDays: 0,
  least: 0,
}
const ask: CollectAsk = {
  today: '2026-11-16',
  collectOn: '2026-12-01',
  dueBy: '2026-12-01',
  scheme: null,
  again: null,
}
const item = (over: Partial<DueItem>): DueItem => ({
  id: 1,
  number: 'I-1',
  currency: 'EUR',
  open: 10_000,
  amount: 10_000,
  dueDate: '2026-11-20',
  discounts: [],
  isCharge: false,
  disputed: null,
  promised: null,
  onItsWay: null,
  ...over,
})
const debtor = (over: Partial<Debtor>): Debtor => ({
  customerId: 7,
  number: 'D1',
  name: 'Dune',
  pays: true,
  stopped: '',
  mandates: [mandate],
  items: [item({})],
  ...over,
})

// SEPA direct debit rulebooks, from memory (checks.md).
describe('dates of the schemes', () => {
  test('across Easter and year end files go one working day before, on days of TARGET', () => {
    expect(sendBy('2026-04-07')).toBe('2026-04-02')
    expect(sendBy('2027-01-04')).toBe('2026-12-31')
    expect(sendBy('2026-12-28')).toBe('2026-12-24')
    expect(earliestCollection('2026-12-24', 0)).toBe('2026-12-28')
    expect(earliestCollection('2026-12-18', 14)).toBe('2027-01-04')
  })
  test('closed days are those of an independent calendar, for twenty years', () => {
    // date-holidays knows 1 May, Easter and Christmas of Germany; TARGET also works on 3 October and others.
    const germany = new Holidays('DE')
    const closed = new Set(['New Year', 'Good Friday', 'Easter Monday', 'Labour Day'])
    const names: Record<string, string> = {
      Neujahr: 'New Year',
      Karfreitag: 'Good Friday',
      Ostermontag: 'Easter Monday',
      Maifeiertag: 'Labour Day',
      'Tag der Arbeit': 'Labour Day',
    }
    let seen = 0
    for (let year = 2015; year < 2035; year++)
      for (const h of germany.getHolidays(year))
        if (closed.has(names[h.name] ?? '')) {
          seen++
          expect(isBankWorkingDay(h.date.slice(0, 10))).toBe(false)
        }
    expect(seen).toBeGreaterThanOrEqual(60)
  })
  test('money is final after eight weeks, or three working days between businesses; thirteen months without a mandate', () => {
    expect(finalAfter('2026-12-01', 'CORE')).toBe('2027-01-26')
    expect(finalAfter('2026-12-23', 'B2B')).toBe('2026-12-29')
    expect(unauthorisedUntil('2026-01-31')).toBe('2027-02-28')
    expect(isWithinWindow('2026-12-01', 'CORE', 'MD06', '2027-01-26')).toBe(true)
    expect(isWithinWindow('2026-12-01', 'CORE', 'MD06', '2027-01-27')).toBe(false)
    expect(isWithinWindow('2026-12-01', 'CORE', 'MD01', '2028-01-01')).toBe(true)
    expect(isWithinWindow('2026-12-01', 'B2B', 'MD01', '2027-01-27')).toBe(false)
  })
  test('presented again on the weekday of the house', () => {
    const day = presentAgainOn('2026-11-16', 3)
    expect([day, weekday(day)]).toEqual(['2026-11-18', 3])
    expect(presentAgainOn('2026-12-23', null)).toBe('2026-12-28')
  })
})

describe('mandates', () => {
  test('lapse 36 months after their last use, or since they were signed', () => {
    expect(lapsesOn({ signedOn: '2024-02-29', lastUsed: null })).toBe('2027-02-28')
    expect(lapsesOn({ signedOn: '2020-01-01', lastUsed: '2025-05-31' })).toBe('2028-05-31')
    expect(unusable({ ...mandate, signedOn: '2023-12-01' }, '2026-12-01')).toMatch(/lapsed/)
    expect(unusable({ ...mandate, signedOn: '2023-12-02' }, '2026-12-01')).toBe('')
  })
  test('first, recurring, one-off, final', () => {
    expect(sequenceOf(mandate)).toBe('FRST')
    expect(sequenceOf({ ...mandate, lastUsed: '2026-10-01' })).toBe('RCUR')
    expect(sequenceOf({ ...mandate, lastUsed: '2026-10-01', endsNext: true })).toBe('FNAL')
    expect(sequenceOf({ ...mandate, use: 'one-off', endsNext: true })).toBe('OOFF')
    expect(unusable({ ...mandate, use: 'one-off', lastUsed: '2026-10-01' }, '2026-12-01')).toMatch(
      /one collection/,
    )
    expect(unusable({ ...mandate, signedOn: '2026-12-02' }, '2026-12-01')).toMatch(/after the collection/)
  })
  test('bad input says what would be right', () => {
    const rules = (over: object) =>
      mandateRefusals({ ...mandate, holder: 'Dune', ...over }, '2026-11-16', false).map(r => r.rule)
    expect(rules({})).toEqual([])
    expect(rules({ reference: 'a b' })).toEqual(['mandate.reference'])
    expect(rules({ reference: '/x' })).toEqual(['mandate.reference'])
    expect(rules({ iban: 'BR1800360305000010009795493C1' })).toEqual(['mandate.reach'])
    expect(rules({ signedOn: '2026-11-17' })).toEqual(['mandate.signed'])
    expect(rules({ signedOn: '2020-01-01' })).toEqual(['mandate.lapsed'])
    expect(rules({ most: 0, noticeDays: 61, holder: ' ' })).toEqual([
      'mandate.holder',
      'mandate.most',
      'mandate.notice',
    ])
  })
})

describe('what is collected', () => {
  const one = (
    over: Partial<Debtor>,
    changed: Partial<CollectionPolicy> = {},
    asked: Partial<CollectAsk> = {},
  ) => proposeCollection(debtor(over), { ...policy, ...changed }, { ...ask, ...asked })
  const reasons = (p: ReturnType<typeof one>) => p.leftOut.map(l => l.rule)
  test('each reason for what is not', () => {
    expect(reasons(one({ pays: false }))).toEqual(['mandate'])
    expect(reasons(one({ mandates: [] }))).toEqual(['mandate'])
    expect(reasons(one({ stopped: 'handed over to X on 2026-10-01' }))).toEqual(['stopped'])
    expect(reasons(one({}, {}, { collectOn: '2026-11-27' }))).toEqual(['notice'])
    expect(
      reasons(one({ mandates: [{ ...mandate, noticeDays: 5 }] }, {}, { collectOn: '2026-11-27' })),
    ).toEqual([])
    expect(reasons(one({ mandates: [{ ...mandate, most: 9999 }] }))).toEqual(['limit'])
    expect(reasons(one({ items: [item({ promised: 'x' })] }))).toEqual(['promised'])
    expect(reasons(one({ items: [item({ onItsWay: 'DD-1' })] }))).toEqual(['on-its-way'])
    expect(reasons(one({ items: [item({ disputed: { reason: 'price', amount: 10_000 } })] }))).toEqual([
      'disputed',
    ])
    expect(reasons(one({ items: [item({ isCharge: true })] }, { withCharges: false }))).toEqual(['charge'])
    expect(reasons(one({ items: [item({ currency: 'GBP' })] }))).toEqual(['currency'])
    expect(reasons(one({}, { least: 10_001 }))).toEqual(['least'])
    expect(reasons(one({ items: [item({}), item({ id: 2, open: -10_000 })] }))).toEqual(['credit'])
    expect(one({ items: [item({ dueDate: '2026-12-02' })] })).toEqual({ collections: [], leftOut: [] })
  })
  test('what is disputed in part is collected without that part, and earns no discount', () => {
    const discounts = [{ date: '2026-12-05', amount: 200 }]
    const [whole] = one({ items: [item({ discounts })] }).collections
    expect(whole).toMatchObject({ amount: 9800, items: [{ amount: 9800, discount: 200 }] })
    const disputed = { reason: 'price', amount: 3000 }
    const [part] = one({ items: [item({ discounts, disputed })] }).collections
    expect(part).toMatchObject({ amount: 7000, items: [{ amount: 7000, discount: 0 }] })
  })
  test('an item whose discount would be lost is collected before it is due', () => {
    const early = item({ dueDate: '2026-12-30', discounts: [{ date: '2026-12-01', amount: 300 }] })
    expect(one({ items: [early] }).collections).toMatchObject([{ amount: 9700 }])
    expect(
      one({ items: [{ ...early, discounts: [{ date: '2026-11-30', amount: 300 }] }] }).collections,
    ).toEqual([])
  })
  test('property: every due euro is collected, discounted, taken by credit, or left out with a reason', () => {
    const dueItem = fc.record({
      open: fc.integer({ min: -50_000, max: 50_000 }).filter(n => n !== 0),
      days: fc.integer({ min: -40, max: 30 }),
      discount: fc.option(fc.integer({ min: 1, max: 900 }), { nil: undefined }),
      disputed: fc.option(fc.integer({ min: 1, max: 60_000 }), { nil: undefined }),
      isCharge: fc.boolean(),
      promised: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(dueItem, { maxLength: 8 }), fc.boolean(), (list, creditsFirst) => {
        const items = list.map((x, n) => {
          const disputed = Math.min(x.disputed ?? 0, Math.max(0, x.open))
          return item({
            id: n + 1,
            number: `I-${n + 1}`,
            open: x.open,
            amount: Math.abs(x.open),
            dueDate: addDays(ask.collectOn, x.days),
            discounts: x.discount && x.open > 1000 ? [{ date: '2026-12-09', amount: x.discount }] : [],
            disputed: disputed ? { reason: 'price', amount: disputed } : null,
            isCharge: x.isCharge,
            promised: x.promised ? 'promised' : null,
          })
        })
        const { collections, leftOut } = one({ items }, { creditsFirst })
        const due = items.filter(i => i.open > 0 && i.dueDate <= ask.dueBy)
        const named = new Set([
          ...collections.flatMap(c => [
            ...c.items.map(i => i.number),
            ...c.credits.map(k => `I-${k.debitItemId}`),
          ]),
          ...leftOut.flatMap(l => (l.item === null ? due.map(i => i.number) : [l.item])),
        ])
        for (const i of due) expect(named.has(i.number)).toBe(true)
        for (const c of collections) {
          expect(c.amount).toBe(c.items.reduce((a, i) => a + i.amount, 0))
          expect(c.amount).toBeGreaterThan(0)
          for (const i of c.items) {
            const from = items.find(x => x.id === i.id)!
            const credit = c.credits.filter(k => k.debitItemId === i.id).reduce((a, k) => a + k.amount, 0)
            expect(i.amount + i.discount + credit + (from.disputed?.amount ?? 0)).toBe(from.open)
          }
          for (const k of new Set(c.credits.map(x => x.creditItemId))) {
            const used = c.credits.filter(x => x.creditItemId === k).reduce((a, x) => a + x.amount, 0)
            expect(used).toBeLessThanOrEqual(-items.find(x => x.id === k)!.open)
          }
        }
      }),
      { numRuns: 400 },
    )
  })
})
