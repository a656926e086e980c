import { follow, type Strategy } from '../../../simulators/debtors'

/*
 * Against customers whose ways the list does not know: within thirty days, per call, it brings in more than
 * ringing by amount, and that more than ringing by age. `npm run bench -- calls` measures more worlds.
 */
test('following the call list brings in more than ringing by amount or by age', () => {
  const gained = (strategy: Strategy) =>
    ['a', 'b', 'c', 'd'].reduce(
      (sum, seed) => {
        const { calls, gained: more, paid } = follow(strategy, seed, { customers: 250, callsADay: 5 })
        return { calls: sum.calls + calls, gained: sum.gained + more, paid: sum.paid + paid }
      },
      { calls: 0, gained: 0, paid: 0 },
    )
  const [list, amount, age] = [gained('list'), gained('amount'), gained('age')]
  expect(list.calls).toBe(amount.calls)
  expect(list.gained / list.calls).toBeGreaterThan(1.1 * (amount.gained / amount.calls))
  expect(amount.gained / amount.calls).toBeGreaterThan(age.gained / age.calls)
  expect(list.paid).toBeGreaterThan(amount.paid)
})
