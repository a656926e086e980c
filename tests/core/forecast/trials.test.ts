import fc from 'fast-check'
import {
  bridgeOf,
  dated,
  ENDED,
  forecast,
  forecastItems,
  joinKnown,
  learnFrom,
  learntFrom,
  materialOf,
  waitsBeyond,
  type Changed,
  type KnownLedger,
} from '../../../core/forecast'
import { isBankWorkingDay, fromDayNumber } from '../../../core/calendar'
import { chance } from '../../../simulators/chance'
import { askOf, habit, knownOf, pastOf, TODAY, type Item } from './world'

/*
 * What must hold of the trials whatever the ledger: nothing comes that is not owed, sums are the sums of
 * their parts, and one customer's change leaves all others alone.
 */

const CUSTOMERS = 5
const openItem = fc.tuple(
  fc.integer({ min: 0, max: CUSTOMERS - 1 }),
  fc.integer({ min: TODAY - 400, max: TODAY + 90 }),
  fc.constant(null),
  fc.integer({ min: 1, max: 1_000_000 }),
)
const paidItem = fc.tuple(
  fc.integer({ min: 0, max: CUSTOMERS - 1 }),
  fc.integer({ min: TODAY - 700, max: TODAY - 60 }),
  fc.integer({ min: -20, max: 59 }),
  fc.integer({ min: 1, max: 1_000_000 }),
)
const ledger = fc
  .tuple(fc.array(openItem, { minLength: 1, maxLength: 25 }), fc.array(paidItem, { maxLength: 60 }))
  .map(([open, paid]) =>
    knownOf(
      pastOf([
        ...open,
        ...paid.map(([c, due, late, amount]): Item => [c, due, Math.min(TODAY, due + late), amount]),
      ]),
      CUSTOMERS,
    ),
  )
const owed = (known: KnownLedger): number => known.open.reduce((a, b) => a + b, 0)

test('nothing comes that is not owed, bands are in order, and sources make the whole', () => {
  fc.assert(
    fc.property(ledger, known => {
      const f = forecast(learnFrom(known), askOf({ sources: ['items', 'promises', 'orders'] }))
      let came = 0
      for (const [n, week] of f.weeks.entries()) {
        expect(week.p10).toBeLessThanOrEqual(week.p50 + 1e-6)
        expect(week.p50).toBeLessThanOrEqual(week.p90 + 1e-6)
        expect(week.p10).toBeGreaterThanOrEqual(0)
        expect(f.bySource.reduce((sum, s) => sum + s.weeks[n]!.mean, 0)).toBeCloseTo(week.mean, 4)
        came += week.mean
      }
      expect(came).toBeLessThanOrEqual(owed(known) + 1e-4)
      // Days make weeks, and no customer pays on a day on which banks are closed.
      const days = f.days.reduce((sum, d) => sum + d.mean, 0)
      expect(days).toBeCloseTo(came, 2)
      for (const d of f.days)
        if (d.mean > 0) expect(isBankWorkingDay(fromDayNumber(TODAY + d.from))).toBe(true)
    }),
    { numRuns: 40 },
  )
})

test('what one customer does otherwise leaves all others as they are', () => {
  fc.assert(
    fc.property(ledger, fc.integer({ min: 0, max: CUSTOMERS - 1 }), (known, row) => {
      const learnt = learnFrom(known)
      const before = forecast(learnt, askOf())
      const never: Changed = { days: 0, overdue: 0, share: 0 }
      const whatIf = { customers: [{ id: row + 100, ...never }], rates: [] }
      const after = forecast(learnt, askOf({ whatIf }))
      for (const c of before.customers) {
        const same = after.customers.find(x => x.id === c.id)!
        expect(same.weeks).toEqual(c.id === row + 100 ? c.weeks.map(() => 0) : c.weeks)
      }
      // Later by nothing is as it is, to the last cent.
      const nothing = { customers: [{ id: row + 100, ...never, share: 1 }], rates: [] }
      const same = forecast(learnt, askOf({ whatIf: nothing }))
      expect(same.weeks.map(w => Math.round(w.mean))).toEqual(before.weeks.map(w => Math.round(w.mean)))
    }),
    { numRuns: 30 },
  )
})

/** The same ledger in two parts, the customers up to one and those from it on. */
function split(known: KnownLedger, at: number): KnownLedger[] {
  const rowsOf = (isIn: (customer: number) => boolean) =>
    [...known.past.customer.keys()].filter(i => isIn(known.past.customer[i]!))
  return [rowsOf(c => c < at), rowsOf(c => c >= at)].map(rows => ({
    ...knownOf(
      {
        count: rows.length,
        customer: Uint32Array.from(rows, i => known.past.customer[i]!),
        due: Int32Array.from(rows, i => known.past.due[i]!),
        written: Int32Array.from(rows, i => known.past.written[i]!),
        amount: Float64Array.from(rows, i => known.past.amount[i]!),
        part: Float64Array.from(rows, i => known.past.part[i]!),
        ended: Uint8Array.from(rows, i => known.past.ended[i]!),
        end: Int32Array.from(rows, i => known.past.end[i]!),
      },
      CUSTOMERS,
    ),
    itemIds: Uint32Array.from(rows, i => known.itemIds[i]!),
  }))
}

test('a ledger that is read in parts gives the same forecast', () => {
  fc.assert(
    fc.property(ledger, fc.integer({ min: 0, max: CUSTOMERS }), (known, at) => {
      const whole = forecast(learnFrom(known), askOf())
      expect(forecast(learnFrom(joinKnown(split(known, at))), askOf())).toEqual(whole)
    }),
    { numRuns: 20 },
  )
})

