import fc from 'fast-check'
import { MAX_AMOUNT } from '../../../core/money'
import {
  afterPosting,
  amountRefusals,
  applyPosting,
  emptyBooks,
  mergePostings,
  narrowTo,
  openAsOf,
  type Books,
  type Decision,
} from '../../../core/ledger'
import {
  allocate,
  byItem,
  postParts,
  postReceipt,
  decidePutRight,
  reverse,
  unallocate,
  type PutRightState,
} from '../../../core/receipts'
import { postBankReceipt, postToLedger, settle, takeBack, type BankMovement } from '../../../core/banking'
import { postDocument } from '../../../core/documents'
import { CHART, TODAY, ok, rules } from '../books'

const balances = (b: Books) =>
  Object.fromEntries(
    [...new Set(b.lines.map(l => `${l.account} ${l.currency}`))]
      .sort()
      .map(k => [
        k,
        b.lines.filter(l => `${l.account} ${l.currency}` === k).reduce((x, l) => x + l.baseAmount, 0),
      ])
      .filter(([, v]) => v !== 0),
  )
const opens = (b: Books) =>
  Object.fromEntries([...b.state.items.values()].filter(i => i.open).map(i => [i.number, i.open]))

function books(
  invoices: {
    customerId?: number
    amount: number
    currency?: string
    rate?: string
    date?: string
    tax?: number
    discount?: number
  }[],
): Books {
  const b = emptyBooks('EUR', TODAY, CHART)
  invoices.forEach((i, n) =>
    applyPosting(
      b,
      ok(
        postDocument(b.state, {
          customerId: i.customerId ?? 1,
          kind: 'invoice',
          number: `26-${n + 1}`,
          series: null,
          currency: i.currency ?? 'EUR',
          amount: i.amount,
          tax: i.tax ?? 0,
          documentDate: i.date ?? '2026-10-01',
          parts: [{ dueDate: '2026-11-01', amount: i.amount }],
          discounts: i.discount ? [{ date: '2026-11-30', amount: i.discount }] : [],
          rate: i.rate ?? '1',
          order: '',
          text: '',
        }),
      ),
    ),
  )
  return b
}
const receipt = (over: Partial<Parameters<typeof postReceipt>[1]> = {}) => ({
  customerId: 1,
  currency: 'EUR',
  date: '2026-11-10',
  text: '',
  means: [{ means: 'transfer' as const, amount: 100_000, reference: '' }],
  allocations: [],
  onAccount: 0,
  rate: '1',
  ...over,
})
const movement = (over: Partial<BankMovement> = {}): BankMovement => ({
  date: '2026-11-13',
  currency: 'EUR',
  amount: 100_000,
  account: '1200',
  text: '',
  reference: '',
  rate: '1',
  ...over,
})
const linesOf = (b: Books, id: number) => b.state.lines.get(id) ?? []

