import { resolve } from 'node:path'
import { Worker } from 'node:worker_threads'
import type { Sequelize } from 'sequelize'
import type { KnownLedger } from '../../core/forecast'
import type { Handle } from '../db/handle'
import { faultOf, log } from '../log'
import { buffersOf } from './buffers'
import { keyOf, knownOn, type KnownOn } from './known'
import { Learner, Stopped, type Key } from './learner'
import type { Answer, Ask, QuestionName } from './questions'
import type { Asked, Told } from './thread'

export { Stopped } from './learner'

/** How a work is watched: it tells how much is done, and is stopped by its signal. */
export interface Run {
  signal?: AbortSignal
  tell?: (share: number) => void
}

/** Whoever works forecasts out. */
export interface Forecaster {
  /** `known` gives the ledger of the key, and is asked only when it is not kept. Throws Stopped. */
  ask: <Name extends QuestionName>(
    key: Key,
    known: () => Promise<KnownLedger>,
    name: Name,
    ask: Ask<Name>,
    run: Run,
  ) => Promise<Answer<Name>>
  close: () => Promise<void>
}

const forecasters = new WeakMap<Sequelize, Forecaster>()

/** Forecasts of a database are worked out there from now on. */
export function keepForecaster(database: Handle, forecaster: Forecaster): void {
  forecasters.set(database.sequelize, forecaster)
}

/** A question about the ledger as it stood on a day, by all that is committed now. Throws Stopped. */
export async function askForecaster<Name extends QuestionName>(
  database: Handle,
  on: KnownOn,
  name: Name,
  ask: Ask<Name>,
  run: Run = {},
): Promise<Answer<Name>> {
  let forecaster = forecasters.get(database.sequelize)
  if (!forecaster) keepForecaster(database, (forecaster = forecasterHere()))
  return forecaster.ask(await keyOf(database, on), () => knownOn(database, on), name, ask, run)
}

/** In this very thread: for tests, scripts and jobs. */
export function forecasterHere(): Forecaster {
  const learner = new Learner()
  return {
    ask: async (key, known, name, ask, { signal, tell }) => {
      const ledger = learner.knows(key) ? null : await known()
      return learner.answer(key, ledger, name, ask, share => {
        if (signal?.aborted) throw new Stopped()
        tell?.(share)
      })
    },
    close: async () => {},
  }
}

interface Waiting {
  asked: Omit<Asked, 'known'>
  known: () => Promise<KnownLedger>
  tell?: (share: number) => void
  resolve: (answer: unknown) => void
  reject: (error: unknown) => void
}

/**
 * In a thread of its own, which is begun at once or with the first question, and anew when a fault ended it.
 */
export function forecasterInThread(begins: 'at once' | 'when asked' = 'when asked'): Forecaster {
  const waiting = new Map<number, Waiting>()
  let thread: Worker | undefined
  let last = 0

  const fail = (error: unknown): void => {
    for (const { reject } of waiting.values()) reject(error)
    waiting.clear()
  }
  async function sendKnown(one: Waiting): Promise<void> {
    try {
      const known = await one.known()
      thread?.postMessage({ ...one.asked, known } satisfies Asked, buffersOf(known))
    } catch (error) {
      waiting.delete(one.asked.id)
      one.reject(error)
    }
  }
  function hear(told: Told): void {
    const one = waiting.get(told.id)
    if (!one) return
    if ('share' in told) {
      one.tell?.(told.share)
      return
    }
    if ('needs' in told) {
      void sendKnown(one)
      return
    }
    waiting.delete(told.id)
    if ('answer' in told) one.resolve(told.answer)
    else one.reject(told.failed === 'stopped' ? new Stopped() : new Error('a forecast failed'))
  }
  function begun(): Worker {
    if (thread) return thread
    thread = new Worker(resolve('server/forecaster/start.mjs'), {
      env: process.env as Record<string, string>,
    })
    thread.on('message', hear)
    thread.on('error', error => log.error(faultOf(error), 'forecaster'))
    thread.on('exit', () => {
      thread = undefined
      fail(new Error('the forecaster ended'))
    })
    return thread
  }
  if (begins === 'at once') begun()
  return {
    ask: (key, known, name, ask, { signal, tell }) =>
      new Promise((resolve, reject) => {
        const stop = new SharedArrayBuffer(4)
        const id = ++last
        const asked = { id, key, name, ask, stop }
        waiting.set(id, { asked, known, tell, resolve: resolve as (answer: unknown) => void, reject })
        const halt = () => Atomics.store(new Int32Array(stop), 0, 1)
        if (signal?.aborted) halt()
        signal?.addEventListener('abort', halt, { once: true })
        begun().postMessage({ ...asked, known: null } satisfies Asked)
      }),
    close: async () => {
      await thread?.terminate()
    },
  }
}
