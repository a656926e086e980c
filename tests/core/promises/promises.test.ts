import fc from 'fast-check'
import { addDays } from '../../../core/calendar'
import {
  coveredItems,
  instalments,
  promiseRefusals,
  standOfPromises,
  type Payment,
  type Promised,
} from '../../../core/promises'

const promised = (set: Partial<Promised> = {}): Promised => ({
  id: 1,
  madeOn: '2026-11-02',
  currency: 'EUR',
  items: null,
  parts: [{ date: '2026-11-10', amount: 1000 }],
  afterEntry: 10,
  withdrawnOn: null,
  ...set,
})
const payment = (amount: number, date: string, set: Partial<Payment> = {}): Payment => ({
  entry: 20,
  date,
  currency: 'EUR',
  amount,
  to: [],
  ...set,
})
const standOf = (promises: Promised[], payments: Payment[], today: string, grace = 2) =>
  standOfPromises(promises, payments, [], today, grace)
const stateOf = (payments: Payment[], today: string) => standOf([promised()], payments, today).get(1)!.state

describe('what became of a promise follows from the money', () => {
  test('nothing is missed before its day and the grace are over', () => {
    // Tuesday 10 November 2026 and two bank working days: Thursday.
    expect(stateOf([], '2026-11-12')).toBe('open')
    expect(stateOf([], '2026-11-13')).toBe('broken')
  })
  test('grace is in bank working days: over a weekend it lasts until Tuesday', () => {
    const onFriday = promised({ parts: [{ date: '2026-11-13', amount: 1000 }] })
    expect(standOf([onFriday], [], '2026-11-17').get(1)!.state).toBe('open')
    expect(standOf([onFriday], [], '2026-11-18').get(1)!.state).toBe('broken')
  })
  test('kept in one piece or in several, early or on the last day of grace', () => {
    expect(stateOf([payment(1000, '2026-11-05')], '2026-11-06')).toBe('kept')
    expect(stateOf([payment(400, '2026-11-05'), payment(600, '2026-11-12')], '2026-11-20')).toBe('kept')
  })
  test('too late is broken, too little is partly kept', () => {
    expect(stateOf([payment(1000, '2026-11-13')], '2026-11-20')).toBe('broken')
    expect(stateOf([payment(999, '2026-11-10')], '2026-11-20')).toBe('partly')
  })
  test('what was posted before it was given, or in another currency, is not its payment', () => {
    expect(stateOf([payment(1000, '2026-11-05', { entry: 10 })], '2026-11-20')).toBe('broken')
    expect(stateOf([payment(1000, '2026-11-05', { currency: 'USD' })], '2026-11-20')).toBe('broken')
  })
})

test('a plan: each instalment by itself, money in the order of the dates', () => {
  const plan = promised({
    parts: [
      { date: '2026-11-10', amount: 300 },
      { date: '2026-11-20', amount: 300 },
      { date: '2026-11-30', amount: 400 },
    ],
  })
  const stand = standOf([plan], [payment(500, '2026-11-09')], '2026-11-25').get(1)!
  expect(stand.parts.map(p => [p.paid, p.state])).toEqual([
    [300, 'kept'],
    [200, 'partly'],
    [0, 'due'],
  ])
  expect(stand.state).toBe('partly')
})

test('for items: money that went to others does not count, money on account does', () => {
  const forItems = promised({ items: [{ itemId: 5, amount: 1000 }] })
  const elsewhere = payment(1000, '2026-11-05', { to: [{ itemId: 6, amount: 1000 }] })
  expect(standOf([forItems], [elsewhere], '2026-11-20').get(1)!.state).toBe('broken')
  expect(standOf([forItems], [payment(1000, '2026-11-05')], '2026-11-20').get(1)!.state).toBe('kept')
  const mixed = payment(1200, '2026-11-05', {
    to: [
      { itemId: 5, amount: 700 },
      { itemId: 6, amount: 200 },
    ],
  })
  expect(standOf([forItems], [mixed], '2026-11-20').get(1)!.state).toBe('kept')
})

test('a credit note takes off what is promised for its item; older money does too, newer counts as money', () => {
  const forItems = promised({ items: [{ itemId: 5, amount: 1000 }] })
  const credited = (moneyOf: number | null, amount: number) => [{ entry: 21, itemId: 5, amount, moneyOf }]
  const stand = (moneyOf: number | null, amount: number) =>
    standOfPromises(
      [forItems],
      [payment(600, '2026-11-09', { to: [{ itemId: 5, amount: 600 }] })],
      credited(moneyOf, amount),
      '2026-11-20',
      2,
    ).get(1)!
  expect(stand(null, 400).state).toBe('kept')
  expect(stand(9, 400).state).toBe('kept')
  expect(stand(20, 400).state).toBe('partly')
})