describe('advances', () => {
  test('a liability until applied, and again when the link is taken back', () => {
    const b = books([{ amount: 60_000 }])
    applyPosting(b, ok(postReceipt(b.state, receipt({ advance: true, onAccount: 100_000 }))))
    expect(balances(b)).toMatchObject({ '2300 EUR': -100_000, '1100 EUR': 60_000 })
    applyPosting(
      b,
      ok(allocate(b.state, { date: TODAY, pairs: [{ debitItemId: 1, creditItemId: 2, amount: 60_000 }] })),
    )
    expect(balances(b)).toMatchObject({ '2300 EUR': -40_000 })
    expect(balances(b)).not.toHaveProperty('1100 EUR')
    applyPosting(b, ok(unallocate(b.state, { date: TODAY, allocationIds: [1], reason: '' })))
    expect(balances(b)).toMatchObject({ '2300 EUR': -100_000, '1100 EUR': 60_000 })
  })
  test('in another currency the exchange difference is realised when it is applied', () => {
    const b = books([{ amount: 100_000, currency: 'GBP', rate: '1.15' }])
    applyPosting(
      b,
      ok(postReceipt(b.state, receipt({ currency: 'GBP', rate: '1.17', advance: true, onAccount: 100_000 }))),
    )
    applyPosting(
      b,
      ok(allocate(b.state, { date: TODAY, pairs: [{ debitItemId: 1, creditItemId: 2, amount: 100_000 }] })),
    )
    expect(balances(b)).toEqual({ '1220 GBP': 117_000, '4000 GBP': -115_000, '6900 GBP': -2000 })
  })
  test(
    'earns the discount of its payment date when it is applied later, several to one invoice; it goes ' +
      'back with the link',
    () => {
      const b = books([{ amount: 100_000, discount: 2000 }])
      for (const amount of [60_000, 38_000])
        applyPosting(
          b,
          ok(
            postReceipt(
              b.state,
              receipt({
                advance: true,
                means: [{ means: 'transfer', amount, reference: '' }],
                onAccount: amount,
              }),
            ),
          ),
        )
      b.state.items.get(1)!.discounts[0]!.date = '2026-11-10'
      const pairs = [
        { debitItemId: 1, creditItemId: 2, amount: 60_000 },
        { debitItemId: 1, creditItemId: 3, amount: 38_000, discount: 2000 },
      ]
      // One of them alone is a part payment, which loses the discount by the house rule.
      expect(rules(allocate(b.state, { date: TODAY, pairs: [pairs[1]!] }))).toEqual(['discount.earned'])
      applyPosting(b, ok(allocate(b.state, { date: TODAY, pairs })))
      expect(opens(b)).toEqual({})
      const link = [...b.state.allocations.values()].find(a => a.creditItemId === 3)!
      applyPosting(b, ok(unallocate(b.state, { date: TODAY, allocationIds: [link.id], reason: '' })))
      expect(b.state.items.get(1)!.open).toBe(40_000)
    },
  )
  test('a credit note earns none', () => {
    const b = books([{ amount: 100_000, discount: 2000 }])
    applyPosting(
      b,
      ok(
        postDocument(b.state, {
          customerId: 1,
          kind: 'credit-note',
          number: 'C-1',
          series: null,
          currency: 'EUR',
          amount: 98_000,
          tax: 0,
          documentDate: '2026-10-05',
          parts: [{ dueDate: '2026-10-05', amount: 98_000 }],
          discounts: [],
          rate: '1',
          order: '',
          text: '',
        }),
      ),
    )
    expect(
      rules(
        allocate(b.state, {
          date: TODAY,
          pairs: [{ debitItemId: 1, creditItemId: 2, amount: 98_000, discount: 2000 }],
        }),
      ),
    ).toEqual(['discount.received'])
  })
  test('is not allocated at once', () => {
    expect(
      rules(
        postReceipt(
          books([{ amount: 5 }]).state,
          receipt({ advance: true, allocations: [{ itemId: 1, amount: 5 }], onAccount: 99_995 }),
        ),
      ),
    ).toContain('receipt.advance')
  })
})

