import { Calibration, observationsOf, WEIGHTS, type AccountHistory, type Claim } from '../../../core/review'
import { chance } from '../../../simulators/chance'

/*
 * A house of many accounts, each with a lateness of its own that it keeps: what a model learns of the years
 * before must then tell who is late in the last one. The world is ours, so this says that the machinery is
 * right, not that customers are like that; on the ledger of the demo it is tested as any house tests it.
 */

const TODAY = 20_000
const YEARS = 4

/** An account that is billed monthly and pays so many days late, and now and then not at all for long. */
function account(late: number, risk: number, seed: string): AccountHistory {
  const c = chance(seed)
  const history: AccountHistory = { claims: [], payments: [], promises: [], returned: [], spells: [] }
  for (let posted = TODAY - YEARS * 365; posted < TODAY; posted += 30) {
    const due = posted + 30
    const days = c.happens(risk) ? c.whole(100, 160) : Math.max(0, late + c.whole(-5, 5))
    const paidOn = due + days
    const claim: Claim = { posted, due, amount: 100_000, closed: [] }
    if (paidOn <= TODAY) {
      claim.closed.push({ day: paidOn, amount: claim.amount })
      history.payments.push({ day: paidOn, late: days, amount: claim.amount })
    }
    if (days > 90 && due + 91 <= TODAY)
      history.spells.push({ from: due + 91, to: paidOn <= TODAY ? paidOn : Infinity })
    history.claims.push(claim)
  }
  return history
}

const houseOf = (count: number) =>
  Array.from({ length: count }, (_, n) => {
    const bad = n / count
    return account(Math.round(bad * 50), bad ** 3 * 0.15, `account ${n}`)
  })

test('on the year that it has not seen it knows more than who says the same of all', () => {
  const calibration = new Calibration(TODAY, WEIGHTS)
  for (const history of houseOf(300)) calibration.add(history)
  const { tested, model, cases, observations } = calibration.learnt()
  expect(cases).toBeGreaterThan(100)
  expect(observations).toBeGreaterThan(3000)
  expect(model.b).toBeGreaterThan(0)
  expect(tested!.brier).toBeLessThan(tested!.brierOfBase)
  // Calibrated: what was said in all is what came in all, within what chance does to some dozen cases.
  const said = tested!.bands.reduce((sum, b) => sum + b.said * b.count, 0)
  expect(Math.abs(said - tested!.happened)).toBeLessThan(4 * Math.sqrt(tested!.happened) + 2)
})

test('a ledger of some weeks is not tested, and nothing breaks', () => {
  const calibration = new Calibration(TODAY, WEIGHTS)
  calibration.add({
    claims: [{ posted: TODAY - 20, due: TODAY + 10, amount: 5000, closed: [] }],
    payments: [],
    promises: [],
    returned: [],
    spells: [],
  })
  const { tested, observations } = calibration.learnt()
  expect(tested).toBeNull()
  expect(observations).toBe(0)
})

test('an account is seen until it happens, until a year is over, or until today', () => {
  const history = account(0, 0, 'good')
  history.spells.push({ from: TODAY - 50, to: TODAY - 20 })
  const seen = observationsOf(history, TODAY, WEIGHTS)
  // Thirty days ago it was late already: that look says nothing. Sixty days ago it was ten days from it.
  expect(seen[0]).toMatchObject({ happened: true, years: 10 / 365 })
  const before = seen.filter(o => o.happened)
  expect(before.length).toBeGreaterThan(5)
  for (const o of before) expect(o.years).toBeLessThanOrEqual(1)
  expect(seen.some(o => !o.happened && o.years === 1)).toBe(true)
})
