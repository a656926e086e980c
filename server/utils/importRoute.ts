import { getHeader, type EventHandler } from 'h3'
import type { z } from 'zod'
import type { Operation } from '../../contract/operation'
import { cancelJob, followJob, queueJob, type JobKind } from '../services/jobs/jobs'
import { ProblemError } from '../services/common/problems'
import { Queued } from './answer'
import { endpoint, type Answer, type Context } from './endpoint'

/** The answer that a job left in the database, as the operation says it. */
function answerOf<R extends z.ZodType>({ response }: { response?: R }, kept: unknown): Answer<R> {
  return response!.parse(kept) as Answer<R>
}

/**
 * What a route asks for is a job; by default the answer waits for it, with `Prefer: respond-async` (RFC 7240)
 * it comes at once.
 */
export function jobRoute<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType, P extends z.ZodType>(
  operation: Operation<Q, B, R, P>,
  kind: JobKind,
  ask: (context: Context<Q, B, P>) => { options: object; upload: Buffer },
): EventHandler {
  return endpoint(operation, async (context): Promise<Answer<R> | Queued> => {
    const { event, database, actor } = context
    const { options, upload } = ask(context)
    const id = await queueJob(database, actor.id, kind, options, upload)
    if (getHeader(event, 'prefer')?.includes('respond-async')) return new Queued(id)
    let gone = false
    event.node.res.once('close', () => {
      gone = !event.node.res.writableEnded
    })
    const job = await followJob(
      database,
      id,
      actor,
      () => {},
      () => gone,
    )
    if (gone) await cancelJob(database, id, actor)
    if (job.state !== 'done')
      throw new ProblemError(
        job.status ?? (job.state === 'failed' ? 500 : 409),
        kind === 'bank-statement' ? 'Not taken in' : 'Nothing was imported',
        job.detail || 'the import was stopped',
        job.errors,
      )
    return answerOf(operation, job.result)
  })
}
