import { readFileSync } from 'node:fs'
import { request as requests } from '@playwright/test'
import { Validator } from '@seriousme/openapi-schema-validator'
import { operations } from '../../contract'
import { expect, signIn, test } from './base'

const problem = async (
  response: { status: () => number; headers: () => Record<string, string>; json: () => Promise<unknown> },
  status: number,
) => {
  expect(response.headers()['content-type']).toContain('application/problem+json')
  const body = (await response.json()) as {
    status: number
    title: string
    detail: string
    errors?: { path: string; message: string }[]
  }
  expect([response.status(), body.status]).toEqual([status, status])
  expect(body.detail.length).toBeGreaterThan(5)
  return body
}

test('health, OpenAPI, and every operation of the contract is served', async ({ request }) => {
  expect(await (await request.get('/api/health')).json()).toMatchObject({
    database: 'ok',
    disk: 'ok',
    queue: 'ok',
    inbox: 'ok',
    version: '0.1.0',
  })
  const document = (await (await request.get('/api/openapi.json')).json()) as {
    openapi: string
    paths: Record<string, Record<string, unknown>>
  }
  expect(document.openapi).toBe('3.1.0')
  // Outside check: the schema of OpenAPI 3.1 by a validator package that is not ours.
  expect(await new Validator().validate(document)).toEqual({ valid: true })
  for (const o of operations) {
    expect(document.paths[o.path]?.[o.method], `${o.method} ${o.path}`).toBeTruthy()
    const answer = await request.fetch(o.path.replace(/\{\w+\}/g, '999999'), {
      method: o.method.toUpperCase(),
    })
    // Signed out, everything but the open ones asks for sign-in: so the route exists.
    if (o.ability) await problem(answer, 401)
  }
  await problem(await request.get('/api/nowhere'), 404)
  await problem(await request.put('/api/aging'), 405)
})

