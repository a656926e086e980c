import fc from 'fast-check'
import { addDays } from '../../../core/calendar'
import { applyPosting, emptyBooks, type Books } from '../../../core/ledger'
import { earnedDiscount, postReceipt, reverse, unallocate } from '../../../core/receipts'
import { postDocument } from '../../../core/documents'
import { CHART, TODAY, ok, rules } from '../books'

const balances = (b: Books) =>
  Object.fromEntries(
    [...new Set(b.lines.map(l => l.account))]
      .sort()
      .map(a => [a, b.lines.filter(l => l.account === a).reduce((x, l) => x + l.baseAmount, 0)]),
  )

/** One invoice of 1,190.00 with 190.00 tax, 3 % until 10 Nov and 2 % until 17 Nov. */
function books(over: Partial<Parameters<typeof postDocument>[1]> = {}): Books {
  const b = emptyBooks('EUR', TODAY, CHART)
  applyPosting(
    b,
    ok(
      postDocument(b.state, {
        customerId: 1,
        kind: 'invoice',
        number: '26-1',
        series: null,
        currency: 'EUR',
        amount: 119_000,
        tax: 19_000,
        documentDate: '2026-11-03',
        parts: [{ dueDate: '2026-12-03', amount: 119_000 }],
        discounts: [
          { date: '2026-11-10', amount: 3570 },
          { date: '2026-11-15', amount: 2380 },
        ],
        rate: '1',
        order: '',
        text: '',
        ...over,
      }),
    ),
  )
  return b
}
const pay = (
  b: Books,
  amount: number,
  over: { discount?: number; difference?: number } = {},
  date = '2026-11-14',
  also: Partial<Parameters<typeof postReceipt>[1]> = {},
) =>
  postReceipt(b.state, {
    customerId: 1,
    currency: 'EUR',
    date,
    text: '',
    means: [{ means: 'transfer', amount, reference: '' }],
    allocations: [{ itemId: 1, amount, ...over }],
    onAccount: 0,
    rate: '1',
    ...also,
  })

describe('cash discount', () => {
  test('the tax is corrected in proportion: 2 % of 1,190.00 is 20.00 net and 3.80 tax', () => {
    // Source: the usual handbook example of a discount at 19 % tax, gross 23.80 = net 20.00 + tax 3.80
    // (common practice).
    const b = books()
    const posting = ok(pay(b, 116_620, { discount: 2380 }))
    expect(posting.lines.map(l => [l.account, l.amount])).toEqual([
      ['1220', 116_620],
      ['1100', -116_620],
      ['4700', 2000],
      ['2200', 380],
      ['1100', -2380],
    ])
    applyPosting(b, posting)
    expect(b.state.items.get(1)).toMatchObject({ open: 0, baseOpen: 0 })
    expect(b.state.items.get(3)).toMatchObject({ kind: 'discount', bornOfItemId: 2, open: 0 })
  })
  test('it depends on the payment date, step by step, with days of grace', () => {
    const b = books()
    const item = b.state.items.get(1)!
    const earned = (date: string, paid = 119_000) => earnedDiscount(b.state, item, date, paid)
    expect(['2026-11-10', '2026-11-11', '2026-11-15', '2026-11-16'].map(d => earned(d))).toEqual([
      3570, 2380, 2380, 0,
    ])
    b.state.policy.discountGraceDays = 2
    expect(['2026-11-12', '2026-11-13', '2026-11-17', '2026-11-18'].map(d => earned(d))).toEqual([
      3570, 2380, 2380, 0,
    ])
  })
  test('paid in full in spite of the offer, the discount stays untaken', () =>
    expect(ok(pay(books(), 119_000)).items).toHaveLength(1))
  test('late: refused, but for somebody with authority, and never more than was offered', () => {
    expect(rules(pay(books(), 116_620, { discount: 2380 }, TODAY))).toEqual(['discount.earned'])
    expect(rules(pay(books(), 116_620, { discount: 2380 }, TODAY, { lateDiscount: true }))).toEqual([])
    expect(rules(pay(books(), 110_000, { discount: 9000 }, TODAY, { lateDiscount: true }))).toEqual([
      'discount.offered',
    ])
  })
  test('a part payment loses it, or earns its share by the house rules', () => {
    const b = books()
    expect(rules(pay(b, 58_310, { discount: 1190 }))).toEqual(['discount.earned'])
    b.state.policy.partPayments = 'pro-rata'
    expect(earnedDiscount(b.state, b.state.items.get(1)!, '2026-11-14', 58_310)).toBe(1190)
    applyPosting(b, ok(pay(b, 58_310, { discount: 1190 })))
    expect(b.state.items.get(1)!.open).toBe(59_500)
  })
})

