import fc from 'fast-check'
import { addDays, daysLate } from '../../../core/calendar'
import { propose as proposeBy, type ReminderCustomer } from '../../../core/reminders'
import { AS_OF, customer, item, terms } from './world'

const propose = (c: ReminderCustomer) => proposeBy(c, terms())
const reasons = (c: ReminderCustomer) => propose(c).leftOut.map(l => l.rule)

describe('a reminder run for one customer', () => {
  test('the first notice is level 1 however late the item is', () => {
    const { notices } = propose(customer([item(90, 50_000)]))
    expect(notices).toMatchObject([
      { level: 1, fee: 0, total: 50_000, deadline: '2026-11-26', channel: 'email' },
    ])
    expect(notices[0]!.why).toContain('90 days late')
  })
  test('the next level follows once late enough and long enough after the last', () => {
    const { notices } = propose(
      customer([item(21, 50_000, { level: 1, noticeDate: '2026-11-02' }), item(6, 10_000)]),
    )
    expect(notices).toMatchObject([{ level: 2, fee: 1500, total: 60_000 }])
    expect(notices[0]!.items.map(i => i.level)).toEqual([2, 1])
  })
  test('due today is left alone', () =>
    expect(propose(customer([item(0, 50_000)]))).toEqual({ notices: [], leftOut: [] }))
  test.each([
    ['not-yet', customer([item(4, 50_000)])],
    ['recent', customer([item(30, 50_000, { level: 1, noticeDate: '2026-11-10' })])],
    ['last-level', customer([item(99, 50_000, { level: 3, noticeDate: '2026-09-01' })])],
    ['minimum', customer([item(10, 2499)])],
    ['credit', customer([item(10, 50_000), item(0, -50_000)])],
    ['paused', customer([item(10, 50_000)], { pause: { reason: 'holiday', until: '2026-12-01' } })],
    ['paused', customer([item(10, 50_000, { pause: { reason: 'short delivery', until: '2026-12-01' } })])],
    ['fee-only', customer([item(10, 1500, { isCharge: true })])],
  ])('left out: %s', (rule, c) => {
    expect(reasons(c)).toEqual([rule])
    expect(propose(c).notices).toEqual([])
  })
  test('the reason is told in words', () =>
    expect(
      propose(customer([item(10, 50_000, { pause: { reason: 'short delivery', until: '2026-12-01' } })]))
        .leftOut[0]!.reason,
    ).toBe('paused until 2026-12-01: short delivery'))
  test('currencies are separate notices, a fee goes along with its currency only', () => {
    const { notices } = propose(
      customer([
        item(25, 50_000, { level: 1, noticeDate: '2026-10-20' }),
        item(25, 90_000, { currency: 'GBP', level: 1, noticeDate: '2026-10-20' }),
      ]),
    )
    expect(notices.map(n => [n.currency, n.fee])).toEqual([
      ['EUR', 1500],
      ['GBP', 0],
    ])
  })
  test('no e-mail address: to print', () =>
    expect(propose(customer([item(10, 50_000)], { email: '' })).notices[0]!.channel).toBe('print'))
  test('every overdue item is in a notice or left out with a reason, never both', () =>
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            late: fc.integer({ min: -20, max: 120 }),
            open: fc.integer({ min: -20_000, max: 90_000 }),
            level: fc.integer({ min: 0, max: 3 }),
            ago: fc.integer({ min: 0, max: 40 }),
            isCharge: fc.boolean(),
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
                isCharge: r.isCharge,
                pause: r.paused ? { reason: 'x', until: AS_OF } : null,
              }),
            )
          const { notices, leftOut } = propose(customer(items))
          const sent = new Set(notices.flatMap(n => n.items.map(i => i.id)))
          const left = new Set(leftOut.map(l => l.item))
          for (const i of items.filter(x => x.open > 0 && daysLate(x.dueDate, AS_OF) > 0))
            expect(sent.has(i.id)).not.toBe(left.has(i.number) || left.has(null))
          for (const n of notices) expect(n.total).toBe(n.items.reduce((a, i) => a + i.open, 0))
        },
      ),
    ))
})