test.describe('bad input gets a problem document, never a 500', () => {
  test.beforeEach(({ request }) => signIn(request, 'supervisor'))

  for (const [path, status] of [
    ['/api/aging?asOf=2026-02-30', 400],
    ['/api/aging?asOf=yesterday', 400],
    ['/api/aging?currency=EUX', 400],
    ['/api/aging?limit=0', 400],
    ['/api/aging?limit=abc', 400],
    ['/api/aging?cursor=nonsense', 400],
    ['/api/aging?by=mood', 400],
    ['/api/aging?sort=b9', 400],
    ['/api/aging?cursor=W10', 400],
    ['/api/accounts/none', 404],
    ['/api/accounts/none/items', 404],
    ['/api/receipts/0', 404],
    ['/api/receipts/abc', 404],
    ['/api/receipts/99999999', 404],
    ['/api/jobs/99999999', 404],
    ['/api/reminders/runs/99999', 404],
    ['/api/reminders/notices/99999/letter', 404],
    ['/api/accounts/2001/items?state=half', 400],
    ['/api/jump?q=', 400],
    ['/api/books/entries?from=1-1-1', 400],
    ['/api/outbox/99999999', 404],
    ['/api/accounts/%00', 404],
  ] as const)
    test(`GET ${path}`, async ({ request }) => {
      await problem(await request.get(path), status)
    })

  const receipt = {
    customer: '2001',
    date: '2026-11-16',
    means: [{ means: 'transfer', amount: 1000, reference: '' }],
    allocations: [] as object[],
    onAccount: 1000,
  }
  for (const [what, body, status, path] of [
    ['a wrong date', { ...receipt, date: '2026-11-31' }, 422, 'date'],
    ['tomorrow', { ...receipt, date: '2026-11-17' }, 409, 'date'],
    [
      'a negative amount',
      { ...receipt, means: [{ means: 'transfer', amount: -5, reference: '' }] },
      422,
      'means.0.amount',
    ],
    [
      'an oversized amount',
      { ...receipt, means: [{ means: 'transfer', amount: 1e15, reference: '' }] },
      422,
      'means.0.amount',
    ],
    [
      'half a cent',
      { ...receipt, means: [{ means: 'transfer', amount: 0.5, reference: '' }] },
      422,
      'means.0.amount',
    ],
    ['an unknown currency', { ...receipt, currency: 'XXX' }, 422, 'currency'],
    ['an unknown customer', { ...receipt, customer: '<script>' }, 404, undefined],
    [
      'a foreign item',
      { ...receipt, allocations: [{ itemId: 999_999_999, amount: 1000 }], onAccount: 0 },
      409,
      'allocations.0',
    ],
    ['money left over', { ...receipt, onAccount: 0 }, 409, 'allocations'],
    ['no means', { ...receipt, means: [] }, 422, 'means'],
    ['a list for a body', [], 422, 'body'],
    ['text for a number', { ...receipt, onAccount: '12' }, 422, 'onAccount'],
    [
      'unknown means',
      { ...receipt, means: [{ means: 'barter', amount: 5, reference: '' }] },
      422,
      'means.0.means',
    ],
  ] as const) {
    test(`receipt with ${what}`, async ({ request }) => {
      const answer = await problem(await request.post('/api/receipts', { data: body }), status)
      if (path) expect(answer.errors![0]!.path).toBe(path)
    })
  }
  test('a body that is no JSON, the wrong media type, a bad key', async ({ request }) => {
    await problem(
      await request.post('/api/receipts', {
        data: Buffer.from('{"customer":'),
        headers: { 'content-type': 'application/json' },
      }),
      400,
    )
    await problem(
      await request.post('/api/receipts', {
        data: Buffer.from('<a/>'),
        headers: { 'content-type': 'application/xml' },
      }),
      415,
    )
    await problem(await request.post('/api/documents/imports/customers', { data: { a: 1 } }), 415)
    await problem(
      await request.post('/api/receipts', { data: receipt, headers: { 'idempotency-key': 'two words' } }),
      400,
    )
    await problem(
      await request.post('/api/documents/imports/documents', {
        data: Buffer.from([0x6e, 0xff, 0xfe]),
        headers: { 'content-type': 'text/csv' },
      }),
      422,
    )
  })
  for (const csv of [
    '',
    'number,name\n"A,open',
    'just words',
    'number,customer,date,amount',
    '\u0000\u0001',
    'number;customer;date;amount\nA;2001;2026-10-01',
  ]) {
    test(`malformed CSV ${JSON.stringify(csv)}`, async ({ request }) => {
      await problem(
        await request.post('/api/documents/imports/documents', {
          data: csv,
          headers: { 'content-type': 'text/csv' },
        }),
        422,
      )
    })
  }
  test('an upload of 100 MB is refused while the server stays well', async ({ request }) => {
    const answer = await request.post('/api/documents/imports/documents', {
      data: Buffer.alloc(100 * 1024 * 1024, 'a'),
      headers: { 'content-type': 'text/csv' },
    })
    await problem(answer, 413)
    expect((await request.get('/api/health')).status()).toBe(200)
  })
  test('a bank statement of 100 MB, and what is none, are refused; the line of a stranger does not exist', async ({
    request,
  }) => {
    const send = (data: Buffer) =>
      request.post('/api/banking/statements', {
        data,
        headers: { 'content-type': 'application/octet-stream' },
      })
    await problem(await send(Buffer.alloc(100 * 1024 * 1024, '<')), 413)
    for (const text of ['', '<a>', '<Document/>', ':20:x', 'OFXHEADER:100', 'a;b\n1;2', '\u0000', '{"a":1}'])
      await problem(await send(Buffer.from(text)), 422)
    await problem(await request.get('/api/banking/lines/999999999'), 404)
    await problem(
      await request.post('/api/banking/lines/999999999/accept', {
        data: { version: 1, action: { kind: 'ledger', account: '6850' } },
      }),
      404,
    )
    await problem(
      await request.post('/api/banking/lines/1/accept', { data: { version: 1, action: { kind: 'magic' } } }),
      422,
    )
    expect((await request.get('/api/health')).status()).toBe(200)
  })
  test('quotes and angle brackets in names come back as they went in', async ({ request }) => {
    const name = `O'Hara "<img src=x onerror=alert(1)>" & Søn`
    const number = `Q${Date.now()}`
    const done = await request.post('/api/documents/imports/customers', {
      data: `number,name,country\n${number},"${name.replace(/"/g, '""')}",IE\n`,
      headers: { 'content-type': 'text/csv' },
    })
    expect(done.status()).toBe(200)
    expect(((await (await request.get(`/api/accounts/${number}`)).json()) as { name: string }).name).toBe(
      name,
    )
  })
  test('a repeated idempotency key answers with the first result', async ({ request }) => {
    const key = crypto.randomUUID()
    const send = (data: object) =>
      request.post('/api/receipts', { data, headers: { 'idempotency-key': key } })
    const first = await send(receipt)
    expect(first.status()).toBe(201)
    expect(await (await send(receipt)).json()).toEqual(await first.json())
    await problem(await send({ ...receipt, onAccount: 900, allocations: [] }), 409)
  })
})