test('no money is counted twice, whatever promises and payments there are', () => {
  const day = (n: number) => addDays('2026-11-01', n)
  const anyPromise = fc.record({
    items: fc.option(fc.uniqueArray(fc.integer({ min: 1, max: 4 }), { minLength: 1, maxLength: 3 }), {
      nil: null,
    }),
    parts: fc.uniqueArray(fc.record({ at: fc.nat(40), amount: fc.integer({ min: 1, max: 900 }) }), {
      selector: p => p.at,
      minLength: 1,
      maxLength: 4,
    }),
    afterEntry: fc.nat(20),
  })
  const anyPayment = fc.record({
    entry: fc.integer({ min: 1, max: 40 }),
    at: fc.nat(50),
    to: fc.array(
      fc.record({ itemId: fc.integer({ min: 1, max: 4 }), amount: fc.integer({ min: 1, max: 300 }) }),
      {
        maxLength: 3,
      },
    ),
    rest: fc.nat(400),
  })
  fc.assert(
    fc.property(
      fc.array(anyPromise, { maxLength: 5 }),
      fc.array(anyPayment, { maxLength: 8 }),
      fc.nat(60),
      (promises, payments, today) => {
        const given = promises.map((p, n): Promised => ({
          id: n + 1,
          madeOn: '2026-11-01',
          currency: 'EUR',
          items: p.items?.map(itemId => ({ itemId, amount: 300 })) ?? null,
          parts: [...p.parts].sort((a, b) => a.at - b.at).map(x => ({ date: day(x.at), amount: x.amount })),
          afterEntry: p.afterEntry,
          withdrawnOn: null,
        }))
        const money = payments.map((p): Payment => ({
          entry: p.entry,
          date: day(p.at),
          currency: 'EUR',
          to: p.to,
          amount: p.rest + p.to.reduce((a, t) => a + t.amount, 0),
        }))
        const stands = standOf(given, money, day(today))
        const counted = [...stands.values()].reduce((sum, s) => sum + s.paid, 0)
        expect(counted).toBeLessThanOrEqual(money.reduce((sum, p) => sum + p.amount, 0))
        for (const promise of given) {
          const { paid, parts, state } = stands.get(promise.id)!
          const total = promise.parts.reduce((sum, p) => sum + p.amount, 0)
          expect(paid).toBeLessThanOrEqual(total)
          expect(parts.reduce((sum, p) => sum + p.paid, 0)).toBeLessThanOrEqual(paid)
          if (state === 'kept') expect(paid).toBe(total)
        }
      },
    ),
    { numRuns: 400 },
  )
})

test('while it is open it speaks of its items, or of the oldest that it covers whole', () => {
  const open = [
    { itemId: 1, currency: 'EUR', open: 600, dueDate: '2026-09-01' },
    { itemId: 2, currency: 'EUR', open: 500, dueDate: '2026-10-01' },
    { itemId: 3, currency: 'USD', open: 100, dueDate: '2026-08-01' },
  ]
  const stand = (today: string) => standOf([promised()], [], today).get(1)!
  expect(coveredItems(promised(), stand('2026-11-11'), open)).toEqual([1])
  expect(coveredItems(promised(), stand('2026-11-30'), open)).toEqual([])
})

test('refused: in the past, out of order, more than is open, items that are not', () => {
  const state = {
    today: '2026-11-16',
    open: [{ itemId: 1, number: 'A-1', currency: 'EUR', open: 500 }],
  }
  const rules = (ask: Parameters<typeof promiseRefusals>[1]) => promiseRefusals(state, ask).map(r => r.rule)
  const parts = [{ date: '2026-11-20', amount: 500 }]
  expect(rules({ currency: 'EUR', items: null, parts })).toEqual([])
  expect(rules({ currency: 'EUR', items: null, parts: [{ date: '2026-11-15', amount: 1 }] })).toEqual([
    'promise.past',
  ])
  expect(rules({ currency: 'EUR', items: null, parts: [{ date: '2026-11-20', amount: 501 }] })).toEqual([
    'promise.amount',
  ])
  expect(rules({ currency: 'EUR', items: [{ itemId: 1, amount: 600 }], parts })).toEqual(['promise.open'])
  expect(
    rules({ currency: 'USD', items: [{ itemId: 1, amount: 1 }], parts: [{ date: '2026-11-20', amount: 1 }] }),
  ).toEqual(['promise.item'])
  const twice = [parts[0]!, { date: '2026-11-20', amount: 0 }]
  expect(rules({ currency: 'EUR', items: null, parts: twice })).toContain('promise.order')
})

test('equal instalments add up to the cent', () => {
  fc.assert(
    fc.property(fc.integer({ min: 60, max: 10 ** 9 }), fc.integer({ min: 1, max: 60 }), (total, count) => {
      const parts = instalments(total, count, n => addDays('2026-12-01', 30 * n))
      expect(parts).toHaveLength(count)
      expect(parts.reduce((sum, p) => sum + p.amount, 0)).toBe(total)
      expect(Math.max(...parts.map(p => p.amount)) - Math.min(...parts.map(p => p.amount))).toBeLessThan(
        count,
      )
    }),
  )
})
