import {
  defineEventHandler,
  getRouterParams,
  getQuery,
  getHeader,
  setHeader,
  setResponseStatus,
  type EventHandler,
  type H3Event,
} from 'h3'
import type { Handle } from '../db/handle'
import { z } from 'zod'
import type { Fault } from '../../contract/common'
import type { Operation } from '../../contract/operation'
import { requireAbility } from '../ledger/rights'
import { db } from '../db/connection'
import { requireRoom } from '../db/room'
import { ProblemError } from '../services/common/problems'
import { scopeOf, type Actor, type Scope } from '../services/people/scope'
import type { SignedIn } from '../services/people/sessions'
import { admit } from './admission'
import { checkAnswer, Queued } from './answer'
import { boundedBody } from './body'
import { answerProblem } from './problem'
import { requireSession } from './session'

const MAX_JSON = 4 * 1024 * 1024
export const MAX_UPLOAD = 48 * 1024 * 1024

type Out<S> = S extends z.ZodType ? z.output<S> : undefined
export interface Context<Q, B, P> {
  event: H3Event
  database: Handle
  query: Out<Q>
  body: Out<B>
  params: Out<P>
  actor: Actor
  sessionId: number
  scope: Scope
  /** From the Idempotency-Key header, with what the request asked for. */
  idempotency: { key: string; request: unknown } | undefined
}

/** What a handler answers: what the contract says; a file, or nothing, where it says no schema. */
export type Answer<R> = R extends z.ZodType ? z.output<R> : unknown
type Answered<R> = Answer<R> | Queued
type Handler<Q, B, R, P> = (context: Context<Q, B, P>) => Promise<Answered<R>> | Answered<R>

/**
 * A route from its operation: checks rights and request, calls the handler, answers JSON or a problem
 * document. A handler that answers anything but what the operation says does not compile.
 */
export function endpoint<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType, P extends z.ZodType>(
  operation: Operation<Q, B, R, P>,
  handler: Handler<Q, B, R, P>,
): EventHandler {
  return defineEventHandler(async event => {
    setHeader(event, 'cache-control', 'no-store')
    event.context.route = operation.path
    try {
      const work = () => answer(event, operation, handler)
      return await (operation.always ? work() : admit(work))
    } catch (error) {
      return answerProblem(event, error)
    }
  })
}

async function answer<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType, P extends z.ZodType>(
  event: H3Event,
  operation: Operation<Q, B, R, P>,
  handler: Handler<Q, B, R, P>,
): Promise<Answer<R> | { job: number } | null> {
  checkOrigin(event)
  if (changes(operation)) requireRoom()
  const database = db()
  const signedIn = operation.ability ? await allowed(event, database, operation) : undefined
  const params = operation.params
    ? check(operation.params, getRouterParams(event, { decode: true }), 404)
    : undefined
  const query = operation.query ? check(operation.query, getQuery(event), 400) : undefined
  const body = operation.body ? await readOperationBody(event, operation) : undefined
  const key = idempotencyKey(event)
  const result = await handler({
    event,
    database,
    query,
    body,
    params,
    actor: signedIn?.actor,
    sessionId: signedIn?.sessionId,
    scope: signedIn ? scopeOf(signedIn.actor) : {},
    idempotency: key ? { key, request: { path: operation.path, params, body } } : undefined,
  } as Context<Q, B, P>)
  if (result instanceof Queued) {
    setResponseStatus(event, 202)
    setHeader(event, 'location', `/api/jobs/${result.job}`)
    return { job: result.job }
  }
  checkAnswer(operation, result)
  if (operation.status === 204) {
    setResponseStatus(event, 204)
    return null
  }
  if (operation.status && result !== undefined) setResponseStatus(event, operation.status)
  return result
}

/** Whether it may write more than a few bytes; who signs in to look may do so on a full disk. */
const changes = ({ method, path }: Operation) => method !== 'get' && !path.startsWith('/api/session')

function idempotencyKey(event: H3Event): string | undefined {
  const key = getHeader(event, 'idempotency-key')
  if (key !== undefined && !/^[\x21-\x7e]{1,80}$/.test(key))
    throw new ProblemError(
      400,
      'Not a key',
      'an Idempotency-Key has 1 to 80 printable characters without spaces',
      [{ path: 'Idempotency-Key', message: 'not a key' }],
    )
  return key
}

/**
 * A cookie is sent by browsers on their own: a request that changes something must come from our own pages.
 */
function checkOrigin(event: H3Event): void {
  const origin = getHeader(event, 'origin')
  if (event.method === 'GET' || event.method === 'HEAD' || !origin) return
  let host: string | undefined
  try {
    host = new URL(origin).host
  } catch {
    /* "null" and the like are refused below */
  }
  if (host !== getHeader(event, 'host'))
    throw new ProblemError(
      403,
      'Wrong origin',
      'this request came from another site: use the application itself',
    )
}

/** Who asks, when they may ask this; a first password must be changed before anything else is answered. */
async function allowed(event: H3Event, database: Handle, operation: Operation): Promise<SignedIn> {
  const signedIn = await requireSession(event, database)
  event.context.personId = signedIn.actor.id
  if (signedIn.mustChange && !operation.evenFirst)
    throw new ProblemError(
      403,
      'Password to change',
      'your password was given to you by somebody else: choose one of your own first',
    )
  requireAbility(signedIn.actor, operation.ability!)
  return signedIn
}

async function readOperationBody(event: H3Event, operation: Operation): Promise<unknown> {
  const type = (getHeader(event, 'content-type') ?? '').split(';')[0]!.trim().toLowerCase()
  const csv = operation.bodyType === 'text/csv'
  // A file may be sent as whatever its sender takes it for; its beginning tells what it is.
  if (
    operation.bodyType !== 'application/octet-stream' &&
    (csv ? type !== 'text/csv' : type && type !== 'application/json')
  ) {
    throw new ProblemError(
      415,
      'Wrong media type',
      `send this as ${operation.bodyType ?? 'application/json'}`,
    )
  }
  const binary = operation.bodyType === 'application/octet-stream'
  const bytes = await boundedBody(event, csv || binary ? MAX_UPLOAD : MAX_JSON)
  if (binary) return bytes
  let text: string
  try {
    text = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(bytes)
  } catch {
    throw new ProblemError(422, 'Not UTF-8', 'the file is not UTF-8 text: save it again as UTF-8')
  }
  if (csv) return text
  let json: unknown
  try {
    json = text ? JSON.parse(text) : {}
  } catch {
    throw new ProblemError(400, 'Not JSON', 'the body is not JSON: check its commas and quotes')
  }
  return check(operation.body!, json, 422)
}

function check<S extends z.ZodType>(schema: S, value: unknown, status: number): z.output<S> {
  const result = schema.safeParse(value)
  if (result.success) return result.data
  const errors = result.error.issues.map((i): Fault => ({
    path: i.path.join('.') || 'body',
    message: i.message,
  }))
  throw new ProblemError(
    status,
    status === 404 ? 'Not found' : 'Not as asked',
    `${errors[0]!.path}: ${errors[0]!.message}`,
    errors,
  )
}
