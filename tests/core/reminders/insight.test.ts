import { addDays } from '../../../core/calendar'
import {
  byDay,
  dryRun,
  effectOfLevels,
  type HistoryCustomer,
  type HistoryItem,
  type ObservedItem,
} from '../../../core/reminders'
import { FIXED, levels, policy } from './world'

const history = (id: number, over: Partial<HistoryItem> = {}): HistoryItem => ({
  id,
  number: `26-${id}`,
  part: 1,
  currency: 'EUR',
  dueDate: '2026-03-01',
  amount: 100_000,
  signed: 100_000,
  postedOn: '2026-02-01',
  moves: [],
  isCharge: false,
  stopped: [],
  elsewhere: null,
  ...over,
})
const who = (items: HistoryItem[]): HistoryCustomer => ({
  number: 'K1',
  name: 'Hollin',
  country: 'IE',
  language: 'en',
  email: '',
  items,
})
const weeks = (from: string, count: number) => Array.from({ length: count }, (_, n) => addDays(from, 7 * n))
const run = (items: HistoryItem[], days = weeks('2026-03-02', 12), over = {}) =>
  dryRun([who(items)], policy(over), [], days).map(n => [n.on, n.level, n.total])

describe('a dry-run', () => {
  test('goes up level by level by its own notices, and stops when the money came', () => {
    expect(run([history(1)])).toEqual([
      ['2026-03-09', 1, 100_000],
      ['2026-03-23', 2, 100_000],
      ['2026-04-13', 3, 100_000],
    ])
    const paid = [{ effective: '2026-03-20', amount: 60_000 }]
    expect(run([history(1, { moves: paid })])).toEqual([
      ['2026-03-09', 1, 100_000],
      ['2026-03-23', 2, 40_000],
      ['2026-04-13', 3, 40_000],
    ])
    expect(run([history(1, { moves: [{ effective: '2026-03-08', amount: 100_000 }] })])).toEqual([])
  })
  test('knows nothing of what was posted later, and lets pauses, disputes and promises be', () => {
    expect(run([history(1, { postedOn: '2026-03-20' })])[0]).toEqual(['2026-03-23', 1, 100_000])
    const stopped = [{ from: '2026-03-01', until: '2026-04-01', rule: 'disputed' as const }]
    expect(run([history(1, { stopped })])[0]).toEqual(['2026-04-06', 1, 100_000])
  })
  test('charges no day twice, and what it claims is summed by week', () => {
    const days = weeks('2026-03-02', 12)
    const terms = policy({ interest: FIXED, levels: levels({ interest: true }) })
    const notices = dryRun([who([history(1)])], terms, [], days)
    // 1,000.00 × 10 % ÷ 365: 8, 14 and 21 days.
    expect(notices.map(n => n.interest)).toEqual([219, 384, 575])
    const table = byDay(notices, days, amount => 2 * amount)
    expect(table).toHaveLength(12)
    expect(table[1]).toEqual({
      on: '2026-03-09',
      notices: 1,
      byLevel: [1],
      overdue: 200_000,
      fee: 0,
      interest: 438,
    })
    expect(table[2]).toMatchObject({ notices: 0, byLevel: [] })
    expect(table[6]!.byLevel).toEqual([0, 0, 1])
  })
})

describe('what worked', () => {
  const seen = (id: number, over: Partial<ObservedItem> = {}): ObservedItem => ({
    id,
    dueDate: '2026-03-01',
    amount: 1000,
    moves: [],
    reminded: [],
    ...over,
  })
  const notice = (on: string, level = 1) => ({ level, policy: 'standard', on })
  const paidOn = (effective: string, amount = 1000) => [{ effective, amount }]

  test('counts what came within 7, 14 and 30 days of a notice, at each level', () => {
    const [one, two] = effectOfLevels(
      [
        seen(1, { reminded: [notice('2026-03-10')], moves: paidOn('2026-03-15') }),
        seen(2, { reminded: [notice('2026-03-10'), notice('2026-04-01', 2)], moves: paidOn('2026-04-10') }),
        seen(3, { reminded: [notice('2026-03-10')], moves: paidOn('2026-03-22', 500) }),
      ],
      '2026-11-16',
    )
    expect(one).toMatchObject({ level: 1, notices: 3, claimed: 3000, collected: [1000, 1500, 1500] })
    expect(two).toMatchObject({ level: 2, notices: 1, claimed: 1000, collected: [0, 1000, 1000] })
    expect(one!.share.map(s => Math.round(s! * 100))).toEqual([33, 50, 50])
  })
  test('beside items of the same age that nobody wrote about; days that are not over do not count', () => {
    const alone = Array.from({ length: 10 }, (_, n) =>
      seen(100 + n, { moves: n < 2 ? paidOn('2026-03-14') : [] }),
    )
    const [effect] = effectOfLevels(
      [seen(1, { reminded: [notice('2026-03-11')], moves: paidOn('2026-03-12') }), ...alone],
      '2026-11-16',
    )
    // On 11 March, ten days late, ten were left alone at that age; two of them paid within the week.
    expect(effect!.alone.share[0]).toBeCloseTo(0.2, 6)
    expect(effect!.share[0]).toBe(1)
    const [young] = effectOfLevels([seen(1, { reminded: [notice('2026-11-10')] })], '2026-11-16')
    expect(young).toMatchObject({
      notices: 1,
      collected: [0, 0, 0],
      share: [null, null, null],
      alone: { count: 0, share: [null, null, null] },
    })
  })
  test('what was paid before a notice, or claimed along without a level, is none of its doing', () => {
    expect(
      effectOfLevels(
        [
          seen(1, { reminded: [notice('2026-03-10')], moves: paidOn('2026-03-09') }),
          seen(2, { reminded: [notice('2026-03-10', 0)] }),
        ],
        '2026-11-16',
      ),
    ).toEqual([])
  })
})
