import type { Model } from './model'
import { ENDED } from './past'
import { waitsBeyond } from './shape'
import { effectOf, spanOf, type Learning, type Told } from './told'

/** Less likely than this, and it has stopped. */
const CLEARLY = 1e-4

/**
 * Chance that a customer still pays as it used to: by Bayes, from how unlikely it is that what it owes would
 * all be open so long if it did. Items due in one week count once: they are paid, or not, together.
 */
export function aliveOf(model: Model, { past, starts }: Learning, told: Told): void {
  const { customers } = model.house
  const silent = new Float64Array(customers).fill(1)
  for (let c = 0; c < customers; c++) {
    let week = NaN
    for (let i = starts[c]!; i < starts[c + 1]!; i++) {
      // What was due before its last payment was passed over, which a customer who pays does too.
      if (past.ended[i] !== ENDED.open || past.written[i]! > model.asOf) continue
      if (model.lastPaid[c]! >= 0 && past.due[i]! + model.slack[c]! < model.lastPaid[c]! - 7) continue
      const own = Math.floor(past.due[i]! / 7)
      if (own === week) continue
      week = own
      const z = (told.low[i]! - effectOf(model, told, i) - model.slack[c]!) / model.spread[c]!
      silent[c]! *= Math.max(0.02, waitsBeyond(model, c, z))
    }
  }
  // How often customers stop, from those who clearly have.
  const clear = silent.filter(p => p < CLEARLY).length
  const months = Math.max(1, spanOf(past, model.asOf) / 30)
  const perMonth = (clear + 0.1) / (customers * months)
  for (let c = 0; c < customers; c++) {
    const since = model.lastPaid[c]! < 0 ? 60 : model.asOf - model.lastPaid[c]!
    const stopped = Math.min(0.5, (perMonth * (since + 15)) / 30)
    model.alive[c] = ((1 - stopped) * silent[c]!) / ((1 - stopped) * silent[c]! + stopped)
  }
}
