import fc from 'fast-check'
import {
  checkOrder,
  exposureOf,
  headroomOf,
  HOLD_RULES,
  holdChanges,
  lastingHolds,
  orderParts,
  ruleHolds,
  togetherOf,
  type HoldFacts,
} from '../../../core/exposure'

const FACTS: HoldFacts = {
  exposure: 0,
  unsecured: 0,
  limit: 100_000,
  isLimitExpired: false,
  insured: 0,
  longOverdue: 0,
  brokenPromises: 0,
  level: 0,
  noticeHolds: false,
}
const words = (amount: number) => `${amount / 100}`

test('exposure adds its parts up, less what is secured and no more than there is', () => {
  const parts = { receivables: 80_000, onAccount: -5000, delivered: 10_000, orders: 20_000, notFinal: 1000 }
  expect(exposureOf(parts, 0).total).toBe(106_000)
  expect(exposureOf(parts, 50_000)).toMatchObject({ total: 56_000, parts: { secured: -50_000 } })
  expect(exposureOf(parts, 500_000)).toMatchObject({ total: 0, parts: { secured: -106_000 } })
  expect(exposureOf({ ...parts, onAccount: -200_000 }, 50_000)).toMatchObject({
    total: -89_000,
    parts: { secured: 0 },
  })
})

test('whatever the parts, they add up to the total, of one account and of many', () => {
  const amounts = fc.nat(1_000_000)
  const exposure = fc
    .tuple(amounts, amounts, amounts, amounts, amounts, amounts)
    .map(([receivables, credit, delivered, orders, notFinal, insured]) =>
      exposureOf({ receivables, onAccount: -credit, delivered, orders, notFinal }, insured),
    )
  fc.assert(
    fc.property(fc.array(exposure), list => {
      for (const one of [...list, togetherOf(list)])
        expect(Object.values(one.parts).reduce((a, b) => a + b, 0)).toBe(one.total)
    }),
  )
})

test.each([
  [
    { amount: 1000, delivered: 0, invoiced: 0, state: 'open' },
    { delivered: 0, orders: 1000 },
  ],
  [
    { amount: 1000, delivered: 600, invoiced: 200, state: 'open' },
    { delivered: 400, orders: 400 },
  ],
  [
    { amount: 1000, delivered: 600, invoiced: 200, state: 'closed' },
    { delivered: 400, orders: 0 },
  ],
  [
    { amount: 1000, delivered: 0, invoiced: 0, state: 'cancelled' },
    { delivered: 0, orders: 0 },
  ],
  // Invoiced before it is delivered: the invoice is the receivable, nothing counts twice.
  [
    { amount: 1000, delivered: 0, invoiced: 1000, state: 'open' },
    { delivered: 0, orders: 0 },
  ],
  [
    { amount: 1000, delivered: 1100, invoiced: 0, state: 'open' },
    { delivered: 1100, orders: 0 },
  ],
])('an order %j adds %j', (order, parts) => {
  expect(orderParts(order)).toEqual(parts)
})

test('headroom, and none without a limit', () => {
  expect(headroomOf(75_000, 100_000)).toEqual({ headroom: 25_000, used: 75 })
  expect(headroomOf(75_000, null)).toBeNull()
  expect(headroomOf(1, 0)!.headroom).toBe(-1)
})

