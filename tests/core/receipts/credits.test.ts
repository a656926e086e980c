import fc from 'fast-check'
import { isSmallDifference, spreadCredits } from '../../../core/receipts'

const sized = (...amounts: number[]) => amounts.map((amount, i) => ({ id: i + 1, amount }))
const pair = (creditItemId: number, debitItemId: number, amount: number) => ({
  creditItemId,
  debitItemId,
  amount,
})

describe('credits go to the item with most room', () => {
  test('the example of the rule', () => {
    expect(spreadCredits(sized(30, 50), sized(60, 40))).toEqual([
      pair(1, 1, 30),
      pair(2, 2, 40),
      pair(2, 1, 10),
    ])
  })
  test('the smaller id among equals; what does not fit is left out', () => {
    expect(spreadCredits(sized(70), sized(30, 30))).toEqual([pair(1, 1, 30), pair(1, 2, 30)])
    expect(spreadCredits(sized(70), [])).toEqual([])
    expect(spreadCredits([], sized(70))).toEqual([])
  })
  test('whatever comes: no credit and no room is used beyond what it is, and as much is used as fits', () => {
    const list = fc.array(fc.integer({ min: 1, max: 10_000 }), { maxLength: 8 })
    fc.assert(
      fc.property(list, list, (c, r) => {
        const pairs = spreadCredits(sized(...c), sized(...r))
        const sum = (of: readonly { amount: number }[]) => of.reduce((a, x) => a + x.amount, 0)
        for (const { id, amount } of sized(...c))
          expect(sum(pairs.filter(p => p.creditItemId === id))).toBeLessThanOrEqual(amount)
        for (const { id, amount } of sized(...r))
          expect(sum(pairs.filter(p => p.debitItemId === id))).toBeLessThanOrEqual(amount)
        expect(sum(pairs)).toBe(Math.min(sum(sized(...c)), sum(sized(...r))))
        expect(pairs.every(p => p.amount > 0)).toBe(true)
      }),
    )
  })
})

test('a small difference is measured in whole minor units of the base currency', () => {
  // 60.00 NOK of 1,000.00 NOK that stand at 83.40 EUR are 5.004 EUR: 5.00 when rounded, as it is posted.
  const item = { open: 100_000, baseOpen: 8340 }
  expect(isSmallDifference(item, 6000, 500)).toBe(true)
  expect(isSmallDifference(item, 6010, 500)).toBe(false)
  expect(isSmallDifference(item, 0, 500)).toBe(false)
})
