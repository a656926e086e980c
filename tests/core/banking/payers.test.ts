import fc from 'fast-check'
import {
  Matcher,
  type Closed,
  type MatchItem,
  type MatchLine,
  type MatchWorld,
} from '../../../core/banking/matching'
import { itemOf, lineOf, worldOf } from './world'
import { scoreOf, sharesOf, straightened, sureEnough } from '../../../core/banking/matching/model'
import { STRAIGHT, WEIGHTS } from '../../../core/banking/matching/weights'

/*
 * Who pays for whom, and what speaks for it beside bank account and name: groups, offices, strangers who name
 * the customer, those on whose behalf is paid, orders, customer numbers, habits, the payer's own list.
 */

const CUSTOMERS = [
  { id: 1, number: 'K-1001', name: 'Birchdale Mills', iban: 'IE29AIBK93115212345678', parentId: null },
  { id: 2, number: 'K-1002', name: 'Birchdale Bakers', iban: '', parentId: 1 },
  { id: 3, number: 'K-1003', name: 'Quarryford Seeds', iban: '', parentId: null },
  { id: 4, number: 'K-1004', name: 'Tarnholm Growers', iban: '', parentId: null },
]
const item = (id: number, customerId: number, open: number, over: Partial<MatchItem> = {}): MatchItem =>
  itemOf(id, open, {
    customerId,
    number: `RE2026-${String(7000 + id)}`,
    documentDate: '2026-09-12',
    dueDate: `2026-10-${String(10 + id)}`,
    ...over,
  })
const ITEMS = [
  item(1, 1, 81_210),
  item(2, 2, 45_330),
  item(3, 3, 120_070),
  item(4, 3, 33_000, { order: '4500012345' }),
  item(5, 4, 64_410),
]
const world = (over: Partial<MatchWorld> = {}) => worldOf(CUSTOMERS, { items: ITEMS, ...over })
const ask = (line: Partial<MatchLine>, over: Partial<MatchWorld> = {}) => {
  const { proposals } = new Matcher(world(over)).match(lineOf({ amount: 0, ...line }))
  const [best] = proposals
  const parts = best?.action.kind === 'receipt' ? best.action.parts : []
  return {
    paid: parts.flatMap(p => p.allocations.map(a => [p.customerId, a.itemId, a.amount])),
    onAccount: parts.map(p => [p.customerId, p.onAccount]),
    confidence: best?.confidence ?? 0,
    why: best?.reasons.join('; ') ?? '',
    parts,
  }
}

describe('who pays for whom', () => {
  test('the head of a group pays a member’s, by number', () => {
    const got = ask({ amount: 45_330, iban: CUSTOMERS[0]!.iban, text: 'RE2026-7002' })
    expect(got.paid).toEqual([[2, 2, 45_330]])
    expect(got.confidence).toBeGreaterThan(0.95)
  })
  test('the head pays all that is due of the group, without a word', () => {
    const got = ask({ amount: 81_210 + 45_330, iban: CUSTOMERS[0]!.iban })
    expect(got.paid).toEqual([
      [1, 1, 81_210],
      [2, 2, 45_330],
    ])
    expect(got.why).toContain('in the group')
  })
  test('an office pays for unrelated customers, when the numbers make the sum', () => {
    const office = { name: 'Lagoon Bookkeepers', iban: 'DE02120300000000202051' }
    const both = ask({ ...office, amount: 120_070 + 64_410, text: '7003 RE2026-7003 and RE2026-7005' })
    expect(both.paid).toEqual([
      [3, 3, 120_070],
      [4, 5, 64_410],
    ])
    expect(both.confidence).toBeGreaterThan(0.9)
    const wrong = ask({ ...office, amount: 120_070 + 64_000, text: 'RE2026-7003 and RE2026-7005' })
    expect(wrong.confidence).toBeLessThan(0.9)
  })
  test('a stranger who names the customer, and one on whose behalf is paid', () => {
    expect(ask({ amount: 64_410, name: 'K Lindqvist', text: 'for Tarnholm Growers' }).paid).toEqual([
      [4, 5, 64_410],
    ])
    const behalf = ask({ amount: 64_410, name: 'Paygate Clearing', ultimate: 'Tarnholm Growers' })
    expect(behalf.paid).toEqual([[4, 5, 64_410]])
    expect(behalf.why).toContain('on behalf of')
  })
  test('an order number and a customer number speak for a customer', () => {
    expect(ask({ amount: 33_000, name: 'Q. Seeds', text: 'order 4500012345' })).toMatchObject({
      paid: [[3, 4, 33_000]],
      why: expect.stringContaining('4500012345'),
    })
    expect(ask({ amount: 64_410, text: 'Kd-Nr K-1004' })).toMatchObject({
      paid: [[4, 5, 64_410]],
      why: expect.stringContaining('customer K-1004'),
    })
  })
  test('a customer’s own number outranks that nothing is open on the account of its head', () => {
    const items = ITEMS.filter(i => i.customerId !== 1)
    const got = ask({ amount: 45_330, iban: CUSTOMERS[0]!.iban, text: 'RE2026-7002' }, { items })
    expect(got.paid).toEqual([[2, 2, 45_330]])
  })
})