describe('a receipt in another currency than the item', () => {
  const paid = () => {
    const b = books([{ amount: 100_000, currency: 'GBP', rate: '1.15' }])
    applyPosting(
      b,
      ok(
        postReceipt(
          b.state,
          receipt({
            means: [{ means: 'transfer', amount: 116_000, reference: '' }],
            allocations: [{ itemId: 1, amount: 100_000, paid: 116_000 }],
          }),
        ),
      ),
    )
    return b
  }
  test('both sides close; what was received above the book rate is a gain', () => {
    const b = paid()
    expect(opens(b)).toEqual({})
    // 1,000 GBP booked at 1.15 = 1,150 EUR, 1,160 EUR received: 10 EUR gain, whatever the rate of the day.
    expect(
      Object.fromEntries(
        ['1100', '1220', '6900'].map(a => [
          a,
          b.lines.filter(l => l.account === a).reduce((x, l) => x + l.baseAmount, 0),
        ]),
      ),
    ).toEqual({ 1100: 0, 1220: 116_000, 6900: -1000 })
    for (const currency of ['EUR', 'GBP'])
      expect(b.lines.filter(l => l.currency === currency).reduce((x, l) => x + l.amount, 0)).toBe(0)
  })
  test('taking the link back takes the conversion back', () => {
    const b = paid()
    const before = balances(books([{ amount: 100_000, currency: 'GBP', rate: '1.15' }]))
    const link = [...b.state.allocations.values()].find(
      a => b.state.items.get(a.creditItemId)!.kind === 'receipt',
    )!
    applyPosting(b, ok(unallocate(b.state, { date: TODAY, allocationIds: [link.id], reason: 'wrong' })))
    expect(opens(b)).toMatchObject({ '26-1': 100_000, 'receipt-2': 116_000 })
    applyPosting(b, ok(reverse(b.state, { itemId: 2, date: TODAY, reason: 'x', lines: linesOf(b, 2) })))
    expect(balances(b)).toEqual(before)
    expect(opens(b)).toEqual({ '26-1': 100_000 })
  })
})

describe('bank lines', () => {
  test('one line, two customers, a credit taken off: one receipt each, the money at once in the bank', () => {
    const b = books([{ amount: 60_000 }, { amount: 50_000, customerId: 2 }])
    applyPosting(
      b,
      ok(
        postDocument(b.state, {
          customerId: 2,
          kind: 'credit-note',
          number: 'C-1',
          series: null,
          currency: 'EUR',
          amount: 10_000,
          tax: 0,
          documentDate: '2026-10-05',
          parts: [{ dueDate: '2026-10-05', amount: 10_000 }],
          discounts: [],
          rate: '1',
          order: '',
          text: '',
        }),
      ),
    )
    const posting = ok(
      postBankReceipt(b.state, movement(), [
        {
          customerId: 1,
          amount: 60_000,
          allocations: [{ itemId: 1, amount: 60_000 }],
          credits: [],
          onAccount: 0,
        },
        {
          customerId: 2,
          amount: 40_000,
          allocations: [{ itemId: 2, amount: 40_000 }],
          credits: [{ creditItemId: 3, debitItemId: 2, amount: 10_000 }],
          onAccount: 0,
        },
      ]),
    )
    applyPosting(b, posting)
    expect(posting.items.map(i => [i.kind, i.customerId, i.amount])).toEqual([
      ['receipt', 1, 60_000],
      ['receipt', 2, 40_000],
    ])
    expect(opens(b)).toEqual({})
    expect(balances(b)['1200 EUR']).toBe(100_000)
  })
  test('what does not add up, or goes the wrong way, is refused', () => {
    const b = books([{ amount: 60_000 }])
    const part = {
      customerId: 1,
      amount: 60_000,
      allocations: [{ itemId: 1, amount: 60_000 }],
      credits: [],
      onAccount: 0,
    }
    expect(rules(postBankReceipt(b.state, movement(), [part]))).toEqual(['payment.assigned'])
    expect(rules(postBankReceipt(b.state, movement({ amount: -60_000 }), [part]))).toContain('bank.direction')
    expect(rules(postBankReceipt(b.state, movement({ amount: 120_000 }), [part, part]))).toContain(
      'bank.parts',
    )
    expect(rules(postBankReceipt(b.state, movement({ amount: 60_000, date: '2026-11-17' }), [part]))).toEqual(
      ['date.future'],
    )
  })
  test('covered becomes settled, with the bank’s commission apart', () => {
    const b = books([])
    const awaited = [
      {
        label: 'R-1',
        account: '1220',
        amount: 60_000,
        baseAmount: 60_000,
        date: '2026-11-10',
        settled: false,
      },
      {
        label: 'R-2',
        account: '1220',
        amount: 40_500,
        baseAmount: 40_500,
        date: '2026-11-10',
        settled: false,
      },
    ]
    expect(rules(settle(b.state, movement(), awaited, null))).toEqual(['bank.rest'])
    expect(ok(settle(b.state, movement(), awaited, '6850')).lines.map(l => [l.account, l.amount])).toEqual([
      ['1200', 100_000],
      ['1220', -100_500],
      ['6850', 500],
    ])
    expect(rules(settle(b.state, movement(), [{ ...awaited[0]!, settled: true }], '6850'))).toEqual([
      'bank.settled',
    ])
    expect(rules(settle(b.state, movement(), [], null))).toContain('bank.some')
  })
  test('sundry money goes to an account that no register keeps, and back', () => {
    const b = books([])
    const posting = ok(postToLedger(b.state, movement({ amount: -2150 }), '6850'))
    expect(posting.lines.map(l => [l.account, l.amount])).toEqual([
      ['1200', -2150],
      ['6850', 2150],
    ])
    expect(ok(takeBack(b.state, TODAY, '', posting.lines)).lines.map(l => [l.account, l.amount])).toEqual([
      ['1200', 2150],
      ['6850', -2150],
    ])
    expect(rules(postToLedger(b.state, movement(), '1100'))).toEqual(['account.kept'])
    expect(rules(postToLedger(b.state, movement(), '9999'))).toEqual(['account.known'])
  })
})

