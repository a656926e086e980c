import {
  feeOf,
  percentOf,
  policyRefusals,
  propose,
  proposeInterest,
  type ReminderItem,
} from '../../../core/reminders'
import { AS_OF, customer, FIXED, item, LEVELS, levels, policy, terms } from './world'

const share = (over = {}) => ({ percent: '1.5', floor: { EUR: 500 }, cap: { EUR: 5000 }, ...over })

describe('the fee of a level', () => {
  const fixed = { ...LEVELS[1]!, fee: { EUR: 1500 } }
  test('fixed, by currency; none in a currency is told, not guessed', () => {
    expect(feeOf(fixed, 'EUR', 100_000)).toBe(1500)
    expect(feeOf(fixed, 'NOK', 100_000)).toBeUndefined()
    expect(feeOf({ ...fixed, fee: {} }, 'NOK', 100_000)).toBe(0)
    const { notices } = propose(
      customer([item(30, 50_000, { currency: 'NOK', level: 1, noticeDate: '2026-10-01' })]),
      terms(),
    )
    expect(notices[0]).toMatchObject({ level: 2, fee: 0, warnings: ['level 2 has no fee in NOK'] })
  })
  test('a share, with its floor and its cap', () => {
    const level = { ...fixed, feeShare: share() }
    expect(feeOf(level, 'EUR', 100_000)).toBe(1500)
    expect(feeOf(level, 'EUR', 10_000)).toBe(500)
    expect(feeOf(level, 'EUR', 10_000_000)).toBe(5000)
    expect(feeOf(level, 'GBP', 10_000)).toBe(150)
  })
  test('with tax on top', () => {
    expect(percentOf(1500, '23')).toBe(345)
    const { notices } = propose(
      customer([item(30, 50_000, { level: 1, noticeDate: '2026-10-01' })]),
      terms({ feeTax: '23' }),
    )
    expect(notices[0]).toMatchObject({ fee: 1845, feeTax: 345 })
  })
})

describe('which letters', () => {
  const two = () => [
    item(50, 40_000, { level: 2, noticeDate: '2026-10-01' }),
    item(25, 30_000, { level: 1, noticeDate: '2026-10-01' }),
    item(10, 20_000),
    item(12, 700, { isCharge: true }),
  ]
  test('one for the account: the highest level speaks for all, each item keeps its own step', () => {
    const { notices } = propose(customer(two()), terms())
    expect(notices.map(n => [n.key, n.level, n.total])).toEqual([['K1 EUR', 3, 90_700]])
    expect(notices[0]!.items.map(i => [i.before, i.level])).toEqual([
      [2, 3],
      [1, 2],
      [0, 0],
      [0, 1],
    ])
  })
  test('one for each level, the highest first; what goes along goes with it', () => {
    const { notices } = propose(customer(two()), terms({ letters: 'level' }))
    expect(notices.map(n => [n.key, n.level, n.total, n.fee])).toEqual([
      ['K1 EUR 3', 3, 40_700, 4000],
      ['K1 EUR 2', 2, 30_000, 1500],
      ['K1 EUR 1', 1, 20_000, 0],
    ])
  })
  test('one for each item', () => {
    const { notices } = propose(customer(two()), terms({ letters: 'item' }))
    expect(notices.map(n => n.items.length)).toEqual([2, 1, 1])
  })
  test('by post where the level says so, or no address is known', () => {
    const [printed] = propose(
      customer([item(10, 50_000)]),
      terms({ levels: levels({ channel: 'print' }) }),
    ).notices
    expect(printed).toMatchObject({ channel: 'print', recipient: '' })
  })
})

