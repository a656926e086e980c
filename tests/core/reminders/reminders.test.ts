import fc from 'fast-check'
import { addDays, daysLate } from '../../../core/calendar'
import { propose, type Level, type ReminderCustomer, type ReminderItem } from '../../../core/reminders'

const AS_OF = '2026-11-16'
const LEVELS: Level[] = [
  { days: 5, sincePrevious: 7, minimum: { EUR: 2500 }, fee: {}, deadlineDays: 10 },
  { days: 20, sincePrevious: 14, minimum: { EUR: 2500 }, fee: { EUR: 1500 }, deadlineDays: 10 },
  { days: 40, sincePrevious: 14, minimum: { EUR: 2500 }, fee: { EUR: 4000 }, deadlineDays: 7 },
]
let id = 0
const item = (late: number, open: number, over: Partial<ReminderItem> = {}): ReminderItem => ({
  id: ++id,
  number: `26-${id}`,
  part: 1,
  currency: 'EUR',
  dueDate: addDays(AS_OF, -late),
  open,
  level: 0,
  noticeDate: null,
  pause: null,
  isFee: false,
  ...over,
})
const customer = (items: ReminderItem[], over: Partial<ReminderCustomer> = {}): ReminderCustomer => ({
  number: 'K1',
  name: 'Hollin',
  email: 'maud@hollin.example',
  pause: null,
  items,
  ...over,
})
const reasons = (c: ReminderCustomer) => propose(c, LEVELS, AS_OF).leftOut.map(l => l.rule)

describe('a reminder run for one customer', () => {
  test('the first notice is level 1 however late the item is', () => {
    const { notices } = propose(customer([item(90, 50_000)]), LEVELS, AS_OF)
    expect(notices).toMatchObject([
      { level: 1, fee: 0, total: 50_000, deadline: '2026-11-26', channel: 'email' },
    ])
    expect(notices[0]!.why).toContain('90 days late')
  })
  test('the next level follows once late enough and long enough after the last', () => {
    const { notices } = propose(
      customer([item(21, 50_000, { level: 1, noticeDate: '2026-11-02' }), item(6, 10_000)]),
      LEVELS,
      AS_OF,
    )
    expect(notices).toMatchObject([{ level: 2, fee: 1500, total: 60_000 }])
    expect(notices[0]!.items.map(i => i.level)).toEqual([2, 1])
  })
  test('due today is left alone', () =>
    expect(propose(customer([item(0, 50_000)]), LEVELS, AS_OF)).toEqual({ notices: [], leftOut: [] }))
  test.each([
    ['not-yet', customer([item(4, 50_000)])],
    ['recent', customer([item(30, 50_000, { level: 1, noticeDate: '2026-11-10' })])],
    ['last-level', customer([item(99, 50_000, { level: 3, noticeDate: '2026-09-01' })])],
    ['minimum', customer([item(10, 2499)])],
    ['credit', customer([item(10, 50_000), item(0, -50_000)])],
    ['paused', customer([item(10, 50_000)], { pause: { reason: 'holiday', until: '2026-12-01' } })],
    ['paused', customer([item(10, 50_000, { pause: { reason: 'short delivery', until: '2026-12-01' } })])],
    ['fee-only', customer([item(10, 1500, { isFee: true })])],
  ])('left out: %s', (rule, c) => {
    expect(reasons(c)).toEqual([rule])
    expect(propose(c, LEVELS, AS_OF).notices).toEqual([])
  })
  test('the reason is told in words', () =>
    expect(
      propose(
        customer([item(10, 50_000, { pause: { reason: 'short delivery', until: '2026-12-01' } })]),
        LEVELS,
        AS_OF,
      ).leftOut[0]!.reason,
    ).toBe('paused until 2026-12-01: short delivery'))
  test('currencies are separate notices, a fee goes along with its currency only', () => {
    const { notices } = propose(
      customer([
        item(25, 50_000, { level: 1, noticeDate: '2026-10-20' }),
        item(25, 90_000, { currency: 'GBP', level: 1, noticeDate: '2026-10-20' }),
      ]),
      LEVELS,
      AS_OF,
    )
    expect(notices.map(n => [n.currency, n.fee])).toEqual([
      ['EUR', 1500],
      ['GBP', 0],
    ])
  })
  test('no e-mail address: to print', () =>
    expect(propose(customer([item(10, 50_000)], { email: '' }), LEVELS, AS_OF).notices[0]!.channel).toBe(
      'print',
    ))
  test('every overdue item is in a notice or left out with a reason, never both', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            late: fc.integer({ min: -20, max: 120 }),
            open: fc.integer({ min: -20_000, max: 90_000 }),
            level: fc.integer({ min: 0, max: 3 }),
            ago: fc.integer({ min: 0, max: 40 }),
            isFee: fc.boolean(),
            paused: fc.boolean(),
          }),
          { maxLength: 12 },
        ),
        rows => {
          const items = rows
            .filter(r => r.open !== 0)
            .map(r =>
              item(r.late, r.open, {
                level: r.level,
                noticeDate: r.level ? addDays(AS_OF, -r.ago) : null,
                isFee: r.isFee,
                pause: r.paused ? { reason: 'x', until: AS_OF } : null,
              }),
            )
          const { notices, leftOut } = propose(customer(items), LEVELS, AS_OF)
          const sent = new Set(notices.flatMap(n => n.items.map(i => i.id)))
          const left = new Set(leftOut.map(l => l.item))
          for (const i of items.filter(x => x.open > 0 && daysLate(x.dueDate, AS_OF) > 0))
            expect(sent.has(i.id)).not.toBe(left.has(i.number) || left.has(null))
          for (const n of notices) expect(n.total).toBe(n.items.reduce((a, i) => a + i.open, 0))
        },
      ),
    ))
})
