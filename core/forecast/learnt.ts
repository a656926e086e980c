import type { KnownLedger } from './fromLedger'
import { learn, type Tell } from './learn'
import type { Model } from './model'
import type { Sales } from './sales'

/** A ledger on a day, and how its customers pay. All questions of a forecast are asked of it. */
export interface Learnt {
  known: KnownLedger
  model: Model
  /** What was sold lately, where the items that tell it are left out. */
  sales?: Sales
}

/** `tell` hears how much is done, from 0 to 1; what it throws ends the work. */
export const learnFrom = (known: KnownLedger, tell?: Tell): Learnt => ({
  known,
  model: learn(known.past, known.house, known.asOf, tell),
})
