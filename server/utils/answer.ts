import { isDeepStrictEqual } from 'node:util'
import { z } from 'zod'
import type { Operation } from '../../contract/operation'
import { checksRows } from '../db/rows'

/** What a handler answers whose work became a job: 202, with where the job is told of. */
export class Queued {
  constructor(readonly job: number) {}
}

/** Where two values differ, as a path; the first place that is met. */
function firstDifference(said: unknown, sent: unknown, path = ''): string {
  if (typeof said !== 'object' || typeof sent !== 'object' || !said || !sent) return path || 'the whole'
  const [left, right] = [said as Record<string, unknown>, sent as Record<string, unknown>]
  const differs = [...new Set([...Object.keys(left), ...Object.keys(right)])].find(
    name => !isDeepStrictEqual(left[name], right[name]),
  )
  return differs === undefined
    ? path
    : firstDifference(left[differs], right[differs], path ? `${path}.${differs}` : differs)
}

/**
 * Throws when an answer is not what its operation says, or holds a field that the contract does not know. In
 * tests, browser tests and simulations each answer is held against its schema; types alone let more fields
 * pass.
 */
export function checkAnswer(operation: Operation, result: unknown): void {
  if (!checksRows || !operation.response) return
  const sent: unknown = JSON.parse(JSON.stringify(result ?? null))
  const checked = operation.response.safeParse(sent)
  const where = `the answer of ${operation.method} ${operation.path}`
  if (!checked.success)
    throw new Error(`${where} is not what its schema says: ${z.prettifyError(checked.error)}`)
  if (!isDeepStrictEqual(checked.data, sent))
    throw new Error(`${where} holds what its schema does not know: ${firstDifference(checked.data, sent)}`)
}
