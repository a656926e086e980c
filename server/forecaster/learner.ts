import { learnFrom, type KnownLedger, type Learnt, type Tell } from '../../core/forecast'
import { answer, type Answer, type Ask, type QuestionName } from './questions'

/** A ledger on a day as it was committed up to an entry: the same key, the same ledger. */
export type Key = string

/** Somebody stopped the work: nobody waits for its answer any more. */
export class Stopped extends Error {}

/** So many ledgers are kept with what was learnt of them. */
const KEPT = 2
/** Of a work, the share that is learning. */
const LEARNING = 0.7

/** Learns of ledgers, and answers questions about them; those asked about last are kept. */
export class Learner {
  private readonly kept = new Map<Key, Learnt>()

  knows(key: Key): boolean {
    return this.kept.has(key)
  }

  /** `known` is the ledger of the key, unless it is known already. */
  answer<Name extends QuestionName>(
    key: Key,
    known: KnownLedger | null,
    name: Name,
    ask: Ask<Name>,
    tell: Tell,
  ): Answer<Name> {
    const there = this.kept.get(key)
    const learnt = there ?? this.learn(key, known, share => tell(share * LEARNING))
    const begun = there ? 0 : LEARNING
    const told = answer(learnt, name, ask, share => tell(begun + share * (1 - begun)))
    tell(1)
    return told
  }

  private learn(key: Key, known: KnownLedger | null, tell: Tell): Learnt {
    if (!known) throw new Error(`the ledger ${key} is not known`)
    const learnt = learnFrom(known, tell)
    // What became of a past day is asked once.
    if (known.after) return learnt
    this.kept.set(key, learnt)
    const oldest = this.kept.keys().next().value
    if (this.kept.size > KEPT && oldest !== undefined) this.kept.delete(oldest)
    return learnt
  }
}
