import type { z } from 'zod'
import type { Problem } from '~~/contract/common'
import type { Operation } from '~~/contract/operation'
import { proseText } from './format'

/** What the server refused, with a path for each fault. */
export class ApiProblem extends Error {
  constructor(readonly problem: Problem) {
    super(problem.detail)
  }
}

type In<S> = S extends z.ZodType ? z.input<S> : undefined
type Out<S> = S extends z.ZodType ? z.output<S> : undefined
interface Call<Q, B, P> {
  params?: In<P>
  query?: Partial<In<Q>>
  body?: In<B>
  key?: string
  headers?: Record<string, string>
  signal?: AbortSignal
}

export function urlOf(operation: Pick<Operation, 'path'>, params: object = {}, query: object = {}): string {
  const path = operation.path.replace(/\{(\w+)\}/g, (_, name: string) =>
    encodeURIComponent(String((params as Record<string, unknown>)[name])),
  )
  const search = new URLSearchParams(
    Object.entries(query)
      .filter(([, v]) => v !== undefined && v !== '' && v !== null)
      .map(([k, v]) => [k, String(v)]),
  )
  return search.size ? `${path}?${search}` : path
}

/** Asks the server; throws ApiProblem for whatever is no answer. */
async function asked<Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType, P extends z.ZodType>(
  operation: Operation<Q, B, R, P>,
  options: Call<Q, B, P> = {},
): Promise<Response> {
  let response: Response
  try {
    response = await fetch(urlOf(operation, options.params as object, options.query as object), {
      method: operation.method.toUpperCase(),
      signal: options.signal,
      headers: {
        ...(options.body !== undefined ? { 'content-type': operation.bodyType ?? 'application/json' } : {}),
        ...(options.key ? { 'idempotency-key': options.key } : {}),
        ...options.headers,
      },
      body:
        options.body === undefined
          ? undefined
          : operation.bodyType
            ? (options.body as string)
            : JSON.stringify(options.body),
    })
  } catch (error) {
    if ((error as Error).name === 'AbortError') throw error
    throw new ApiProblem({
      type: 'about:blank',
      title: 'No connection',
      status: 0,
      detail: 'the server does not answer: check that it runs, then try again',
    })
  }
  if (response.ok) return response
  const problem = (await response.json()) as Problem
  if (response.status === 401 && operation.ability)
    await navigateTo({ path: '/sign-in', query: { to: useRoute().fullPath } })
  throw new ApiProblem(problem)
}

/**
 * Calls an operation of the contract; throws ApiProblem. A posting sent with a key may be sent again safely.
 */
export async function call<
  Q extends z.ZodType,
  B extends z.ZodType,
  R extends z.ZodType,
  P extends z.ZodType,
>(operation: Operation<Q, B, R, P>, options: Call<Q, B, P> = {}): Promise<Out<R>> {
  const response = await asked(operation, options)
  return (response.status === 204 ? undefined : await response.json()) as Out<R>
}

/** The same for an answer that is a file, such as a letter. */
export async function callFile<
  Q extends z.ZodType,
  B extends z.ZodType,
  R extends z.ZodType,
  P extends z.ZodType,
>(operation: Operation<Q, B, R, P>, options: Call<Q, B, P> = {}): Promise<Blob> {
  return (await asked(operation, options)).blob()
}

export const problemText = (error: unknown): string =>
  proseText(
    error instanceof Error ? error.message.charAt(0).toUpperCase() + error.message.slice(1) : String(error),
  )
