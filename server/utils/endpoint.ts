import {
  defineEventHandler,
  getRouterParams,
  getQuery,
  getHeader,
  setHeader,
  setResponseStatus,
  useSession,
  type EventHandler,
  type H3Event,
} from 'h3'
import type { Handle } from '../db/handle'
import { z } from 'zod'
import type { Fault, Problem } from '../../contract/common'
import type { Operation } from '../../contract/operation'
import { ABILITIES, can, rolesThatCan } from '../../core/people'
import { db } from '../db/connection'
import { LedgerRefused } from '../ledger/command'
import { findActor } from '../services/people/people'
import { ProblemError } from '../services/common/problems'
import { scopeOf, type Actor, type Scope } from '../services/people/scope'
import { boundedBody } from './body'

const MAX_JSON = 4 * 1024 * 1024
export const MAX_UPLOAD = 48 * 1024 * 1024
const HOURS = 12

export function session(event: H3Event) {
  const password = process.env.BILANCIO_SESSION_SECRET
  if (!password) throw new Error('BILANCIO_SESSION_SECRET is not set')
  return useSession<{ personId?: number }>(event, {
    password,
    name: 'bilancio',
    maxAge: HOURS * 3600,
    sessionHeader: false,
    cookie: { httpOnly: true, sameSite: 'strict', path: '/', secure: process.env.BILANCIO_HTTPS === '1' },
  })
}

type Out<S> = S extends z.ZodType ? z.output<S> : undefined
export interface Context<Q, B, P> {
  event: H3Event
  database: Handle
  query: Out<Q>
  body: Out<B>
  params: Out<P>
  actor: Actor
  scope: Scope
  /** From the Idempotency-Key header, with what the request asked for. */
  idempotency: { key: string; request: unknown } | undefined
}

/**
 * A route from its operation: checks rights and request, calls the handler, answers JSON or a problem
 * document.
 */
export function endpoint<
  Q extends z.ZodType,
  B extends z.ZodType,
  R extends z.ZodType,
  P extends z.ZodType,
  T,
>(operation: Operation<Q, B, R, P>, handler: (context: Context<Q, B, P>) => Promise<T> | T): EventHandler {
  return defineEventHandler(async event => {
    setHeader(event, 'cache-control', 'no-store')
    try {
      checkOrigin(event)
      const database = db()
      const actor = operation.ability ? await requireActor(event, database, operation) : undefined
      const params = operation.params
        ? check(operation.params, getRouterParams(event, { decode: true }), 404)
        : undefined
      const query = operation.query ? check(operation.query, getQuery(event), 400) : undefined
      const body = operation.body ? await readOperationBody(event, operation) : undefined
      const key = getHeader(event, 'idempotency-key')
      if (key !== undefined && !/^[\x21-\x7e]{1,80}$/.test(key))
        throw new ProblemError(
          400,
          'Not a key',
          'an Idempotency-Key has 1 to 80 printable characters without spaces',
          [{ path: 'Idempotency-Key', message: 'not a key' }],
        )
      const answer = await handler({
        event,
        database,
        query,
        body,
        params,
        actor: actor!,
        scope: actor ? scopeOf(actor) : {},
        idempotency: key ? { key, request: { path: operation.path, params, body } } : undefined,
      } as Context<Q, B, P>)
      if (operation.status && answer !== undefined) setResponseStatus(event, operation.status)
      if (operation.status === 204) {
        setResponseStatus(event, 204)
        return null
      }
      return answer
    } catch (error) {
      const problem = problemOf(error)
      setResponseStatus(event, problem.status)
      setHeader(event, 'content-type', 'application/problem+json')
      if (problem.status === 429) setHeader(event, 'retry-after', 600)
      return problem
    }
  })
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

async function requireActor(event: H3Event, database: Handle, operation: Operation): Promise<Actor> {
  const { data } = await session(event)
  const actor = data.personId ? await findActor(database, data.personId) : undefined
  if (!actor) throw new ProblemError(401, 'Not signed in', 'sign in first: POST /api/session')
  const ability = operation.ability!
  if (!can(actor.role, ability)) {
    throw new ProblemError(
      403,
      'Not allowed',
      `a ${actor.role} may not ${ABILITIES[ability]}: ask a ` +
        `${rolesThatCan(ability).slice(0, 2).join(' or ')}`,
    )
  }
  return actor
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

const problem = (status: number, title: string, detail: string, errors?: Fault[]): Problem => ({
  type: 'about:blank',
  title,
  status,
  detail,
  ...(errors?.length ? { errors } : {}),
})

export function problemOf(error: unknown): Problem {
  if (error instanceof ProblemError) return problem(error.status, error.title, error.message, error.errors)
  if (error instanceof LedgerRefused)
    return problem(
      409,
      'Refused by the ledger',
      error.message,
      error.refusals.map(r => ({ path: r.path, message: r.message, rule: r.rule, satisfy: r.satisfy })),
    )
  const code = (error as { original?: { code?: string } }).original?.code
  if (code === 'ER_DUP_ENTRY')
    return problem(
      409,
      'Taken meanwhile',
      'someone else saved the same number meanwhile: reload and try again',
    )
  const status = (error as { statusCode?: number }).statusCode
  if (status && status >= 400 && status < 500)
    return problem(status, 'Not as asked', (error as Error).message)
  console.error(
    '[api]',
    (error as { original?: Error }).original?.message ?? '',
    error instanceof Error ? error.stack : error,
  )
  if (
    code === 'ECONNREFUSED' ||
    code === 'PROTOCOL_CONNECTION_LOST' ||
    (error as Error).name === 'SequelizeConnectionRefusedError'
  ) {
    return problem(
      503,
      'No database',
      'the database does not answer: nothing was changed, try again in a moment',
    )
  }
  return problem(
    500,
    'Our fault',
    'something went wrong on our side, nothing was changed: try again, and tell us if it happens twice',
  )
}