describe('one payment ticked off', () => {
  test('one receipt per item or one lump per customer move the same money', () => {
    const b = books([
      { amount: 60_000, discount: 1200 },
      { amount: 50_000 },
      { amount: 40_000, customerId: 2 },
    ])
    const parts = [
      {
        customerId: 1,
        amount: 108_800,
        allocations: [
          { itemId: 1, amount: 58_800, discount: 1200 },
          { itemId: 2, amount: 50_000 },
        ],
        credits: [],
        onAccount: 0,
      },
      {
        customerId: 2,
        amount: 45_000,
        allocations: [{ itemId: 3, amount: 40_000 }],
        credits: [],
        onAccount: 5000,
      },
    ]
    const payment = {
      date: '2026-11-10',
      currency: 'EUR',
      text: '',
      rate: '1',
      means: 'cheque' as const,
      reference: '7',
      lateDiscount: false,
    }
    const sums = [parts, byItem(parts)].map(p => {
      const done = postParts(b.state, payment, p)
      expect(done.refusals).toEqual([])
      const merged = mergePostings('receipt', payment.date, '', done.postings)
      const copy = books([
        { amount: 60_000, discount: 1200 },
        { amount: 50_000 },
        { amount: 40_000, customerId: 2 },
      ])
      applyPosting(copy, merged)
      return {
        receipts: merged.items.filter(i => i.kind === 'receipt').length,
        balances: balances(copy),
        open: [...copy.state.items.values()].filter(i => i.open && i.side === 'debit').length,
      }
    })
    expect(sums.map(s => s.receipts)).toEqual([2, 4])
    expect(sums[0]!.balances).toEqual(sums[1]!.balances)
    expect(sums[0]!.open).toBe(0)
  })
})