describe('what is learnt of a payer', () => {
  const two = [item(1, 4, 50_000), item(2, 4, 30_000), item(3, 4, 20_000)]
  test('what is kept back as before is shown as the reason', () => {
    const habits = [{ customerId: 4, kind: 'short' as const, amount: 250, times: 3 }]
    const line = { amount: 49_750, name: 'Tarnholm Growers' }
    const known = ask(line, { items: two, habits })
    const unknown = ask(line, { items: two })
    expect(known.why).toContain('kept back the same amount before')
    expect(known.confidence).toBeGreaterThan(unknown.confidence)
  })
  test('who pays the oldest first, does so again', () => {
    const habit = (kind: 'oldest' | 'other') => [{ customerId: 4, kind, amount: 0, times: 8 }]
    const line = { amount: 50_000, name: 'Tarnholm Growers' }
    const oldest = ask(line, { items: two, habits: habit('oldest') })
    expect(oldest.paid).toEqual([[4, 1, 50_000]])
    expect(oldest.why).toContain('the oldest first')
    expect(oldest.confidence).toBeGreaterThanOrEqual(
      ask(line, { items: two, habits: habit('other') }).confidence,
    )
  })
})

describe('paid twice', () => {
  const settled: Closed = {
    customerId: 4,
    number: 'RE2026-6950',
    amount: 71_230,
    documentDate: '2026-08-30',
    on: '2026-11-03',
    by: 'R-000311',
    writtenOff: false,
  }
  const over = {
    closed: (key: string) => (key === 'RE20266950' ? settled : undefined),
    settled: (id: number, amount: number) => (id === 4 && amount === 71_230 ? [settled] : []),
  }
  test.each([
    ['by its number', 'RE2026-6950'],
    ['by the end of its number', '6950'],
    ['by its day', 'Rechnung vom 30.08.2026'],
    ['by nothing but the amount', 'danke'],
  ])('%s', (_, text) => {
    const got = ask({ amount: 71_230, name: 'Tarnholm Growers', text }, over)
    expect(got.onAccount).toEqual([[4, 71_230]])
    expect(got.why).toContain('RE2026-6950 was settled on 2026-11-03 by R-000311')
    expect(got.why).toMatch(/paid twice/)
  })
  test('what an earlier line of the statement paid is settled for the next', () => {
    const matcher = new Matcher(world())
    const line = lineOf({ amount: 64_410, name: 'Tarnholm Growers', text: 'RE2026-7005' })
    matcher.use(matcher.match(line).proposals[0]!)
    const [again] = matcher.match(line).proposals
    expect(again!.action).toMatchObject({ parts: [{ allocations: [], onAccount: 64_410 }] })
    expect(again!.reasons.join()).toContain('paid twice')
  })
})

