import fc from 'fast-check'
import { addDays } from '../../../core/calendar'
import { convert } from '../../../core/money'
import { allocate, postReceipt, reverse, unallocate } from '../../../core/receipts'
import { applyPosting, openAsOf, type Books, type Decision } from '../../../core/ledger'
import { postDocument } from '../../../core/documents'
import { TODAY, books, ok, rules } from '../books'

const invoice = (b: Books, amount: number, over: Partial<Parameters<typeof postDocument>[1]> = {}) =>
  postDocument(b.state, {
    customerId: 1,
    kind: 'invoice',
    number: `26-${b.state.items.size + 1}`,
    series: null,
    currency: 'EUR',
    amount,
    tax: 0,
    documentDate: '2026-10-01',
    parts: [{ dueDate: '2026-10-31', amount }],
    discounts: [],
    rate: '1',
    order: '',
    text: '',
    ...over,
  })
const receipt = (
  b: Books,
  amount: number,
  allocations: { itemId: number; amount: number }[],
  over: Partial<Parameters<typeof postReceipt>[1]> = {},
) =>
  postReceipt(b.state, {
    customerId: 1,
    currency: 'EUR',
    date: TODAY,
    text: '',
    means: [{ means: 'cheque', amount, reference: '004417' }],
    allocations,
    onAccount: amount - allocations.reduce((a, x) => a + x.amount, 0),
    rate: '1',
    ...over,
  })
const add = (b: Books, d: Decision) => applyPosting(b, ok(d))
const balance = (b: Books, account: string) =>
  b.lines.filter(l => l.account === account).reduce((a, l) => a + l.baseAmount, 0)
const control = (b: Books) =>
  [...b.state.items.values()].reduce((a, i) => a + (i.side === 'debit' ? i.baseOpen : -i.baseOpen), 0)

describe('documents', () => {
  test('an invoice debits receivables, credits revenue and tax', () => {
    const posting = ok(invoice(books(), 12_300, { tax: 2300 }))
    expect(posting.lines.map(l => [l.account, l.amount])).toEqual([
      ['1100', 12_300],
      ['4000', -10_000],
      ['2200', -2300],
    ])
  })
  test('instalments are one entry with an item each', () => {
    const posting = ok(
      invoice(books(), 101, {
        parts: [
          { dueDate: '2026-10-31', amount: 51 },
          { dueDate: '2026-11-30', amount: 50 },
        ],
        currency: 'GBP',
        rate: '1.15',
      }),
    )
    expect(posting.items.map(i => [i.part, i.amount, i.baseAmount])).toEqual([
      [1, 51, 59],
      [2, 50, 57],
    ])
  })
  test.each([
    ['amount.positive', { amount: 0, parts: [{ dueDate: '2026-10-31', amount: 0 }] }],
    ['amount.positive', { amount: -5, parts: [] }],
    ['currency.known', { currency: 'XXQ' }],
    ['date.real', { documentDate: '2026-02-30' }],
    ['date.future', { documentDate: '2062-10-01', parts: [{ dueDate: '2062-10-31', amount: 100 }] }],
    ['date.due', { parts: [{ dueDate: '2026-09-30', amount: 100 }] }],
    ['amount.tax', { tax: 100 }],
    ['amount.parts', { parts: [{ dueDate: '2026-10-31', amount: 99 }] }],
  ])('%s', (rule, over) => expect(rules(invoice(books(), 100, over))).toContain(rule))
  test('a closed period takes nothing', () => {
    const b = books()
    b.state.closedUntil = '2026-10-31'
    expect(rules(invoice(b, 100))).toEqual(['period.closed'])
  })
})

