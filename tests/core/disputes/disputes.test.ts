import fc from 'fast-check'
import { decideResolve, disputedNow, disputeRefusals, type Resolution } from '../../../core/disputes'
import { postDocument } from '../../../core/documents'
import { applyPosting } from '../../../core/ledger'
import { books, ok, rules, TODAY } from '../books'

/* Each rule is provoked, and its opposite, just inside the bound, is accepted. */

const open = [
  { itemId: 1, number: '26-1', currency: 'EUR', open: 10_000, disputed: 0 },
  { itemId: 2, number: '26-2', currency: 'EUR', open: 5000, disputed: 2000 },
  { itemId: 3, number: '26-3', currency: 'GBP', open: 700, disputed: 0 },
]
const opening = (items: { itemId: number; amount: number }[], deadline = TODAY) =>
  disputeRefusals({ today: TODAY, open }, { items, deadline }).map(r => r.rule)

test('a dispute is opened of what is open and not disputed yet, to the cent', () => {
  expect(opening([{ itemId: 1, amount: 10_000 }])).toEqual([])
  expect(opening([{ itemId: 1, amount: 10_001 }])).toEqual(['dispute.amount'])
  expect(opening([{ itemId: 2, amount: 3000 }])).toEqual([])
  expect(opening([{ itemId: 2, amount: 3001 }])).toEqual(['dispute.amount'])
})

test('its deadline is today at the earliest', () => {
  expect(opening([{ itemId: 1, amount: 1 }], '2026-11-15')).toEqual(['dispute.deadline'])
  expect(opening([{ itemId: 1, amount: 1 }], '2026-11-16')).toEqual([])
})

test('an item is named once, is open, and all are of one currency', () => {
  expect(opening([{ itemId: 9, amount: 1 }])).toEqual(['dispute.item'])
  expect(
    opening([
      { itemId: 1, amount: 1 },
      { itemId: 1, amount: 1 },
    ]),
  ).toEqual(['dispute.item'])
  expect(
    opening([
      { itemId: 1, amount: 1 },
      { itemId: 3, amount: 1 },
    ]),
  ).toEqual(['dispute.currency'])
  expect(
    opening([
      { itemId: 1, amount: 1 },
      { itemId: 2, amount: 1 },
    ]),
  ).toEqual([])
})

/** Two invoices, of which one is disputed whole and of the other a part. */
function disputed() {
  const b = books()
  const ids = [10_000, 5000].map((amount, n) => {
    const posted = ok(
      postDocument(b.state, {
        customerId: 1,
        kind: 'invoice',
        number: `26-${n + 1}`,
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
      }),
    )
    return [...applyPosting(b, posted).items.values()][0]!
  })
  const items = [
    { itemId: ids[0]!, amount: 10_000 },
    { itemId: ids[1]!, amount: 2000 },
  ]
  const resolve = (resolution: Resolution, amounts: typeof items = [], over = {}) =>
    decideResolve(
      {
        ledger: b.state,
        dispute: { id: 7, version: 3, items, resolution: '', ...over },
      },
      { resolution, version: 3, amounts },
    )
  return { b, ids, items, resolve }
}

test('resolved once, and only as it was seen', () => {
  const { resolve } = disputed()
  expect(rules(resolve('upheld', [], { resolution: 'credited' }))).toEqual(['dispute.open'])
  expect(rules(resolve('upheld', [], { version: 4 }))).toEqual(['dispute.version'])
  expect(rules(resolve('upheld'))).toEqual([])
})

test('upheld posts nothing; credited takes off all that is disputed, and the books balance', () => {
  const { b, ids, resolve } = disputed()
  expect(resolve('upheld')).toMatchObject({ ok: true, postings: [] })
  const done = resolve('credited')
  if (!done.ok) throw new Error('refused')
  applyPosting(b, done.postings[0]!)
  expect(ids.map(id => b.state.items.get(id)!.open)).toEqual([0, 3000])
  expect(b.lines.reduce((sum, l) => sum + l.amount, 0)).toBe(0)
  // Nothing of the first is left: there is nothing to give up of it any more.
  expect(rules(resolve('credited', [{ itemId: ids[0]!, amount: 1 }]))).toEqual(['dispute.amount'])
})

test('given up is what is disputed here, no more, and settled is less than all of it', () => {
  const { ids, resolve } = disputed()
  const [first, second] = ids as [number, number]
  expect(rules(resolve('credited', [{ itemId: 99, amount: 1 }]))).toEqual(['dispute.item'])
  expect(rules(resolve('credited', [{ itemId: second, amount: 2001 }]))).toEqual(['dispute.amount'])
  expect(rules(resolve('credited', [{ itemId: second, amount: 2000 }]))).toEqual([])
  const most = [{ itemId: first, amount: 10_000 }]
  expect(rules(resolve('settled', [...most, { itemId: second, amount: 2000 }]))).toEqual(['dispute.part'])
  expect(rules(resolve('settled', [...most, { itemId: second, amount: 1999 }]))).toEqual([])
})

test('when nothing of it is open any more it can only be upheld', () => {
  const { b, items, resolve } = disputed()
  for (const { itemId } of items) b.state.items.set(itemId, { ...b.state.items.get(itemId)!, open: 0 })
  expect(rules(resolve('credited'))).toEqual(['dispute.left'])
  expect(rules(resolve('upheld'))).toEqual([])
})

test('into a closed period nothing is posted', () => {
  const { b, resolve } = disputed()
  b.state.closedUntil = TODAY
  expect(rules(resolve('credited'))).toEqual(['period.closed'])
  b.state.closedUntil = '2026-11-15'
  expect(rules(resolve('credited'))).toEqual([])
})

test('what is disputed now lies between nothing and what is open', () => {
  fc.assert(
    fc.property(fc.integer({ min: 0 }), fc.integer(), (amount, left) => {
      const now = disputedNow(amount, left)
      expect(now).toBeGreaterThanOrEqual(0)
      expect(now).toBeLessThanOrEqual(Math.max(0, left))
      expect(now).toBeLessThanOrEqual(amount)
    }),
  )
})
