import type { z } from 'zod'
import type { Ability } from '../core/people'

type Shape = z.ZodType

/** One request of the API: route checks, types and the OpenAPI document all come from it. */
export interface Operation<
  Q extends Shape = Shape,
  B extends Shape = Shape,
  R extends Shape = Shape,
  P extends Shape = Shape,
> {
  method: 'get' | 'post' | 'put' | 'delete'
  path: string
  summary: string
  /** Null: open to everyone, signed in or not. */
  ability: Ability | null
  /** Answered also when too many requests are in work. */
  always?: true
  /** Answered also before a first password is changed. */
  evenFirst?: true
  params?: P
  query?: Q
  body?: B
  /** Request media type when it is not JSON. */
  bodyType?: string
  response?: R
  /** Response media type when it is not JSON. */
  responseType?: string | readonly string[]
  status?: number
  /** Statuses beside it that answer the same. */
  also?: readonly number[]
  /** Done by a job; with `Prefer: respond-async` (RFC 7240) the answer is 202 and tells where. */
  job?: true
}

export function operation<Q extends Shape, B extends Shape, R extends Shape, P extends Shape>(
  o: Operation<Q, B, R, P>,
): Operation<Q, B, R, P> {
  return o
}