describe('small difference', () => {
  test('closes the item within tolerance', () => {
    const b = books()
    const posting = ok(pay(b, 118_960, { difference: 40 }))
    expect(posting.lines.slice(2).map(l => [l.account, l.amount])).toEqual([
      ['6800', 40],
      ['1100', -40],
    ])
  })
  test.each([
    ['difference.tolerance', 118_000, 1000],
    ['difference.closes', 118_960, 30],
    ['difference.open', 118_960, 41],
  ])('%s', (rule, amount, difference) => expect(rules(pay(books(), amount, { difference }))).toEqual([rule]))
  test('with a discount on the same item', () => {
    const b = books()
    applyPosting(b, ok(pay(b, 116_600, { discount: 2380, difference: 20 })))
    expect(b.state.items.get(1)!.open).toBe(0)
  })
  test('the tolerance is in base currency, whatever the item is in', () => {
    const b = books({ currency: 'NOK', rate: '0.085', amount: 119_000 })
    expect(
      rules(pay(b, 114_000, { difference: 5000 }, '2026-11-14', { currency: 'NOK', rate: '0.085' })),
    ).toEqual([])
    expect(
      rules(pay(b, 112_000, { difference: 7000 }, '2026-11-14', { currency: 'NOK', rate: '0.085' })),
    ).toEqual(['difference.tolerance'])
  })
})

describe('what was born with a link goes back with it', () => {
  test('unallocating takes the discount back, tax and all', () => {
    const b = books()
    const before = balances(b)
    applyPosting(b, ok(pay(b, 116_600, { discount: 2380, difference: 20 })))
    const posting = ok(unallocate(b.state, { date: TODAY, allocationIds: [1], reason: 'wrong invoice' }))
    expect(posting.items.map(i => i.kind)).toEqual(['reversal', 'reversal'])
    applyPosting(b, posting)
    expect(b.state.items.get(1)).toMatchObject({ open: 119_000, dueDate: '2026-12-03' })
    expect(b.state.items.get(2)!.open).toBe(116_600)
    expect(balances(b)).toEqual({
      ...before,
      '1100': before['1100']! - 116_600,
      '1220': 116_600,
      '2200': -19_000,
      '4700': 0,
      '6800': 0,
    })
  })
  test('a discount cannot be taken back alone, nor reversed', () => {
    const b = books()
    applyPosting(b, ok(pay(b, 116_620, { discount: 2380 })))
    expect(rules(unallocate(b.state, { date: TODAY, allocationIds: [2], reason: '' }))).toEqual([
      'unallocate.born',
    ])
    expect(rules(reverse(b.state, { date: TODAY, itemId: 3, reason: 'x', lines: [] }))).toContain(
      'reverse.born',
    )
  })
  test('undoing everything brings every balance and age back to where it was', () =>
    fc.assert(
      fc.property(
        fc.constantFrom('EUR', 'GBP'),
        fc.integer({ min: 0, max: 500 }),
        fc.integer({ min: 0, max: 12 }),
        fc.boolean(),
        fc.array(fc.boolean(), { minLength: 1, maxLength: 4 }),
        (currency, difference, days, late, ways) => {
          const rate = currency === 'EUR' ? '1' : '1.1537'
          const b = books({ currency, rate })
          b.state.policy.tolerance = 700
          const before = balances(b)
          for (const [n, whole] of ways.entries()) {
            // What is undone today is free from today: the next payment cannot lie before it.
            const date = n ? TODAY : addDays('2026-11-04', days)
            const discount = late ? 2380 : earnedDiscount(b.state, b.state.items.get(1)!, date, 119_000)
            const receiptRate = currency === 'EUR' ? '1' : (1.1 + n / 40).toFixed(4)
            const made = applyPosting(
              b,
              ok(
                pay(b, 119_000 - discount - difference, { discount, difference }, date, {
                  currency,
                  rate: receiptRate,
                  lateDiscount: late,
                }),
              ),
            )
            expect(b.state.items.get(1)).toMatchObject({ open: 0, baseOpen: 0 })
            const receipt = made.items.get(-1)!
            if (whole)
              applyPosting(
                b,
                ok(
                  reverse(b.state, {
                    date: TODAY,
                    itemId: receipt,
                    reason: 'undo',
                    lines: b.state.lines.get(receipt)!,
                  }),
                ),
              )
            else {
              applyPosting(
                b,
                ok(
                  unallocate(b.state, {
                    date: TODAY,
                    allocationIds: [made.allocations.get(-1)!],
                    reason: 'undo',
                  }),
                ),
              )
              applyPosting(
                b,
                ok(
                  reverse(b.state, {
                    date: TODAY,
                    itemId: receipt,
                    reason: 'undo',
                    lines: b.state.lines.get(receipt)!,
                  }),
                ),
              )
            }
            for (const [account, balance] of Object.entries(balances(b)))
              expect([account, balance]).toEqual([account, before[account] ?? 0])
            expect([...b.state.items.values()].map(i => i.open)).toEqual([
              119_000,
              ...Array.from({ length: b.state.items.size - 1 }, () => 0),
            ])
          }
        },
      ),
    ))
})
