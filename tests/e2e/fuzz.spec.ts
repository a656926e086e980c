import type { APIRequestContext } from '@playwright/test'
import fc from 'fast-check'
import { z } from 'zod'
import { operations } from '../../contract'
import type { Operation } from '../../contract/operation'
import { hostileFiles } from '../fuzz/files'
import { rightBodies } from '../fuzz/bodies'
import { bent, hostileText, valuesOf, type Schema } from '../fuzz/values'
import { expect, test } from './base'
import { openWorld, verify, type World } from './world'

/*
 * Whatever is sent, the answer is a result or a problem that says what would be right; never a fault of ours.
 * Requests are made from the schemas of the contract, right ones and wrong ones mixed; the seed is fixed, and
 * FUZZ_SEED and FUZZ_RUNS try others, longer.
 */

const SEED = Number(process.env.FUZZ_SEED ?? 20_261_126)
/** Requests for each operation. */
const RUNS = Number(process.env.FUZZ_RUNS ?? 24)
const AT_ONCE = 4
const MOST_BYTES = 8 * 1024 * 1024

/** These would sign the one who tries out, or change who may do what. */
const LEFT_OUT = /^(delete \/api\/session|put \/api\/session|(put|delete) \/api\/people)/

let world: World
test.setTimeout(600_000)
test.beforeAll(async () => {
  world = await openWorld()
  // Some of each thing, so that what is asked about the first ones finds them.
  const { administrator, controller } = world.as
  // Asked for by somebody else, so that who tries out may decide it.
  for (const number of ['K1', 'K2', 'K3'])
    await controller.put(`/api/accounts/${number}`, {
      data: { version: 1, set: { creditLimit: 70_000 }, reason: 'grows' },
    })
  // Without a creditor identifier nothing is collected.
  const { paymentPolicy } = (await (await administrator.get('/api/settings')).json()) as {
    paymentPolicy: object
  }
  const collecting = { ...paymentPolicy, creditorId: 'DE98ZZZ09999999999' }
  const kept = await administrator.put('/api/settings', { data: { paymentPolicy: collecting } })
  expect(kept.status()).toBe(200)
  const [facility] = rightBodies(world.today)['put /api/factoring/facilities/{code}']!
  const factor = await administrator.put('/api/factoring/facilities/TERN', { data: facility as object })
  expect(factor.status()).toBe(200)
  for (const [named, bodies] of Object.entries(rightBodies(world.today))) {
    const [method, path] = named.split(' ') as [string, string]
    const { bodyType } = operations.find(o => `${o.method} ${o.path}` === named)!
    if (method !== 'post' || path.includes('{') || path.endsWith('preview')) continue
    for (const body of bodies)
      await administrator.post(path + (path.endsWith('statements') ? '?account=1' : ''), {
        data: body,
        headers: { 'content-type': bodyType ?? 'application/json' },
      })
  }
})
test.afterAll(() => world.close())

interface Asked {
  operation: Operation
  path: string
  body: unknown
  headers: Record<string, string>
}

const schemaOf = (schema: z.ZodType | undefined): Schema =>
  schema ? (z.toJSONSchema(schema, { io: 'input', unrepresentable: 'any' }) as Schema) : {}

const asText = (value: unknown): string => (typeof value === 'string' ? value : JSON.stringify(value))

/** Encodes what can be encoded; half a surrogate pair cannot, and goes as a broken escape. */
function encoded(text: string): string {
  try {
    return encodeURIComponent(text)
  } catch {
    return '%ED%A0%80'
  }
}

/** By the schema, or, where the tests know one, a right one that was bent. */
function bodiesOf(operation: Operation): fc.Arbitrary<unknown> {
  const right = rightBodies(world.today)[`${operation.method} ${operation.path}`] ?? []
  const bySchema = operation.bodyType
    ? fc.constantFrom('', 'a,b\n1,2\n', '<a/>', '{}')
    : valuesOf(schemaOf(operation.body))
  return right.length ? fc.oneof(bySchema, ...right.map(bent), ...right.map(bent)) : bySchema
}

function requestsOf(operation: Operation): fc.Arbitrary<Asked> {
  const params = schemaOf(operation.params).properties ?? {}
  return fc
    .record({
      params: fc.record(
        Object.fromEntries(Object.entries(params).map(([name, schema]) => [name, valuesOf(schema)])),
      ),
      query: valuesOf(schemaOf(operation.query)),
      body: bodiesOf(operation),
      // As it is when nothing else is asked: a right one among them.
      plain: fc.boolean(),
      key: fc.option(hostileText, { freq: 8 }),
    })
    .map(made => {
      let path = operation.path
      for (const [name, value] of Object.entries(made.params))
        path = path.replace(`{${name}}`, encoded(asText(value)) || '%20')
      const query = Object.entries(made.plain ? {} : ((made.query ?? {}) as object))
        .map(([k, v]) => `${encoded(k)}=${encoded(asText(v))}`)
        .join('&')
      const plainKey = made.key?.replace(/[^\x20-\x7e]/g, '').slice(0, 120)
      return {
        operation,
        path: query ? `${path}?${query}` : path,
        body: operation.body ? made.body : undefined,
        headers: {
          'content-type': operation.bodyType ?? 'application/json',
          ...(plainKey ? { 'idempotency-key': plainKey } : {}),
        },
      }
    })
}