describe('putting a receipt right', () => {
  const paid = () => {
    const b = books([{ amount: 100_000 }, { amount: 100_000, customerId: 2 }])
    applyPosting(
      b,
      ok(
        postReceipt(
          b.state,
          receipt({
            means: [{ means: 'cheque', amount: 100_000, reference: '1' }],
            allocations: [{ itemId: 1, amount: 100_000 }],
          }),
        ),
      ),
    )
    return b
  }
  const state = (b: Books, customerId = 1): PutRightState => ({
    ledger: b.state,
    itemId: 3,
    customerId,
    text: '',
    means: [
      {
        id: 1,
        means: 'cheque',
        amount: 100_000,
        reference: '1',
        account: '1210',
        slip: null,
        settled: false,
      },
    ],
    lines: linesOf(b, 3),
    lateDiscount: false,
  })
  test('moved to another customer the money stays where it is', () => {
    const b = paid()
    const done = decidePutRight(state(b, 2), { reason: 'wrong customer' })
    if (!done.ok) throw new Error(JSON.stringify(done.refusals))
    expect(done.postings).toHaveLength(1)
    expect(done.postings[0]!.lines.map(l => [l.account, l.customerId, l.amount])).toEqual([
      ['1210', 1, -100_000],
      ['1100', 1, 100_000],
      ['1210', 2, 100_000],
      ['1100', 2, -100_000],
    ])
    applyPosting(b, done.postings[0]!)
    expect(opens(b)).toMatchObject({ '26-1': 100_000, '26-2': 100_000 })
    expect(balances(b)['1210 EUR']).toBe(100_000)
    // And the moved one can be reversed in its turn.
    const moved = [...b.state.items.values()].find(i => i.kind === 'receipt' && !i.reversed)!
    applyPosting(
      b,
      ok(reverse(b.state, { itemId: moved.id, date: TODAY, reason: 'x', lines: linesOf(b, moved.id) })),
    )
    expect(opens(b)).toEqual({ '26-1': 100_000, '26-2': 100_000 })
  })
  test('another day makes two entries; each item lies on the day of its entry', () => {
    const b = paid()
    const done = decidePutRight(state(b), { reason: 'wrong day', date: '2026-11-05' })
    if (!done.ok) throw new Error(JSON.stringify(done.refusals))
    expect(done.postings.map(p => [p.date, ...p.items.map(i => i.postingDate)])).toEqual([
      ['2026-11-10', '2026-11-10'],
      ['2026-11-05', '2026-11-05'],
    ])
  })
  test('twice, without reason, or in a closed period is refused and nothing is half done', () => {
    const b = paid()
    expect(rules(decidePutRight(state(b, 2), { reason: ' ' }))).toContain('reverse.reason')
    expect(rules(decidePutRight(state(b), { reason: 'x' }))).toEqual(['correct.something'])
    const closed = { ...state(b, 2), ledger: { ...b.state, closedUntil: '2026-11-12' } }
    const late = decidePutRight(closed, { reason: 'x' })
    if (!late.ok) throw new Error(JSON.stringify(late.refusals))
    expect(late.postings.map(p => [p.date, p.items.map(i => i.documentDate)])).toEqual([
      [TODAY, [TODAY, '2026-11-10']],
    ])
    const done = decidePutRight(state(b, 2), { reason: 'x' })
    if (done.ok) applyPosting(b, done.postings[0]!)
    expect(rules(decidePutRight(state(b, 2), { reason: 'x' }))).toContain('reverse.once')
  })
})

test('a returned cheque with the bank’s fee charged on', () => {
  const b = books([{ amount: 100_000 }])
  applyPosting(b, ok(postReceipt(b.state, receipt({ allocations: [{ itemId: 1, amount: 100_000 }] }))))
  applyPosting(
    b,
    ok(
      reverse(b.state, {
        itemId: 2,
        date: TODAY,
        reason: 'returned',
        lines: linesOf(b, 2),
        fee: { amount: 1500, baseAmount: 1500 },
      }),
    ),
  )
  expect([...b.state.items.values()].filter(i => i.open).map(i => [i.kind, i.open])).toEqual([
    ['invoice', 100_000],
    ['charge', 1500],
  ])
  expect(balances(b)).toEqual({ '1100 EUR': 101_500, '4000 EUR': -100_000, '4820 EUR': -1500 })
})

