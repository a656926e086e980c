import { bucketsOf } from '../aging'
import { placeAt, placesOf } from '../aging/position'
import { kindOf, type LedgerImage, type Open } from '../image'
import { isClaim } from './exposed'

/*
 * What became of claims that stood on past days: from it the rates of loss are proposed (lossRates).
 */

export interface HistoryAsk {
  /** Past days, days since 1970, the oldest first. */
  days: readonly number[]
  bounds: readonly number[]
  /** What came back later of claims written off, by id of the claim; base minor units. */
  recovered: readonly (readonly [itemId: number, base: number])[]
}

/** What stood in each band on a day, and what of exactly that was lost since, less what came back. */
export interface StoodOn {
  day: number
  stood: number[]
  lost: number[]
}

/** By row of a debit what of it was written off, net, each with its day. Base minor units. */
function lossesOf({ items, allocations }: LedgerImage): { debit: number; day: number; base: number }[] {
  const { debit, credit, debitBase, effectiveDay } = allocations.column
  const { kind } = items.column
  const losses: { debit: number; day: number; base: number }[] = []
  for (let row = 0; row < allocations.count; row++)
    if (kindOf(kind[credit[row]!]!) === 'write-off')
      losses.push({ debit: debit[row]!, day: effectiveDay[row]!, base: debitBase[row]! })
  return losses
}

/** What stood on each day, by band, and what of it is lost. `openOn`: what was open on a day. */
export function stoodOn(ledger: LedgerImage, openOn: (day: number) => Open, ask: HistoryAsk): StoodOn[] {
  const buckets = bucketsOf(ask.bounds)
  const places = placesOf(buckets)
  const bands = buckets.length
  const losses = lossesOf(ledger)
  const back = ask.recovered.filter(([itemId]) => ledger.hasItem(itemId))
  const { kind, dueDay, postingDay } = ledger.items.column
  return ask.days.map(day => {
    const stood = new Array<number>(bands).fill(0)
    const lost = new Array<number>(bands).fill(0)
    const { table } = openOn(day)
    for (let place = 0; place < table.count; place++) {
      if (table.base[place] === 0 || table.debit[place] === 0 || !isClaim(kind[table.item[place]!]!)) continue
      stood[placeAt(places, day - table.dueDay[place]!)]! += table.base[place]!
    }
    const bandThen = (row: number) => placeAt(places, day - dueDay[row]!)
    for (const { debit, day: lostOn, base } of losses)
      if (lostOn > day && postingDay[debit]! <= day) lost[bandThen(debit)]! += base
    for (const [itemId, base] of back) {
      const row = ledger.rowOf(itemId)
      if (postingDay[row]! <= day && losses.some(l => l.debit === row && l.day > day))
        lost[bandThen(row)]! -= base
    }
    return { day, stood, lost }
  })
}