describe('receipts', () => {
  test('a cheque waits on hand, a transfer in clearing, and the rest on account must be said', () => {
    const b = books()
    add(b, invoice(b, 10_000))
    expect(rules(receipt(b, 12_000, [{ itemId: 1, amount: 10_000 }], { onAccount: 0 }))).toEqual([
      'receipt.assigned',
    ])
    const posting = ok(
      receipt(b, 12_000, [{ itemId: 1, amount: 10_000 }], {
        means: [
          { means: 'cheque', amount: 5000, reference: '1' },
          { means: 'transfer', amount: 7000, reference: '2' },
        ],
      }),
    )
    expect(posting.lines.map(l => [l.account, l.amount])).toEqual([
      ['1210', 5000],
      ['1220', 7000],
      ['1100', -12_000],
    ])
  })
  test.each([
    ['allocation.open', (b: Books) => receipt(b, 20_000, [{ itemId: 1, amount: 10_001 }])],
    [
      'allocation.open',
      (b: Books) =>
        receipt(b, 20_000, [
          { itemId: 1, amount: 6000 },
          { itemId: 1, amount: 6000 },
        ]),
    ],
    ['allocation.items', (b: Books) => receipt(b, 100, [{ itemId: 99, amount: 100 }])],
    ['date.future', (b: Books) => receipt(b, 100, [], { date: '2026-11-17' })],
    ['allocation.date', (b: Books) => receipt(b, 100, [{ itemId: 1, amount: 100 }], { date: '2026-09-30' })],
    ['receipt.means', (b: Books) => receipt(b, 0, [], { means: [] })],
    [
      'allocation.currency',
      (b: Books) => receipt(b, 100, [{ itemId: 1, amount: 100 }], { currency: 'GBP', rate: '1.15' }),
    ],
    ['receipt.on-account', (b: Books) => receipt(b, 100, [], { onAccount: -1 })],
  ])('%s', (rule, make) => {
    const b = books()
    add(b, invoice(b, 10_000))
    expect(rules(make(b))).toContain(rule)
  })
  test("another customer's invoice is refused", () => {
    const b = books()
    add(b, invoice(b, 10_000, { customerId: 2 }))
    expect(rules(receipt(b, 100, [{ itemId: 1, amount: 100 }]))).toEqual(['allocation.account'])
  })
  test('the exchange difference is realised at allocation', () => {
    const b = books()
    add(b, invoice(b, 100_000, { currency: 'GBP', rate: '1.15' }))
    add(b, receipt(b, 100_000, [{ itemId: 1, amount: 100_000 }], { currency: 'GBP', rate: '1.17' }))
    // 1,000 pounds at 1.15 booked, at 1.17 received: a gain of 20.00, credited.
    expect(balance(b, '6900')).toBe(-2000)
    expect(balance(b, '1100')).toBe(0)
  })
})

describe('corrections', () => {
  test('unallocating opens both again; twice is refused', () => {
    const b = books()
    add(b, invoice(b, 10_000))
    add(b, receipt(b, 10_000, [{ itemId: 1, amount: 10_000 }]))
    add(b, unallocate(b.state, { date: TODAY, allocationIds: [1], reason: '' }))
    expect([...b.state.items.values()].map(i => i.open)).toEqual([10_000, 10_000])
    expect(b.state.items.get(1)!.dueDate).toBe('2026-10-31')
    expect(rules(unallocate(b.state, { date: TODAY, allocationIds: [1], reason: '' }))).toEqual([
      'unallocate.once',
    ])
    expect(rules(unallocate(b.state, { date: TODAY, allocationIds: [2], reason: '' }))).toEqual([
      'unallocate.known',
    ])
    add(b, allocate(b.state, { date: TODAY, pairs: [{ debitItemId: 1, creditItemId: 2, amount: 4000 }] }))
    expect(b.state.items.get(1)!.open).toBe(6000)
  })
  test('a reversal undoes the links, mirrors the entry and can be made once', () => {
    const b = books()
    add(b, invoice(b, 10_000))
    add(b, receipt(b, 10_000, [{ itemId: 1, amount: 10_000 }]))
    const lines = b.lines.filter(l => l.item === 2 && l.allocation === null)
    add(b, reverse(b.state, { date: TODAY, itemId: 2, reason: 'returned cheque', lines }))
    expect(b.state.items.get(1)!.open).toBe(10_000)
    expect([b.state.items.get(2)!.open, b.state.items.get(3)!.open]).toEqual([0, 0])
    expect(balance(b, '1210')).toBe(0)
    expect(rules(reverse(b.state, { date: TODAY, itemId: 2, reason: 'again', lines }))).toContain(
      'reverse.once',
    )
    expect(rules(reverse(b.state, { date: TODAY, itemId: 3, reason: 'again', lines: [] }))).toContain(
      'reverse.reversal',
    )
    expect(rules(unallocate(b.state, { date: TODAY, allocationIds: [3], reason: '' }))).toEqual([
      'unallocate.reversal',
    ])
  })
  test('a reversal needs a reason', () => {
    const b = books()
    add(b, receipt(b, 500, []))
    expect(rules(reverse(b.state, { date: TODAY, itemId: 1, reason: ' ', lines: b.lines }))).toEqual([
      'reverse.reason',
    ])
  })
})

