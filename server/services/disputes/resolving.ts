import type { z } from 'zod'
import type { disputes as operations, DisputeRow } from '../../../contract/disputes'
import type { Handle } from '../../db/handle'
import type { Idempotency } from '../../ledger/idempotency'
import { performOrKeep } from '../../ledger/waiting'
import { sendUpheld } from '../letters/others'
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
  const { letter, ...ask } = body
  const { waiting } = await performOrKeep(database, actor, resolveCommand, { ...ask, id }, idempotency)
  if (waiting === null && letter && body.resolution === 'upheld') await sendUpheld(database, actor, id)
  return { dispute: await readDispute(database, id, {}), waiting: waiting?.id ?? null }
}