describe('the payer’s own list', () => {
  const credit = item(9, 3, 20_070, { side: 'credit', kind: 'credit-note', number: 'G-9' })
  const listed = (number: string, paid: number, more = {}) => ({
    number,
    credit: false,
    paid,
    discount: 0,
    adjusted: 0,
    ...more,
  })
  test('amounts for each document are its word, a credit note is taken off', () => {
    const got = ask(
      {
        amount: 120_070 - 20_070 + 30_000,
        name: 'Quarryford Seeds',
        remittance: [
          listed('RE2026-7003', 120_070),
          listed('G-9', 20_070, { credit: true }),
          listed('RE2026-7004', 30_000, { adjusted: 3000 }),
        ],
      },
      { items: [...ITEMS, credit] },
    )
    expect(got.paid).toEqual([
      [3, 3, 100_000],
      [3, 4, 30_000],
    ])
    expect(got.parts[0]!.credits).toEqual([{ creditItemId: 9, debitItemId: 3, amount: 20_070 }])
    expect(got.why).toContain('the payer lists 3 documents')
  })
  test('a credit that finds no room, a document twice, one that an earlier line paid: no proposal', () => {
    const earns = item(3, 3, 120_070, { discounts: [{ date: '2026-11-20', amount: 2400 }] })
    const items = [earns, ITEMS[3]!, credit]
    const line = (remittance: ReturnType<typeof listed>[], amount: number) =>
      ask({ amount, name: 'Quarryford Seeds', remittance }, { items })
    const discounted = [
      listed('RE2026-7003', 117_670, { discount: 2400 }),
      listed('G-9', 20_070, { credit: true }),
    ]
    expect(line(discounted, 97_600).why).not.toContain('lists')
    const matcher = new Matcher(world({ items }))
    const own = lineOf({
      amount: 33_000,
      name: 'Quarryford Seeds',
      remittance: [listed('RE2026-7004', 33_000)],
    })
    const [first] = matcher.match(own).proposals
    expect(first!.reasons.join()).toContain('lists')
    matcher.use(first!)
    expect(
      matcher
        .match(own)
        .proposals.map(p => p.reasons.join())
        .join(),
    ).not.toContain('lists')
  })
  test('a list that does not add up, or names what is not open, is no proof', () => {
    for (const remittance of [
      [listed('RE2026-7003', 120_000)],
      [listed('RE2026-7003', 100_000), listed('X-1', 20_070)],
    ])
      expect(ask({ amount: 120_070, name: 'Quarryford Seeds', remittance }).why).not.toContain('lists')
  })
})

test('a credit that was not there yet is not taken off', () => {
  const credit = item(9, 3, 20_070, { side: 'credit', kind: 'credit-note', number: 'G-9' })
  const later = { ...credit, documentDate: '2026-11-20' }
  const line = { amount: 100_000, name: 'Quarryford Seeds', text: 'RE2026-7003 - G-9' }
  expect(ask(line, { items: [...ITEMS, credit] }).parts[0]!.credits).toHaveLength(1)
  expect(ask(line, { items: [...ITEMS, later] }).parts[0]!.credits).toEqual([])
})

describe('confidence', () => {
  test('shares of all hypotheses and of none of them make one', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: -30, max: 30, noNaN: true }), { maxLength: 8 }),
        fc.double({ min: -30, max: 30, noNaN: true }),
        (scores, none) => {
          const shares = sharesOf(scores, none)
          const sum = shares.reduce((a, b) => a + b, 0)
          expect(shares.every(s => s >= 0 && s <= 1)).toBe(true)
          expect(sum).toBeLessThanOrEqual(1 + 1e-9)
          scores.forEach((a, i) =>
            scores.forEach((b, j) => {
              if (a > b) expect(shares[i]!).toBeGreaterThanOrEqual(shares[j]!)
            }),
          )
        },
      ),
    )
  })
  test('worked by hand: two to one against none', () => {
    expect(sharesOf([Math.log(2), 0], 0)).toEqual([expect.closeTo(0.5, 9), expect.closeTo(0.25, 9)])
    expect(scoreOf({ ibanOwn: 1, nameSame: 1 })).toBeCloseTo(WEIGHTS.ibanOwn + WEIGHTS.nameSame, 9)
  })
  test('what experience makes of a share rises with it and stays between 0 and 1', () => {
    const shares = Array.from({ length: 1001 }, (_, n) => n / 1000)
    const made = shares.map(s => straightened(s))
    expect(made.every((m, n) => m >= 0 && m <= 1 && (n === 0 || m >= made[n - 1]!))).toBe(true)
    for (const [said, right] of STRAIGHT) expect(straightened(said)).toBeCloseTo(right, 9)
  })
  test('what is applied without a look follows from the cost of being wrong', () => {
    expect([2, 20, 40, 100].map(sureEnough)).toEqual([0.5, 0.95, 0.975, 0.99])
  })
})