describe('time to pay', () => {
  test('grace lets days pass before the first level, and after the deadline of the notice before', () => {
    const late = (days: number, over: Partial<ReminderItem> = {}) =>
      propose(customer([item(days, 50_000, over)]), terms({ graceDays: 6 }))
    expect(late(6).leftOut[0]).toMatchObject({
      rule: 'not-yet',
      reason: '6 days late, level 1 is due from 7 days',
    })
    expect(late(7).notices).toHaveLength(1)
    const before = { level: 1, noticeDate: '2026-10-30' }
    expect(late(30, { ...before, deadline: '2026-11-10' }).leftOut[0]).toMatchObject({
      rule: 'recent',
      reason: 'the notice of 2026-10-30 lets time until 2026-11-10, with grace 2026-11-16',
    })
    expect(late(30, { ...before, deadline: '2026-11-09' }).notices).toHaveLength(1)
  })
  test('an item under the minimum causes no notice', () => {
    const { notices, leftOut } = propose(
      customer([item(10, 900), item(10, 50_000)]),
      terms({ levels: levels({ minimumItem: { EUR: 1000 } }) }),
    )
    expect(notices[0]!.total).toBe(50_000)
    expect(leftOut).toMatchObject([{ rule: 'minimum', open: 900 }])
  })
})

describe('what a person changes', () => {
  const one = () =>
    customer([
      item(25, 50_000, { id: 901, level: 1, noticeDate: '2026-10-01' }),
      item(6, 10_000, { id: 902 }),
      item(9, 700, { id: 903, isCharge: true, level: 0 }),
    ])
  const edited = (edit: object) => propose(one(), terms({}, { edits: { 'K1 EUR': edit } }))
  test('left out with its reason', () =>
    expect(edited({ leaveOut: 'the boss rang' })).toMatchObject({
      notices: [],
      leftOut: [{ item: null, rule: 'chosen', reason: 'left out by hand: the boss rang', open: 60_700 }],
    }))
  test('single items: the level follows from what is left', () => {
    const { notices, leftOut } = edited({ items: { 901: 'paid in cash' } })
    expect(notices[0]).toMatchObject({ level: 1, total: 10_700, fee: 0 })
    expect(leftOut).toMatchObject([{ rule: 'chosen', open: 50_000 }])
    expect(edited({ items: { 901: 'x', 902: 'x' } }).notices).toEqual([])
  })
  test('one level lower, without fee, to another address', () => {
    const [notice] = edited({ oneLower: true, recipient: 'ceo@hollin.example' }).notices
    expect(notice).toMatchObject({ level: 1, fee: 0, recipient: 'ceo@hollin.example' })
    expect(notice!.items.map(i => i.level)).toEqual([1, 0, 1])
    expect(notice!.changed).toEqual(['one level lower', 'to ceo@hollin.example'])
    expect(edited({ noFee: true }).notices[0]).toMatchObject({ level: 2, fee: 0 })
    expect(edited({ recipient: '' }).notices[0]).toMatchObject({ channel: 'print' })
  })
})

describe('interest with a reminder', () => {
  const withInterest = (over = {}) => terms({ interest: FIXED, levels: levels({ interest: true }), ...over })
  test('of each item by period, from the day after it was due', () => {
    // 50,000 × 10 % × 25 ÷ 365 = 342.47
    const { notices } = propose(
      customer([item(25, 50_000), item(30, 800, { isCharge: true })]),
      withInterest(),
    )
    expect(notices[0]).toMatchObject({ interest: 342, total: 50_800 })
    expect(notices[0]!.interestLines).toMatchObject([
      { from: '2026-10-23', to: AS_OF, days: 25, rate: '10', base: 50_000, amount: 342 },
    ])
  })
  test('charges bear interest only where the policy says so', () => {
    const { notices } = propose(
      customer([item(25, 50_000), item(30, 8000, { isCharge: true })]),
      withInterest({ chargesBearInterest: true }),
    )
    expect(notices[0]!.interestLines.map(l => l.base)).toEqual([8000, 50_000].sort((a, b) => b - a))
  })
  test('under its minimum it is not claimed, and may be left out by hand', () => {
    const least = { ...FIXED, minimum: { EUR: 500 } }
    expect(propose(customer([item(25, 50_000)]), withInterest({ interest: least })).notices[0]).toMatchObject(
      {
        interest: 0,
        interestLines: [],
      },
    )
    const edits = { 'K1 EUR': { noInterest: true } }
    expect(propose(customer([item(25, 50_000)]), { ...withInterest(), edits }).notices[0]).toMatchObject({
      interest: 0,
      changed: ['no interest'],
    })
  })
  test('without the rate of a period the customer is left out, and which one is said', () => {
    const interest = { ...FIXED, reference: 'ECB', percent: '8' }
    expect(propose(customer([item(25, 50_000)]), withInterest({ interest }))).toMatchObject({
      notices: [],
      leftOut: [{ rule: 'rate', reason: 'no ECB rate is known for 2026-10-23' }],
    })
  })
  test('what is disputed bears none', () => {
    const [notice] = propose(
      customer([item(25, 50_000, { disputed: { reason: 'price', amount: 20_000 } })]),
      withInterest(),
    ).notices
    expect(notice).toMatchObject({ total: 30_000, interestLines: [{ base: 30_000 }] })
  })
})

