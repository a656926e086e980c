import { behaviourOn } from './behaviour'
import { spellAfter, type AccountHistory } from './history'
import { brier, fit, probability, reliability, type Model, type Observation, type Told } from './model'
import { scoreOf, type Weights } from './score'

/*
 * The model of a house is learnt from its own ledger, and tested on the last year: a model that knows the
 * ledger only up to a year ago says for each account of then what would come of it.
 */

const YEAR = 365
/** An account is looked at again after so many days, for so many months back. */
const APART = 30
const LOOKS = 36

/** How much a score leaves to be feared, 0 to 1. */
export const riskOf = (score: number): number => 1 - score / 100

/** The score of an account on a day; null when it is not known, or the account is over 90 days late then. */
function riskOn(history: AccountHistory, day: number, weights: Weights): number | null {
  const behaviour = behaviourOn(history, day)
  if (!behaviour || spellAfter(history, day).isIn) return null
  const { score } = scoreOf(behaviour, weights)
  return score === null ? null : riskOf(score)
}

/** What came of an account after some days, as far as it was known on a last one. */
export function observationsOf(history: AccountHistory, last: number, weights: Weights): Observation[] {
  const seen: Observation[] = []
  for (let look = 1; look <= LOOKS; look++) {
    const day = last - look * APART
    const risk = riskOn(history, day, weights)
    if (risk === null) continue
    const { next } = spellAfter(history, day)
    const until = Math.min(last, day + YEAR)
    const happened = next !== null && next <= until
    seen.push({ risk, years: ((happened ? next : until) - day) / YEAR, happened })
  }
  return seen
}

export interface Tested {
  /** Accounts that were told something, and how many of them it happened to. */
  accounts: number
  happened: number
  brier: number
  /** Of whoever says the same of all: what the years before showed. */
  brierOfBase: number
  base: number
  bands: ReturnType<typeof reliability>
}

export interface Calibrated {
  model: Model
  observations: number
  cases: number
  /** Null while the ledger is too young to be tested. */
  tested: Tested | null
}

/** So many cases must be seen before a test says anything. */
const FEW = 5

/** Learns from accounts one after another, so that a ledger of any size need not be held at once. */
export class Calibration {
  private readonly now: Observation[] = []
  private readonly before: Observation[] = []
  private readonly lastYear: { risk: number; happened: boolean }[] = []

  /** `today`: the last day that is known, in days since 1970. */
  constructor(
    private readonly today: number,
    private readonly weights: Weights,
  ) {}

  add(history: AccountHistory): void {
    const { today, weights } = this
    const yearAgo = today - YEAR
    this.now.push(...observationsOf(history, today, weights))
    this.before.push(...observationsOf(history, yearAgo, weights))
    const risk = riskOn(history, yearAgo, weights)
    if (risk === null) return
    const { next } = spellAfter(history, yearAgo)
    this.lastYear.push({ risk, happened: next !== null && next <= today })
  }

  learnt(): Calibrated {
    return {
      model: fit(this.now),
      observations: this.now.length,
      cases: this.now.filter(o => o.happened).length,
      tested: this.tested(),
    }
  }

  private tested(): Tested | null {
    const cases = this.before.filter(o => o.happened).length
    if (cases < FEW || this.lastYear.length < FEW) return null
    const model = fit(this.before)
    // Whoever knows nothing of an account says the same of all: the same law without the score.
    const base = probability(fit(this.before.map(o => ({ ...o, risk: 0 }))), 0)
    const told = this.lastYear.map(({ risk, happened }): Told => ({
      said: probability(model, risk),
      happened,
    }))
    return {
      accounts: told.length,
      happened: told.filter(t => t.happened).length,
      brier: brier(told),
      brierOfBase: brier(told.map(t => ({ ...t, said: base }))),
      base,
      bands: reliability(told),
    }
  }
}