/** Of each operation, how often it was answered as asked: a fuzz that is always refused tries nothing. */
const accepted = new Map<Operation, number>()

async function answersWell(by: APIRequestContext, asked: Asked): Promise<string | undefined> {
  const { operation, path, body, headers } = asked
  const begun = Date.now()
  const answer = await by.fetch(path, {
    method: operation.method.toUpperCase(),
    headers,
    ...(body === undefined
      ? {}
      : { data: typeof body === 'string' ? Buffer.from(body) : JSON.stringify(body) }),
    maxRedirects: 0,
  })
  const told = `${operation.method} ${path.slice(0, 300)} ${asText(body ?? '').slice(0, 800)}`
  const status = answer.status()
  const bytes = await answer.body()
  if (status < 300) accepted.set(operation, (accepted.get(operation) ?? 0) + 1)
  if (status >= 500) return `${status} for ${told}: ${bytes.toString().slice(0, 300)}`
  if (bytes.length > MOST_BYTES) return `${bytes.length} bytes for ${told}`
  // A file that is taken in as a job waits for those before it.
  if (Date.now() - begun > (operation.bodyType ? 60_000 : 10_000))
    return `${Date.now() - begun} ms for ${told}`
  // What is no request at all, such as a path that cannot be decoded, is answered before us.
  if (status >= 400 && !answer.headers()['content-type']?.includes('json'))
    return `no problem document: ${told}`
  return undefined
}

/** All of them, a few at a time; answers what went wrong. */
async function tryAll(list: readonly Asked[], by: APIRequestContext): Promise<string[]> {
  const faults: string[] = []
  const queue = [...list]
  await Promise.all(
    Array.from({ length: AT_ONCE }, async () => {
      for (let asked = queue.shift(); asked; asked = queue.shift()) {
        const fault = await answersWell(by, asked)
        if (fault) faults.push(fault)
      }
    }),
  )
  return faults
}

test('every request of the contract, right and wrong', async () => {
  const tried = operations.filter(o => !LEFT_OUT.test(`${o.method} ${o.path}`))
  const asked = tried.flatMap((o, i) => fc.sample(requestsOf(o), { seed: SEED + i, numRuns: RUNS }))
  // Mixed by a stride without a common factor, so that what one makes the other uses.
  const mixed = asked.map((_, i) => asked[(i * 7919) % asked.length]!)
  expect(new Set(mixed).size).toBe(asked.length)
  expect(mixed.length).toBeGreaterThan(2000)
  expect(await tryAll(mixed, world.as.administrator)).toEqual([])
  const sum = [...accepted.values()].reduce((a, b) => a + b, 0)
  expect(sum).toBeGreaterThan(mixed.length / 5)
  const never = tried.filter(o => !accepted.has(o)).map(o => `${o.method} ${o.path}`)
  expect(never.length, never.join(', ')).toBeLessThan(tried.length / 4)
  expect(verify(world.app)).toMatchObject({ status: 0 })
})

test('every format that is read, damaged in many ways', async () => {
  const kinds: [string, RegExp, number][] = [
    ['post /api/banking/csv-map', /./, 120],
    ['post /api/receipts/advice', /./, 120],
    ['post /api/banking/statements', /./, 60],
    ['post /api/documents/imports/documents', /csv|text/, 30],
    ['post /api/documents/imports/customers', /csv|text/, 30],
    ['post /api/rates/import', /csv|text/, 30],
  ]
  const asked = kinds.flatMap(([named, names, runs], i): Asked[] => {
    const operation = operations.find(o => `${o.method} ${o.path}` === named)!
    const query = { '/api/receipts/advice': '?currency=EUR', '/api/banking/statements': '?account=1' }
    return fc
      .sample(hostileFiles(world.today), { seed: SEED + i, numRuns: runs * 2 })
      .filter(f => names.test(f.name))
      .slice(0, runs)
      .map(f => ({
        operation,
        path: operation.path + (query[operation.path as keyof typeof query] ?? ''),
        body: f.text,
        headers: { 'content-type': operation.bodyType! },
      }))
  })
  expect(asked.length).toBeGreaterThan(300)
  expect(await tryAll(asked, world.as.administrator)).toEqual([])
})

test('a stranger’s requests: sign-in with anything, and every path without a cookie', async ({ request }) => {
  const signIn = operations.find(o => o.method === 'post' && o.path === '/api/session')!
  const asked = fc.sample(requestsOf(signIn), { seed: SEED, numRuns: 60 })
  const whole = asked.map(a => ({ ...a, path: `${world.app.url}${a.path}` }))
  expect(await tryAll(whole, request)).toEqual([])
  const bare = operations
    .filter(o => o.ability)
    .flatMap((o, i) => fc.sample(requestsOf(o), { seed: SEED + i, numRuns: 2 }))
  for (const a of bare) {
    const answer = await request.fetch(`${world.app.url}${a.path}`, {
      method: a.operation.method.toUpperCase(),
    })
    expect([400, 401, 404, 405]).toContain(answer.status())
  }
})