test('the bridge leads from what was expected to what came, whatever came', () => {
  fc.assert(
    fc.property(
      ledger,
      fc.array(fc.integer({ min: 0, max: 2_000_000 }), { minLength: 90 }),
      (known, money) => {
        const { past } = known
        const isOpen = (i: number): boolean => past.ended[i] === ENDED.open
        const came = Float64Array.from(past.part, (_, i) => (isOpen(i) ? money[i % money.length]! : 0))
        const openByDay = new Float64Array(28)
        openByDay[3] = came.reduce((a, b) => a + b, 0)
        const newByDay = new Float64Array(28).fill(7)
        const isLost = Uint8Array.from(past.part, (_, i) => (isOpen(i) && i % 3 === 0 ? 1 : 0))
        const after = { until: TODAY + 28, came, isLost, openByDay, newByDay }
        const b = bridgeOf(learnFrom({ ...known, after }), 'a')
        expect(b.expected - b.late - b.lost + b.early).toBe(b.ofOpen)
        expect(b.ofOpen + b.ofNew).toBe(b.came)
        expect(b.weeks.reduce((sum, w) => sum + w.ofOpen + w.ofNew, 0)).toBe(b.came)
        expect(Math.min(b.late, b.lost, b.early)).toBeGreaterThanOrEqual(0)
      },
    ),
    { numRuns: 30 },
  )
})

test('known hazards are found again: early takers, late payers and those who never pay, in one house', () => {
  // A quarter pays 18 days before the due day, two thirds 6 days late, the rest not at all.
  const c = chance('hazards')
  const items = Array.from({ length: 40 }, (_, customer) =>
    Array.from({ length: 60 }, (_, n): Item => {
      const due = TODAY - 150 - 9 * n
      const kind = c.whole(1, 12)
      return [customer, due, kind <= 3 ? due - 18 : kind <= 11 ? due + 6 : null, 1000]
    }),
  ).flat()
  const { model } = learnFrom(knownOf(pastOf(items), 40))
  let [afterEarly, never] = [0, 0]
  for (let row = 0; row < 40; row++) {
    const at = (days: number): number =>
      waitsBeyond(model, row, (days - model.slack[row]!) / model.spread[row]!)
    afterEarly += at(-8) / 40
    never += at(60) / 40
  }
  // Stated error: three hundredths.
  expect(Math.abs(afterEarly - 0.75)).toBeLessThan(0.03)
  expect(Math.abs(never - 1 / 12)).toBeLessThan(0.03)
})

test('orders are paid as their customer pays, count once beside new sales, and open down to each', () => {
  const items = [0, 1, 2].flatMap(row => habit(row, row === 0 ? 0 : 20, 40))
  const learnt = learnFrom(knownOf(pastOf(items), 3))
  const order = { currency: 'EUR', amount: 50_000, orderedOn: TODAY - 2, isDelivered: true, terms: 7 }
  const orders = [
    { ...order, customerId: 100 },
    { ...order, customerId: 101 },
  ]
  const ask = askOf({ orders, sources: ['orders'], weeks: 13 })
  const f = forecast(learnt, ask)
  const all = f.weeks.reduce((sum, w) => sum + w.mean, 0)
  expect(all).toBeGreaterThan(90_000)
  expect(all).toBeLessThanOrEqual(100_000)
  const { items: told } = forecastItems(learnt, ask, { source: 'orders', from: 1, to: 91 }, 10)
  const [prompt, late] = [100, 101].map(id => told.find(i => i.customerId === id)!)
  expect(prompt!.days[1]! + 15).toBeLessThan(late!.days[1]!)
  const sales = (over: object): number =>
    forecast(learnt, askOf({ sources: ['sales'], weeks: 13, ...over })).weeks.reduce((s, w) => s + w.mean, 0)
  // What is ordered is no new sale beside; who is not sold to any more buys nothing.
  expect(sales({ orders })).toBeLessThan(sales({}))
  expect(sales({ withoutSales: [100, 101, 102] })).toBe(0)
})

test('a work that is stopped leaves nothing behind, and is done anew when asked again', () => {
  const known = knownOf(pastOf(habit(0, 5).concat([[0, TODAY + 3, null, 700]])), 1)
  let told = 0
  const stop = (share: number): void => {
    told = share
    if (share > 0.3) throw new Error('stopped')
  }
  expect(() => learnFrom(known, stop)).toThrow('stopped')
  expect(told).toBeLessThan(1)
  const learnt = learnFrom(known)
  expect(() =>
    forecast(learnt, askOf(), () => {
      throw new Error('stopped')
    }),
  ).toThrow('stopped')
  const fresh = forecast(learnFrom(known), askOf())
  expect(forecast(learnt, askOf())).toEqual(fresh)
})

test('what is sent to a page gives the same forecast as the whole house, what-ifs and all', () => {
  fc.assert(
    fc.property(ledger, fc.integer({ min: 0, max: CUSTOMERS - 1 }), (known, row) => {
      const whole = { ...known, house: { ...known.house, ids: known.customerIds } }
      const order = { currency: 'EUR', amount: 50_000, orderedOn: TODAY - 2, isDelivered: false, terms: 7 }
      const later = { customers: [{ id: row + 100, days: 12, overdue: 0, share: 0.98 }], rates: [] }
      for (const whatIf of [null, later]) {
        const learnt = learnFrom(whole)
        const ask = askOf({ orders: [{ ...order, customerId: 100 }] })
        const sent = materialOf(learnt, ask)!
        const here = dated(forecast(learntFrom(sent), { ...sent.ask, whatIf }), 'day', 20)
        expect(here).toEqual(dated(forecast(learnt, { ...ask, whatIf }), 'day', 20))
      }
    }),
    { numRuns: 20 },
  )
})