test(
  'undoing everything brings every open amount, of today and of any day, and every journal account back ' +
    'to where it was',
  () => {
    const amount = fc.integer({ min: 1000, max: 500_000 })
    const rate = fc.constantFrom('1', '1.15', '0.0858')
    const invoice = fc.record({
      amount,
      currency: fc.constantFrom('EUR', 'GBP'),
      rate,
      tax: fc.constantFrom(0, 190),
      discount: fc.constantFrom(0, 20, 500),
    })
    const step = fc.record({
      pick: fc.nat(),
      share: fc.integer({ min: 1, max: 100 }),
      kind: fc.constantFrom('pay', 'advance', 'discount', 'convert', 'account', 'undo', 'use'),
      rate,
    })
    fc.assert(
      fc.property(
        fc.array(invoice, { minLength: 1, maxLength: 5 }),
        fc.array(step, { minLength: 1, maxLength: 14 }),
        (invoices, steps) => {
          const b = books(invoices.map(i => ({ ...i, rate: i.currency === 'EUR' ? '1' : i.rate })))
          const before = { balances: balances(b), opens: opens(b) }
          const liveReceipts = () =>
            [...b.state.items.values()].filter(
              i => (i.kind === 'receipt' || i.kind === 'advance') && !i.reversed,
            )
          const tryPosting = (d: Decision) => {
            if (d.ok) applyPosting(b, d.posting)
            return d.ok
          }
          for (const s of steps) {
            const debits = [...b.state.items.values()].filter(
              i => i.side === 'debit' && i.open > 0 && i.kind === 'invoice',
            )
            const item = debits[s.pick % Math.max(1, debits.length)]
            const credits = liveReceipts().filter(i => i.open > 0)
            if (s.kind === 'undo') {
              const links = [...b.state.allocations.values()].filter(
                a => !a.undone && a.undoesId === null && liveReceipts().some(r => r.id === a.creditItemId),
              )
              if (links.length)
                tryPosting(
                  unallocate(b.state, {
                    date: TODAY,
                    allocationIds: [links[s.pick % links.length]!.id],
                    reason: '',
                  }),
                )
              continue
            }
            if (!item) continue
            const part = Math.max(1, Math.floor((item.open * s.share) / 100))
            const rateOf = (c: string) => (c === 'EUR' ? '1' : s.rate)
            if (s.kind === 'use') {
              const c = credits.find(x => x.currency === item.currency)
              if (c)
                tryPosting(
                  allocate(b.state, {
                    date: TODAY,
                    pairs: [{ debitItemId: item.id, creditItemId: c.id, amount: Math.min(part, c.open) }],
                  }),
                )
            } else if (s.kind === 'convert')
              tryPosting(
                postReceipt(
                  b.state,
                  receipt({
                    date: TODAY,
                    currency: item.currency === 'EUR' ? 'GBP' : 'EUR',
                    rate: rateOf(item.currency === 'EUR' ? 'GBP' : 'EUR'),
                    means: [{ means: 'transfer', amount: part + 7, reference: '' }],
                    allocations: [{ itemId: item.id, amount: part, paid: part + 7 }],
                  }),
                ),
              )
            else if (s.kind === 'discount') {
              const d = item.discounts[0]?.amount ?? 0
              tryPosting(
                postReceipt(
                  b.state,
                  receipt({
                    date: TODAY,
                    currency: item.currency,
                    rate: rateOf(item.currency),
                    means: [{ means: 'cheque', amount: item.open - d, reference: '' }],
                    allocations: [{ itemId: item.id, amount: item.open - d, discount: d }],
                  }),
                ),
              )
            } else
              tryPosting(
                postReceipt(
                  b.state,
                  receipt({
                    date: TODAY,
                    currency: item.currency,
                    rate: rateOf(item.currency),
                    means: [{ means: 'cash', amount: part, reference: '' }],
                    advance: s.kind === 'advance',
                    allocations: s.kind === 'pay' ? [{ itemId: item.id, amount: part }] : [],
                    onAccount: s.kind === 'pay' ? 0 : part,
                  }),
                ),
              )
          }
          for (const r of liveReceipts())
            expect(
              tryPosting(
                reverse(b.state, { itemId: r.id, date: TODAY, reason: 'all back', lines: linesOf(b, r.id) }),
              ),
            ).toBe(true)
          expect(balances(b)).toEqual(before.balances)
          expect(opens(b)).toEqual(before.opens)
          for (const i of b.state.items.values()) {
            expect(openAsOf(i, b.state.allocations.values(), TODAY)).toBe(i.open)
            if (i.kind === 'invoice') {
              expect(openAsOf(i, b.state.allocations.values(), '2026-11-09')).toBe(i.amount)
              expect([i.dueDate, i.baseOpen]).toEqual(['2026-11-01', i.baseAmount])
            }
          }
        },
      ),
      { numRuns: 250 },
    )
  },
)

