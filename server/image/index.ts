import { resolve } from 'node:path'
import { Worker } from 'node:worker_threads'
import type { Sequelize } from 'sequelize'
import type { Handle } from '../db/handle'
import { faultOf, log } from '../log'
import { Image, mostBytes, TooLarge } from './image'
import type { Asked, Told } from './keeper'
import { answer, type Answer, type Ask, type QuestionName } from './questions'

export { answer, type AgingPage, type MeasuresGroup, type Wanted } from './questions'
export { addAccounts } from './feed'
export { slicesOf } from './slices'

/**
 * While the ledger is read into memory at the start, a question goes to the tables at once, or waits: what
 * the tables answer slowly is answered sooner by waiting.
 */
export type Patience = 'at once' | 'waits'

/** Whoever answers questions from memory; null when it cannot now, and the tables are to be asked. */
export interface Keeper {
  ask: <Name extends QuestionName>(
    name: Name,
    ask: Ask<Name>,
    patience?: Patience,
  ) => Promise<Answer<Name> | null>
  /** What it takes and holds; null before it is filled. */
  size: () => { bytes: number; items: number } | null
  close: () => Promise<void>
}

const keepers = new WeakMap<Sequelize, Keeper>()

/** The image of a database answers from now on. */
export function keepImage(database: Handle, keeper: Keeper | null): void {
  if (keeper) keepers.set(database.sequelize, keeper)
  else keepers.delete(database.sequelize)
}

/** Asks the ledger in memory; null when there is none, or inside a transaction: the tables answer then. */
export async function askImage<Name extends QuestionName>(
  database: Handle,
  name: Name,
  ask: Ask<Name>,
  patience: Patience = 'at once',
): Promise<Answer<Name> | null> {
  if (database.inTransaction) return null
  return (await keepers.get(database.sequelize)?.ask(name, ask, patience)) ?? null
}

/** What the image of a database takes; null without one. */
export const imageSize = (database: Handle) => keepers.get(database.sequelize)?.size() ?? null

/** An image in this very thread: for tests, scripts and jobs. */
export function imageHere(database: Handle, most = mostBytes()): Keeper {
  const image = new Image(database, most)
  let isFull = false
  let turn: Promise<unknown> = Promise.resolve()
  const inTurn = async <Name extends QuestionName>(name: Name, ask: Ask<Name>) => {
    try {
      await image.catchUp()
    } catch (error) {
      if (!(error instanceof TooLarge)) throw error
      return null
    }
    isFull = true
    return answer(image, name, ask)
  }
  return {
    ask: (name, ask) => {
      const mine = turn.then(() => inTurn(name, ask))
      turn = mine.catch(() => {})
      return mine
    },
    size: () => (isFull ? { bytes: image.bytes, items: image.ledger.items.count } : null),
    close: async () => {},
  }
}

/** So long after its thread ended by itself another is begun. */
const AGAIN_MS = 2000

/** An image in a thread of its own, filled from DATABASE_URL; begun anew when it ends by a fault. */
export function imageInThread(): Keeper {
  const waiting = new Map<number, (answer: unknown) => void>()
  let thread: Worker | undefined
  let size: { bytes: number; items: number } | null = null
  let last = 0
  let stopped = false
  /** Called when it is filled, or will not be. */
  let settle = () => {}
  let settled = Promise.resolve()

  const nothingMore = () => {
    size = null
    for (const resolve of waiting.values()) resolve(null)
    waiting.clear()
  }
  const begin = (): void => {
    settled = new Promise(resolve => (settle = resolve))
    thread = new Worker(resolve('server/image/start.mjs'), { env: process.env as Record<string, string> })
    thread.on('message', (told: Told) => {
      if ('state' in told) {
        if (told.state === 'too large') stopped = true
        size = told.state === 'ready' ? { bytes: told.bytes, items: told.items } : null
        settle()
        return
      }
      const done = waiting.get(told.id)
      waiting.delete(told.id)
      done?.('answer' in told ? told.answer : null)
    })
    thread.on('error', error => log.error(faultOf(error), 'image'))
    thread.on('exit', () => {
      nothingMore()
      settle()
      if (!stopped) setTimeout(begin, AGAIN_MS)
    })
  }
  if (mostBytes() > 0) begin()
  return {
    ask: async (name, ask, patience) => {
      if (!size && patience === 'waits') await settled
      if (!size || !thread) return null
      const id = ++last
      const asked: Asked = { id, name, ask }
      return new Promise(resolve => {
        waiting.set(id, resolve as (answer: unknown) => void)
        thread!.postMessage(asked)
      })
    },
    size: () => size,
    close: async () => {
      stopped = true
      await thread?.terminate()
      nothingMore()
      settle()
    },
  }
}
