import { parentPort } from 'node:worker_threads'
import { openDatabase } from '../db/connection'
import type { KnownLedger } from '../../core/forecast'
import { buffersOf } from '../forecaster/buffers'
import { faultOf, log } from '../log'
import { Image, TooLarge } from './image'
import { answer, type QuestionName } from './questions'

/*
 * The thread that keeps the ledger of its process in memory. It answers questions one after another, each on
 * the ledger as it is committed when its turn comes. What it cannot answer goes to the tables.
 */

export interface Asked {
  id: number
  name: QuestionName
  ask: unknown
}

export type Told =
  | { id: number; answer: unknown; milliseconds: number }
  | { id: number; failed: true }
  | { state: 'ready' | 'too large'; bytes: number; items: number }

const port = parentPort!
const database = openDatabase(process.env.DATABASE_URL!, 2)
const image = new Image(database)
const waiting: Asked[] = []
let wake = () => {}

port.on('message', (asked: Asked) => {
  waiting.push(asked)
  wake()
})

const tell = (told: Told, moved: ArrayBuffer[] = []) => port.postMessage(told, moved)

function answerAll(batch: readonly Asked[]): void {
  for (const { id, name, ask } of batch) {
    const started = performance.now()
    try {
      const found = answer(image, name, ask as never)
      const moved = name === 'known' ? buffersOf(found as KnownLedger) : []
      tell({ id, answer: found, milliseconds: performance.now() - started }, moved)
    } catch (error) {
      log.error({ ...faultOf(error), question: name }, 'image')
      tell({ id, failed: true })
    }
  }
}

/** Brings the image up to date, and answers all that was asked before that. */
async function round(): Promise<'go on' | 'too large'> {
  const batch = waiting.splice(0)
  try {
    await image.catchUp()
  } catch (error) {
    for (const { id } of batch) tell({ id, failed: true })
    if (error instanceof TooLarge) {
      log.warn(error.message)
      return 'too large'
    }
    log.warn(faultOf(error), 'image')
    return 'go on'
  }
  answerAll(batch)
  return 'go on'
}

/** Whoever waits for the first answer, or for none any more, is told. */
const told = (state: 'ready' | 'too large') =>
  tell({ state, bytes: image.bytes, items: image.ledger.items.count })

let isFitting = (await round()) === 'go on'
if (isFitting) told('ready')
while (isFitting) {
  if (!waiting.length) await new Promise<void>(resolve => (wake = resolve))
  isFitting = (await round()) === 'go on'
}
// It ends by itself, so that what was told last is heard: nobody begins it anew.
told('too large')
await database.close()
port.close()
