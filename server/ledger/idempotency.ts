import { createHash } from 'node:crypto'
import { Busy } from '../db/patience'
import { inserting, type Handle } from '../db/handle'
import { backOff, codeOf, messageOf, TRIES } from '../db/retry'
import { LedgerRefused } from './refused'

/** From the Idempotency-Key header; a repeated key answers with the first result. */
export interface Idempotency {
  key: string
  request: unknown
}

interface Who {
  id: number
}

const hashOf = (request: unknown) => createHash('sha256').update(JSON.stringify(request)).digest('hex')

/** What the first request with this key was answered. Throws when the key was used for another. */
export async function firstResult<Result>(
  db: Handle,
  actor: Who,
  { key, request }: Idempotency,
): Promise<{ result: Result } | undefined> {
  const [first] = await db.find(
    'idempotency',
    { person_id: actor.id, idempotency_key: key },
    { columns: ['request_hash', 'result'] },
  )
  if (!first) return undefined
  if (first.request_hash === hashOf(request)) return { result: JSON.parse(first.result) as Result }
  throw new LedgerRefused([
    {
      rule: 'idempotency.reused',
      path: 'Idempotency-Key',
      message: 'this key was used for another request',
      satisfy: 'use a new key for a new request',
    },
  ])
}

/** Keeps what was answered, with all else that the transaction writes. */
export function keepResult(tx: Handle, actor: Who, { key, request }: Idempotency, result: unknown): void {
  const row = {
    person_id: actor.id,
    idempotency_key: key,
    request_hash: hashOf(request),
    result: JSON.stringify(result),
  }
  tx.defer(inserting('idempotency', [row]))
}

/** Whether the twin of this very request came first: asked again, it is answered as that one was. */
export const isTwin = (error: unknown, idempotency: Idempotency | undefined): boolean =>
  // Its row goes to the database with others, so the key itself says which of them was there already.
  idempotency !== undefined &&
  codeOf(error) === 'ER_DUP_ENTRY' &&
  messageOf(error).includes(`-${idempotency.key}'`)

/**
 * Work in one transaction that is done once for a key, for what is kept and posts nothing yet. `work` answers
 * plain JSON.
 */
export async function once<Result>(
  database: Handle,
  actor: Who,
  idempotency: Idempotency | undefined,
  work: (tx: Handle) => Promise<Result>,
): Promise<Result> {
  if (!idempotency) return database.transaction(work)
  const lastWait = database.patience.lastWait()
  for (let attempt = 1; ; attempt++) {
    try {
      return await database.transaction(async tx => {
        const first = await firstResult<Result>(tx, actor, idempotency)
        if (first) return first.result
        const result = await work(tx)
        keepResult(tx, actor, idempotency, result)
        return result
      })
    } catch (error) {
      if (attempt >= TRIES || !isTwin(error, idempotency)) throw error
      if (Date.now() > lastWait) throw new Busy('others are working on the same at this moment')
      await backOff(attempt)
    }
  }
}
