import { baseParts } from './fromLedger'
import type { Learnt } from './learnt'
import { ENDED } from './past'
import { noTrials, simulateItems } from './simulate'

/*
 * From what was expected on a past day to what came, item by item. Base minor units; each step is a sum over
 * items, and expected, steps and what was written since make up what came exactly. Example: of 1,000 expected
 * 300 came later than the day (late), 100 were credited (lost), of another item 50 came that was expected
 * after the day (early), and 200 came for invoices written since: 850.
 */

export interface ForecastBridge {
  asOf: number
  until: number
  expected: number
  /** Expected by then, and still open. */
  late: number
  /** Expected by then, and ended without money. */
  lost: number
  /** Came by then, and was not expected, or not in full. */
  early: number
  /** Came for what was open. */
  ofOpen: number
  /** Came for what was written since: not foreseen item by item. */
  ofNew: number
  came: number
  /** Days of the ledger put together by weeks, the last one may be short. */
  weeks: { from: number; to: number; ofOpen: number; ofNew: number }[]
  /** Those that moved it most: what was expected of a customer, and what came, for what was open. */
  customers: { id: number; expected: number; came: number }[]
}

const TRIALS = 200
const TOLD_CUSTOMERS = 20

export function bridgeOf({ known, model }: Learnt, seed: string): ForecastBridge {
  const { past, asOf, after } = known
  if (!after) throw new Error('what became of the ledger was not asked for')
  const days = after.until - asOf
  const part = baseParts(known)
  const expected = new Float64Array(past.count)
  const sums = noTrials(asOf, days, TRIALS)
  simulateItems(
    model,
    { ...past, part },
    {
      ...{ days, trials: TRIALS, seed: `${seed} ${asOf}` },
      paid: (item, _trial, _day, amount) => (expected[item]! += amount / TRIALS),
    },
    () => sums,
  )
  const made = { expected: 0, late: 0, lost: 0, early: 0, ofOpen: 0 }
  const byCustomer = new Map<number, { id: number; expected: number; came: number }>()
  for (let i = 0; i < past.count; i++) {
    if (past.ended[i] !== ENDED.open) continue
    const awaited = Math.round(expected[i]!)
    const came = after.came[i]!
    made.expected += awaited
    made.ofOpen += came
    if (came > awaited) made.early += came - awaited
    else if (after.isLost[i]) made.lost += awaited - came
    else made.late += awaited - came
    const id = known.customerIds[past.customer[i]!]!
    const own = byCustomer.get(id) ?? { id, expected: 0, came: 0 }
    own.expected += awaited
    own.came += came
    byCustomer.set(id, own)
  }
  const ofNew = after.newByDay.reduce((sum, day) => sum + day, 0)
  const weeks = Array.from({ length: Math.ceil(days / 7) }, (_, week) => {
    const [first, end] = [week * 7, Math.min(days, week * 7 + 7)]
    const sum = (list: Float64Array): number => list.subarray(first, end).reduce((a, b) => a + b, 0)
    const [ofOpen, ofNewer] = [sum(after.openByDay), sum(after.newByDay)]
    return { from: asOf + first + 1, to: asOf + end, ofOpen, ofNew: ofNewer }
  })
  const off = (c: { expected: number; came: number }): number => Math.abs(c.came - c.expected)
  const customers = [...byCustomer.values()].filter(off).sort((a, b) => off(b) - off(a) || a.id - b.id)
  return {
    ...{ asOf, until: after.until, ...made, ofNew, came: made.ofOpen + ofNew, weeks },
    customers: customers.slice(0, TOLD_CUSTOMERS),
  }
}