test('rights: each role may do what its work is, and no more', async () => {
  const receipt = {
    customer: '2001',
    date: '2026-11-16',
    means: [{ means: 'cash', amount: 100 }],
    onAccount: 100,
  }
  const expected: Record<string, [number, number, number, number]> = {
    // receipt, reminder run, settings, journal
    controller: [201, 201, 403, 200],
    cash: [201, 403, 403, 200],
    supervisor: [201, 201, 200, 200],
    treasurer: [403, 403, 403, 200],
    sales: [403, 403, 403, 403],
    auditor: [403, 403, 403, 200],
  }
  for (const [role, statuses] of Object.entries(expected)) {
    const request = await requests.newContext({ baseURL: process.env.E2E_URL })
    await signIn(request, role)
    const got = [
      await request.post('/api/receipts', { data: receipt }),
      await request.post('/api/reminders/runs', { data: { asOf: '2026-11-16', customer: '2001' } }),
      await request.put('/api/settings', { data: { company: 'Wrackline' } }),
      await request.get('/api/books/entries?limit=1'),
    ]
    expect(
      got.map(r => r.status()),
      role,
    ).toEqual(statuses)
    await request.dispose()
  }
})

test('a sales contact sees own customers only', async ({ request }) => {
  await signIn(request, 'sales')
  const aging = (await (await request.get('/api/aging?limit=500')).json()) as {
    items: { customer: { number: string } }[]
    totals: { count: number }
  }
  expect(aging.totals.count).toBeGreaterThan(10)
  expect(aging.totals.count).toBeLessThan(60)
  const numbers = aging.items.map(i => i.customer.number)
  const foreign = ['2001', '2002', '2003', '2004'].find(n => !numbers.includes(n))!
  for (const path of ['', '/items']) await problem(await request.get(`/api/accounts/${foreign}${path}`), 404)
  expect(
    ((await (await request.get(`/api/jump?q=${foreign}`)).json()) as { items: unknown[] }).items,
  ).toEqual([])
})

test('the cookie: http-only, same-site; other origins and old cookies get nothing', async ({ request }) => {
  const answer = await request.post('/api/session', {
    data: { email: 'auditor@wrackline.example', password: 'kelp-and-tide' },
  })
  expect(answer.headers()['set-cookie']).toMatch(/HttpOnly; SameSite=Strict/)
  await problem(await request.post('/api/clock/advance', { headers: { origin: 'http://evil.example' } }), 403)
  expect((await request.delete('/api/session')).status()).toBe(204)
  await problem(await request.get('/api/aging'), 401)
  await problem(
    await request.post('/api/session', { data: { email: 'auditor@wrackline.example', password: 'wrong' } }),
    401,
  )
  const page = await request.get('/')
  expect(page.headers()['content-security-policy']).toContain(`script-src 'self' 'sha256-`)
  expect(page.headers()['content-security-policy']).not.toContain(`script-src 'self' 'unsafe`)
})

test('no password stands in the data folder but the generated secret, and none in the logs', () => {
  expect(readFileSync(`${process.env.E2E_DATA}/bilancio.json`, 'utf8')).toMatch(/"database":"[0-9a-f]{48}"/)
  expect(readFileSync(`${process.env.E2E_DATA}/mariadb.log`, 'utf8')).not.toMatch(/IDENTIFIED BY/)
})
