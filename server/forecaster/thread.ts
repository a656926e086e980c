import { parentPort } from 'node:worker_threads'
import type { KnownLedger } from '../../core/forecast'
import { faultOf, log } from '../log'
import { Learner, Stopped, type Key } from './learner'
import type { QuestionName } from './questions'

/*
 * The thread that works forecasts out, one after another. It knows nothing but what it is given.
 */

export interface Asked {
  id: number
  key: Key
  name: QuestionName
  ask: unknown
  known: KnownLedger | null
  /** One number of 32 bits: not 0 when nobody waits any more. */
  stop: SharedArrayBuffer
}

export type Told =
  | { id: number; answer: unknown }
  /** The ledger of the key has to be sent with the question. */
  | { id: number; needs: 'known' }
  | { id: number; failed: 'stopped' | 'fault' }
  | { id: number; share: number }

const port = parentPort!
const learner = new Learner()
const tell = (told: Told) => port.postMessage(told)
/** How much is done is told so often. */
const TELL_MS = 100

port.on('message', ({ id, key, name, ask, known, stop }: Asked) => {
  if (!known && !learner.knows(key)) {
    tell({ id, needs: 'known' })
    return
  }
  const isStopped = new Int32Array(stop)
  let last = 0
  const hear = (share: number): void => {
    if (Atomics.load(isStopped, 0) !== 0) throw new Stopped()
    if (performance.now() - last < TELL_MS) return
    last = performance.now()
    tell({ id, share })
  }
  try {
    tell({ id, answer: learner.answer(key, known, name, ask as never, hear) })
  } catch (error) {
    if (!(error instanceof Stopped)) log.error({ ...faultOf(error), question: name }, 'forecaster')
    tell({ id, failed: error instanceof Stopped ? 'stopped' : 'fault' })
  }
})