describe('holds', () => {
  test.each([
    [{ exposure: 110_000 }, []],
    [{ exposure: 110_001 }, ['limit']],
    [{ longOverdue: 100_000 }, []],
    [{ longOverdue: 100_001, exposure: 200_000 }, ['limit', 'overdue']],
    [{ level: 2 }, []],
    [{ level: 3 }, ['reminder']],
    [{ level: 1, noticeHolds: true }, ['reminder']],
    [{ exposure: 999_999, limit: null }, []],
  ] as const)('%j is held by %j', (facts, causes) => {
    expect(ruleHolds(HOLD_RULES, { ...FACTS, ...facts }).map(h => h.cause)).toEqual(causes)
  })

  test('what is to be paid makes its cause go, and one cent less does not', () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), fc.nat(1_000_000), fc.nat(50), (exposure, limit, overLimitPercent) => {
        const rules = { ...HOLD_RULES, overLimitPercent }
        const held = (e: number) => ruleHolds(rules, { ...FACTS, exposure: e, limit }).length > 0
        const [hold] = ruleHolds(rules, { ...FACTS, exposure, limit })
        if (!hold) return
        expect(held(exposure - hold.toPay!)).toBe(false)
        expect(held(exposure - hold.toPay! + 1)).toBe(true)
      }),
    )
  })

  test('causes begin and end by themselves; one that was released stays away until its day is over', () => {
    const found = [{ cause: 'limit' as const, toPay: 5 }]
    const begin = [{ ...found[0]!, reason: '' }]
    const kept = (endedAt: string | null, releasedUntil: string | null) => [
      { id: 7, cause: 'limit' as const, reason: '', endedAt, releasedUntil },
    ]
    expect(holdChanges(found, [], '2026-11-16')).toEqual({ begin, end: [] })
    expect(holdChanges(found, kept(null, null), '2026-11-16')).toEqual({ begin: [], end: [] })
    expect(holdChanges([], kept(null, null), '2026-11-16')).toEqual({ begin: [], end: [7] })
    expect(holdChanges(found, kept('x', '2026-11-16'), '2026-11-16')).toEqual({ begin: [], end: [] })
    expect(holdChanges(found, kept('x', '2026-11-15'), '2026-11-16')).toEqual({ begin, end: [] })
    expect(lastingHolds(found, [], '2026-11-16')).toEqual([
      { id: null, cause: 'limit', reason: '', toPay: 5 },
    ])
    expect(lastingHolds([], kept(null, null), '2026-11-16')).toEqual([])
  })

  test('a hold by hand lasts until it is released, comes back when the release is over, or ends for good', () => {
    const hand = (endedAt: string | null, releasedUntil: string | null) => [
      { id: 8, cause: 'hand' as const, reason: 'lawyer', endedAt, releasedUntil },
    ]
    const again = { id: null, cause: 'hand', reason: 'lawyer', toPay: null }
    expect(lastingHolds([], hand(null, null), '2026-11-16')).toMatchObject([{ id: 8, reason: 'lawyer' }])
    expect(lastingHolds([], hand('x', '2026-11-16'), '2026-11-16')).toEqual([])
    expect(lastingHolds([], hand('x', '2026-11-15'), '2026-11-16')).toEqual([again])
    expect(lastingHolds([], hand('x', null), '2026-11-16')).toEqual([])
  })
})

describe('the check of an order', () => {
  const facts = {
    account: { name: 'Hollin', exposure: 90_000, limit: 100_000 },
    group: null,
    holds: [],
    closedOn: null,
    isLimitExpired: false,
    whoSigns: 'a supervisor',
  }
  test('up to the limit yes, above it no, with what would make it yes', () => {
    expect(checkOrder(facts, 10_000, words)).toEqual([])
    expect(checkOrder(facts, 10_001, words)).toMatchObject([
      { rule: 'limit', toPay: 1, limitNeeded: 100_001 },
    ])
    expect(checkOrder(facts, 200_000, words)).toMatchObject([
      { rule: 'limit', toPay: null, limitNeeded: 290_000 },
    ])
  })
  test('every reason is told', () => {
    const all = {
      ...facts,
      group: { name: 'Hollin Group', exposure: 500_000, limit: 400_000 },
      holds: [{ cause: 'hand' as const, words: 'waits for the lawyer', toPay: null }],
      closedOn: '2026-10-01',
      isLimitExpired: true,
    }
    expect(checkOrder(all, 20_000, words).map(r => r.rule)).toEqual([
      'closed',
      'held',
      'expired',
      'limit',
      'group',
    ])
  })
  test('paying what is said makes room', () => {
    fc.assert(
      fc.property(fc.nat(1_000_000), fc.nat(1_000_000), fc.nat(1_000_000), (exposure, limit, amount) => {
        const ask = (e: number, l: number) =>
          checkOrder({ ...facts, account: { name: '', exposure: e, limit: l } }, amount, words)
        const [reason] = ask(exposure, limit)
        if (!reason) return
        expect(ask(exposure, reason.limitNeeded!)).toEqual([])
        if (reason.toPay !== null) expect(ask(exposure - reason.toPay, limit)).toEqual([])
      }),
    )
  })
})
