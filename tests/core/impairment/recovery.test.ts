import { decideRecovery, type WrittenOff } from '../../../core/impairment'
import { applyPosting } from '../../../core/ledger'
import { postReceipt } from '../../../core/receipts'
import { books, ok, rules, TODAY } from '../books'

/* Each rule of money that comes after all is provoked, and its opposite, just inside the bound, accepted. */

const written: WrittenOff = {
  writeOffId: 50,
  number: 'WO-1',
  customerId: 1,
  currency: 'EUR',
  amount: 12_100,
  recovered: 2100,
  taxClaimed: 2100,
}

/** Books with money of the customer on account. */
function world(over: Partial<WrittenOff> = {}) {
  const b = books()
  const posted = ok(
    postReceipt(b.state, {
      customerId: 1,
      currency: 'EUR',
      date: TODAY,
      text: '',
      means: [{ means: 'transfer', amount: 20_000, reference: '' }],
      allocations: [],
      onAccount: 20_000,
      rate: '1',
    } as Parameters<typeof postReceipt>[1]),
  )
  const creditItemId = [...applyPosting(b, posted).items.values()][0]!
  const writtenOff = new Map([
    [50, { ...written, ...over }],
    [51, { ...written, writeOffId: 51, number: 'WO-2', amount: 50_000, recovered: 0, taxClaimed: 0 }],
  ])
  const decide = (parts: { writeOffId: number; amount: number }[], credit = creditItemId) =>
    decideRecovery({ ledger: b.state, writtenOff }, { creditItemId: credit, parts })
  return { b, creditItemId, decide }
}

test('it is a credit, for something, each write-off once', () => {
  const { decide } = world()
  expect(rules(decide([{ writeOffId: 50, amount: 1 }], 99))).toEqual(['recovery.credit'])
  expect(rules(decide([]))).toEqual(['recovery.some'])
  const one = { writeOffId: 50, amount: 1 }
  expect(rules(decide([one, one]))).toEqual(['recovery.twice'])
  expect(rules(decide([one, { writeOffId: 51, amount: 1 }]))).toEqual([])
})

test('it was written off on this account, in the currency of the money', () => {
  const part = [{ writeOffId: 50, amount: 1 }]
  expect(rules(world().decide([{ writeOffId: 9, amount: 1 }]))).toEqual(['recovery.known'])
  expect(rules(world({ customerId: 2 }).decide(part))).toEqual(['recovery.known'])
  expect(rules(world({ currency: 'GBP' }).decide(part))).toEqual(['recovery.known'])
  expect(rules(world().decide(part))).toEqual([])
})

test('no more than did not come back yet, and no more than there is', () => {
  const { decide } = world()
  expect(rules(decide([{ writeOffId: 50, amount: 10_001 }]))).toEqual(['recovery.left'])
  expect(rules(decide([{ writeOffId: 50, amount: 10_000 }]))).toEqual([])
  expect(rules(decide([{ writeOffId: 50, amount: 0 }]))).toEqual(['recovery.left'])
  expect(rules(decide([{ writeOffId: 51, amount: 20_001 }]))).toEqual(['recovery.open'])
  expect(rules(decide([{ writeOffId: 51, amount: 20_000 }]))).toEqual([])
})

test('what comes back is income less its tax, and the credit is used', () => {
  const { b, creditItemId, decide } = world()
  const done = decide([{ writeOffId: 50, amount: 10_000 }])
  if (!done.ok) throw new Error('refused')
  for (const posting of done.postings) applyPosting(b, posting)
  expect(b.state.items.get(creditItemId)!.open).toBe(10_000)
  expect(b.lines.reduce((sum, l) => sum + l.amount, 0)).toBe(0)
  // Of 121.00 with 21.00 of tax 100.00 come back after 21.00 had: 21.00 less the 3.64 of before.
  const taxed = b.lines.filter(l => l.account === '2200').reduce((sum, l) => sum - l.amount, 0)
  expect(taxed).toBe(2100 - Math.round((2100 * 2100) / 12_100))
})