describe('interest by itself', () => {
  const run = (items: ReminderItem[], over = {}, edits = {}) =>
    proposeInterest(customer(items), terms({ interest: FIXED, ...over }, { edits }))
  test('also of what was paid late, through the day of payment; levels stay as they are', () => {
    const { notices } = run([
      item(30, 0, { amount: 73_000, moves: [{ effective: '2026-10-27', amount: 73_000 }] }),
      item(5, 73_000, { level: 2, noticeDate: '2026-11-10' }),
    ])
    expect(notices).toMatchObject([{ level: 0, fee: 0, total: 73_000, interest: 200 + 100 }])
    expect(notices[0]!.interestLines.map(l => [l.from, l.to, l.days])).toEqual([
      ['2026-10-18', '2026-10-27', 10],
      ['2026-11-12', AS_OF, 5],
    ])
    expect(notices[0]!.items.every(i => i.level === 0)).toBe(true)
  })
  test('left out with reasons', () => {
    const reasons = (result: ReturnType<typeof run>) => result.leftOut.map(l => l.rule)
    expect(reasons(run([item(25, 50_000)], { interest: null }))).toEqual(['no-interest'])
    expect(reasons(run([item(25, 50_000, { disputed: { reason: 'price', amount: 50_000 } })]))).toEqual([
      'disputed',
    ])
    expect(reasons(run([item(25, 50_000)], { interest: { ...FIXED, minimum: { EUR: 9999 } } }))).toEqual([
      'minimum',
    ])
    expect(reasons(run([item(25, 50_000)], {}, { 'K1 EUR': { leaveOut: 'old friend' } }))).toEqual(['chosen'])
    expect(run([item(0, 50_000)])).toEqual({ notices: [], leftOut: [] })
  })
})

describe('a policy that cannot be', () => {
  const faults = (over: object) => policyRefusals(policy(over)).map(r => [r.rule, r.path])
  test('levels that overlap, interest without its rate, a cap below the floor', () => {
    expect(faults({})).toEqual([])
    expect(faults({ levels: [LEVELS[1], LEVELS[0]] })).toEqual([['policy.rise', 'levels.1.days']])
    expect(faults({ levels: [{ ...LEVELS[0], interest: true }] })).toEqual([
      ['policy.interest', 'levels.0.interest'],
    ])
    expect(faults({ levels: [{ ...LEVELS[0], feeShare: share({ cap: { EUR: 1 } }) }] })).toEqual([
      ['policy.cap', 'levels.0.feeShare.cap.EUR'],
    ])
  })
})

test('an account that was handed over is not reminded, and says to whom', () => {
  const handedOver = { to: 'Grey & Stone', on: '2026-11-01' }
  expect(propose(customer([item(90, 50_000)], { handedOver }), terms()).leftOut).toMatchObject([
    { rule: 'handed-over', reason: 'handed over to Grey & Stone on 2026-11-01' },
  ])
})