test('afterPosting leaves the state it was given alone', () => {
  const b = books([{ amount: 100_000 }])
  const posting = ok(postReceipt(b.state, receipt({ allocations: [{ itemId: 1, amount: 100_000 }] })))
  expect(afterPosting(b.state, posting).items.get(1)!.open).toBe(0)
  expect(b.state.items.get(1)!.open).toBe(100_000)
})

test('a state narrowed to some items decides the same as the whole, and knows nothing of the rest', () => {
  const b = books(Array.from({ length: 30 }, () => ({ amount: 100_000 })))
  const intent = receipt({ allocations: [{ itemId: 7, amount: 100_000, discount: 0, difference: 0 }] })
  expect(postReceipt(narrowTo(b.state, [7]), intent)).toEqual(postReceipt(b.state, intent))
  expect(narrowTo(b.state, [7, 99]).items.size).toBe(1)
  expect(rules(postReceipt(narrowTo(b.state, [8]), intent))).toEqual(
    rules(postReceipt(b.state, { ...intent, allocations: [{ ...intent.allocations[0]!, itemId: 99 }] })),
  )
  expect(b.state.items.size).toBe(30)
})

/* Each rule is provoked, and its opposite, just inside the bound, is accepted. */
describe('what a correction may not be', () => {
  const paid = () => {
    const b = books([{ amount: 100_000 }])
    applyPosting(b, ok(postReceipt(b.state, receipt({ allocations: [{ itemId: 1, amount: 100_000 }] }))))
    return b
  }
  const undoing = (b: Books, over = {}) =>
    rules(unallocate(b.state, { date: TODAY, allocationIds: [1], reason: 'wrong', ...over }))
  const reversing = (b: Books, over = {}) =>
    rules(reverse(b.state, { itemId: 2, date: TODAY, reason: 'returned', lines: linesOf(b, 2), ...over }))

  test('a link is undone on its own day or later, and one was chosen', () => {
    expect(undoing(paid(), { date: '2026-11-09' })).toEqual(['unallocate.date'])
    expect(undoing(paid(), { date: '2026-11-10' })).toEqual([])
    expect(undoing(paid(), { allocationIds: [] })).toContain('allocation.some')
  })

  test('an item is there, and reversed on its own day or later', () => {
    expect(reversing(paid(), { itemId: 99 })).toEqual(['reverse.known'])
    expect(reversing(paid(), { date: '2026-11-09' })).toContain('reverse.date')
    expect(reversing(paid(), { date: '2026-11-10' })).toEqual([])
  })

  test('an amount is more than zero and can be kept exactly', () => {
    expect(amountRefusals(0, 'amount').map(r => r.rule)).toEqual(['amount.positive'])
    expect(amountRefusals(1, 'amount')).toEqual([])
    expect(amountRefusals(MAX_AMOUNT, 'amount')).toEqual([])
    expect(amountRefusals(MAX_AMOUNT + 1, 'amount').map(r => r.rule)).toEqual(['amount.size'])
  })

  test('allocated is something, by whole minor units above zero', () => {
    const b = books([{ amount: 100_000 }])
    applyPosting(b, ok(postReceipt(b.state, receipt({ onAccount: 100_000 }))))
    const pair = (amount: number) =>
      rules(
        allocate(b.state, {
          date: TODAY,
          pairs: [{ debitItemId: 1, creditItemId: 2, amount }],
        } as Parameters<typeof allocate>[1]),
      )
    expect(rules(allocate(b.state, { date: TODAY, pairs: [] } as Parameters<typeof allocate>[1]))).toEqual([
      'allocation.some',
    ])
    expect(pair(0)).toEqual(['allocation.amount'])
    expect(pair(0.5)).toEqual(['allocation.amount'])
    expect(pair(1)).toEqual([])
  })
})