describe('any sequence of postings', () => {
  type Step = {
    what: 'invoice' | 'credit' | 'receipt' | 'allocate' | 'unallocate' | 'reverse'
    a: number
    b: number
    amount: number
    day: number
    currency: 'EUR' | 'GBP'
  }
  const step = fc.record<Step>({
    what: fc.constantFrom('invoice', 'credit', 'receipt', 'allocate', 'unallocate', 'reverse'),
    a: fc.nat(40),
    b: fc.nat(40),
    amount: fc.integer({ min: 1, max: 50_000 }),
    day: fc.integer({ min: 0, max: 3 }),
    currency: fc.constantFrom('EUR', 'GBP'),
  })
  const rate = (currency: string, day: number) =>
    currency === 'EUR' ? '1' : (1.1 + (day % 17) / 100).toFixed(4)
  function run(b: Books, s: Step, day: string, n: number): Decision {
    const items = [...b.state.items.values()]
    const pick = <T>(list: T[], i: number) => list[i % Math.max(1, list.length)]
    if (s.what === 'invoice' || s.what === 'credit')
      return invoice(b, s.amount, {
        kind: s.what === 'invoice' ? 'invoice' : 'credit-note',
        currency: s.currency,
        rate: rate(s.currency, n),
        documentDate: day,
        parts: [{ dueDate: addDays(day, 30), amount: s.amount }],
      })
    if (s.what === 'receipt') {
      const open = pick(
        items.filter(i => i.side === 'debit' && i.open > 0 && i.currency === s.currency),
        s.a,
      )
      const part = open ? Math.min(open.open, s.amount) : 0
      return receipt(b, s.amount, open ? [{ itemId: open.id, amount: part }] : [], {
        date: day,
        currency: s.currency,
        rate: rate(s.currency, n),
      })
    }
    if (s.what === 'allocate') {
      const d = pick(
        items.filter(i => i.side === 'debit' && i.open > 0),
        s.a,
      )
      const c = pick(
        items.filter(i => i.side === 'credit' && i.open > 0 && i.currency === d?.currency),
        s.b,
      )
      return allocate(b.state, {
        date: day,
        pairs:
          d && c
            ? [{ debitItemId: d.id, creditItemId: c.id, amount: Math.min(d.open, c.open, s.amount) }]
            : [],
      })
    }
    if (s.what === 'unallocate')
      return unallocate(b.state, {
        date: day,
        allocationIds: [pick([...b.state.allocations.keys()], s.a) ?? 0],
        reason: '',
      })
    const item = pick(items, s.a)
    return reverse(b.state, {
      date: day,
      itemId: item?.id ?? 0,
      reason: 'x',
      lines: b.lines.filter(l => l.item === item?.id && l.allocation === null),
    })
  }
  test('keeps entries balanced, nothing over-allocated, the control account tied and the past unchanged', () =>
    fc.assert(
      fc.property(fc.array(step, { maxLength: 40 }), steps => {
        const b = books()
        let day = '2026-01-05'
        const past = new Map<string, number[]>()
        steps.forEach((s, n) => {
          if (s.day) {
            // As of the end of each day, what was open then must stay so whatever comes later.
            past.set(
              day,
              [...b.state.items.values()].map(i => openAsOf(i, b.state.allocations.values(), day)),
            )
            day = addDays(day, s.day)
          }
          const decision = run(b, s, day, n)
          if (!decision.ok) {
            expect(decision.refusals.length).toBeGreaterThan(0)
            return
          }
          applyPosting(b, decision.posting)
          for (const item of b.state.items.values()) {
            expect(item.open).toBeGreaterThanOrEqual(0)
            expect(item.open).toBeLessThanOrEqual(item.amount)
            expect(item.open).toBe(openAsOf(item, b.state.allocations.values(), '2999-01-01'))
            if (item.open === 0) expect(item.baseOpen).toBe(0)
            if (item.open === item.amount) expect(item.baseOpen).toBe(item.baseAmount)
          }
          expect(balance(b, '1100')).toBe(control(b))
          expect(b.lines.reduce((a, l) => a + l.baseAmount, 0)).toBe(0)
        })
        for (const [then, open] of past)
          expect(
            [...b.state.items.values()]
              .slice(0, open.length)
              .map(i => openAsOf(i, b.state.allocations.values(), then)),
          ).toEqual(open)
      }),
      { numRuns: 300 },
    ))
  test('undoing everything brings every balance back', () =>
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 9000 }), { minLength: 1, maxLength: 8 }), parts => {
        const b = books()
        const total = parts.reduce((a, p) => a + p, 0)
        add(b, invoice(b, total, { currency: 'GBP', rate: '1.1499' }))
        for (const [n, p] of parts.entries())
          add(
            b,
            receipt(b, p, [{ itemId: 1, amount: p }], { currency: 'GBP', rate: (1.1 + n / 50).toFixed(3) }),
          )
        expect(b.state.items.get(1)!.baseOpen).toBe(0)
        for (const id of [...b.state.items.keys()].slice(1))
          add(
            b,
            reverse(b.state, {
              date: TODAY,
              itemId: id,
              reason: 'undo',
              lines: b.lines.filter(l => l.item === id && l.allocation === null),
            }),
          )
        expect(b.state.items.get(1)).toMatchObject({
          open: total,
          baseOpen: convert(total, 'GBP', 'EUR', '1.1499'),
        })
        expect([balance(b, '6900'), balance(b, '1210')]).toEqual([0, 0])
      }),
    ))
})
