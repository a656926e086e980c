import type { z } from 'zod'
import type { disputes as operations, DisputeRow } from '../../../contract/disputes'
import type { Handle } from '../../db/handle'
import type { Idempotency } from '../../ledger/idempotency'
import { performOrKeep } from '../../ledger/waiting'
import type { Actor } from '../people/scope'
import { readDispute, resolveCommand } from './disputes'

/** Resolves a dispute, or lets a resolution that gives money up wait for a second person. */
export async function resolveDispute(
  database: Handle,
  actor: Actor,
  id: number,
  body: z.output<NonNullable<(typeof operations.resolve)['body']>>,
  idempotency?: Idempotency,
): Promise<{ dispute: DisputeRow; waiting: number | null }> {
  const { letter: _, ...ask } = body
  const { waiting } = await performOrKeep(database, actor, resolveCommand, { ...ask, id }, idempotency)
  return { dispute: await readDispute(database, id, {}), waiting: waiting?.id ?? null }
}
