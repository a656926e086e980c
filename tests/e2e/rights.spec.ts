import { request as requests } from '@playwright/test'
import { operations } from '../../contract'
import { ROLES, type Role } from '../../core/people'
import { asOwner } from './database'
import { expect, test } from './base'
import { openWorld, type World } from './world'

/*
 * Role by request by object, over the API. The tables are written by hand from what each role is for, not
 * from the table in the program; every request of the contract must stand in them.
 */

const ALL = [...ROLES]
const READERS: Role[] = ['controller', 'cash', 'supervisor', 'treasurer', 'auditor', 'administrator']
const POSTERS: Role[] = ['controller', 'cash', 'supervisor', 'administrator']
const CHASERS: Role[] = ['controller', 'supervisor', 'administrator']
const HEADS: Role[] = ['supervisor', 'administrator']
const TREASURY: Role[] = ['treasurer', ...HEADS]

const MATRIX: [may: Role[], requests: string][] = [
  [
    ALL,
    `get /api/today, get /api/today/history, get /api/jump, get /api/settings, get /api/rates,
    get /api/setup/first-steps, get /api/accounts/{number}/master, get /api/accounts/export,
    get /api/classes, post /api/exposure/check, get /api/exposure/accounts/{number},
    get /api/exposure/accounts/{number}/parts, get /api/exposure/holds, get /api/exposure/concentration,
    put /api/session/password, get /api/session/all, delete /api/session/all/{id}, get /api/accounts,
    get /api/accounts/{number}, get /api/accounts/{number}/items, get /api/aging, get /api/aging/items,
    get /api/aging/export, get /api/aging/compare, get /api/aging/compare/items, get /api/reminders/policies,
    get /api/reminders/notices/{id}/letter, get /api/reminders/rates, get /api/reminders/claims/{number},
    get /api/measures, get /api/measures/items, get /api/measures/export, get /api/review/{number},
    get /api/views, post /api/views, delete /api/views/{id}, get /api/jobs/{id}, get /api/jobs/{id}/events,
    get /api/accounts/{number}/timeline, get /api/call-list, get /api/call-list/calls, get /api/promises,
    get /api/promises/{id}/letter, get /api/disputes, get /api/disputes/sums,
    get /api/letters/statements/{number}, get /api/letters/copies/{id}, get /api/letters/{id},
    get /api/messages, get /api/messages/unread, get /api/messages/people, post /api/messages/{id}/read,
    get /api/mandates,
    get /api/inbox, get /api/inbox/{id}, get /api/accounts/{number}/attachments, get /api/attachments/{id}`,
  ],
  [
    READERS,
    `get /api/receipts, get /api/receipts/{id}, get /api/receipts/open-items, get /api/receipts/sundry,
    get /api/reminders/runs, get /api/reminders/runs/{id}, get /api/reminders/runs/{id}/notices,
    get /api/reminders/runs/{id}/left-out, get /api/reminders/runs/{id}/print, get /api/reminders/worked,
    post /api/reminders/dry-run, get /api/reminders/handovers, get /api/reminders/handovers/{id}/archive,
    get /api/outbox, get /api/outbox/{id},
    get /api/impairment/candidates, get /api/impairment/write-offs, get /api/impairment/recoverable,
    get /api/impairment/allowance, get /api/impairment/allowance/export, get /api/impairment/allowance/runs,
    get /api/impairment/cases, get /api/impairment/rates,
    get /api/factoring/facilities, get /api/factoring/schedules, get /api/factoring/schedules/{id},
    get /api/factoring/schedules/{id}/file, get /api/factoring/close,
    get /api/factoring/schedules/{id}/copies, get /api/impairment/claims, get /api/impairment/claims/{id}/pdf,
    get /api/impairment/report, get /api/impairment/report/export,
    get /api/forecast, get /api/forecast/export, get /api/forecast/part, get /api/forecast/customers/{number},
    get /api/forecast/progress/{run}, get /api/forecast/sheet, get /api/forecast/material,
    get /api/forecast/what-ifs,
    get /api/forecast/compare, get /api/forecast/records, get /api/forecast/bridge,
    post /api/forecast/what-if, post /api/forecast/what-if/part, get /api/forecast/self-test, get /api/forecast/payments,
    get /api/refunds, get /api/refunds/credits, get /api/refunds/cheques, get /api/refunds/cheques/{id}/pdf,
    get /api/payments/files, get /api/payments/files/{id}/xml, get /api/collections, get /api/collections/runs,
    get /api/collections/runs/{id}, get /api/collections/runs/{id}/rows, get /api/collections/runs/{id}/left-out,
    get /api/receipts/batches, get /api/receipts/batches/{id}, get /api/receipts/batches/{id}/register,
    get /api/banking/accounts, get /api/banking/statements, get /api/banking/inbox, get /api/banking/lines,
    get /api/banking/lines/{id}, get /api/banking/covered, get /api/banking/rules, get /api/banking/tray,
    get /api/banking/slips, get /api/banking/slips/{id}, get /api/banking/slips/{id}/pdf,
    get /api/books/entries, get /api/books/trial-balance, get /api/books/tie-out,
    get /api/sign-off, get /api/sign-off/{id}, post /api/sign-off/{id}/sign, post /api/sign-off/{id}/decline,
    post /api/sign-off/{id}/send-back, post /api/sign-off/{id}/ask-again, post /api/sign-off/{id}/withdraw,
    post /api/sign-off/{id}/comments, get /api/sign-off/deputies, get /api/review,
    get /api/letters/runs, get /api/letters/runs/{id}/print`,
  ],
  [
    POSTERS,
    `post /api/receipts/preview, post /api/receipts, post /api/receipts/{id}/reverse/preview,
    post /api/receipts/{id}/reverse, post /api/receipts/{id}/put-right/preview,
    post /api/receipts/{id}/put-right, post /api/receipts/ticked/preview, post /api/receipts/ticked,
    post /api/receipts/sundry/preview, post /api/receipts/sundry, post /api/receipts/sundry/{id}/void,
    post /api/receipts/advice, post /api/allocations/preview, post /api/allocations,
    post /api/allocations/undo/preview, post /api/allocations/undo, post /api/receipts/batches,
    put /api/receipts/batches/{id}, delete /api/receipts/batches/{id},
    post /api/receipts/batches/{id}/receipts, put /api/receipts/batches/{id}/receipts/{receipt},
    delete /api/receipts/batches/{id}/receipts/{receipt}, post /api/receipts/batches/{id}/close,
    post /api/banking/statements, post /api/banking/inbox/take, delete /api/banking/inbox/aside/{id},
    post /api/banking/lines/{id}/preview, post /api/banking/lines/{id}/accept,
    post /api/banking/lines/accept-clear, post /api/banking/lines/{id}/undo,
    post /api/banking/lines/{id}/undo/preview, post /api/banking/csv-map, post /api/banking/slips/preview,
    post /api/banking/slips, post /api/banking/slips/{id}/void/preview, post /api/banking/slips/{id}/void,
    post /api/documents/imports/customers, post /api/documents/imports/documents,
    post /api/documents/imports/orders, post /api/exposure/orders,
    post /api/documents/imports/look, post /api/documents/imports/convert, delete /api/jobs/{id},
    post /api/letters/statements/{number}/send, post /api/letters/copies/{id}/send,
    post /api/promises/{id}/send,
    post /api/refunds, post /api/refunds/proof, post /api/refunds/{id}/undo, post /api/refunds/{id}/cheque,
    post /api/refunds/cheques/{id}/void, post /api/refunds/lapse, post /api/refunds/lapse/proof,
    post /api/refunds/unclaimed/letters`,
  ],
  [
    CHASERS,
    `post /api/reminders/runs, post /api/reminders/runs/{id}/confirm, post /api/reminders/runs/{id}/discard,
    post /api/reminders/policies/{code}/preview, put /api/reminders/runs/{id}/edits, get /api/reminders/runs/{id}/proof,
    post /api/reminders/runs/{id}/withdraw, post /api/reminders/runs/{id}/withdraw/proof,
    post /api/reminders/goodwill, post /api/reminders/goodwill/proof, post /api/reminders/claims/{number},
    post /api/reminders/claims/{number}/proof, post /api/reminders/handovers,
    post /api/reminders/handovers/{id}/end, post /api/reminders/handovers/{id}/costs,
    post /api/accounts, put /api/accounts/{number}, post /api/accounts/{number}/close,
    get /api/accounts/choices, post /api/exposure/holds, post /api/exposure/holds/release,
    post /api/impairment/write-offs, post /api/impairment/write-offs/proof,
    post /api/impairment/write-offs/{id}/undo, post /api/impairment/relief, post /api/impairment/recoveries,
    post /api/impairment/recoveries/proof, post /api/impairment/allowance, post /api/impairment/allowance/proof,
    post /api/impairment/allowance/runs/{id}/undo, post /api/impairment/cases, post /api/impairment/cases/{id}/end, post /api/impairment/claims,
    get /api/reminders/runs/{id}/letter, post /api/reminders/pauses, delete /api/reminders/pauses/{id},
    post /api/outbox/{id}/send, post /api/promises, post /api/promises/{id}/withdraw, post /api/disputes,
    put /api/disputes/{id}, post /api/disputes/{id}/resolve, post /api/disputes/{id}/proof,
    post /api/call-list/calls, put /api/inbox/{id}/customer, post /api/inbox/{id}/act,
    post /api/letters/runs`,
  ],
  [
    HEADS,
    `put /api/settings, put /api/factoring/facilities/{code}, post /api/classes, put /api/classes/{code}, post /api/accounts/{number}/merge,
    post /api/sign-off/deputies, delete /api/sign-off/deputies/{id}, put /api/rates, post /api/rates/import,
    put /api/reminders/policies/{code}, put /api/reminders/rates, post /api/banking/accounts, put /api/banking/accounts/{id},
    post /api/banking/rules, delete /api/banking/rules/{id}, delete /api/banking/payers/{id}`,
  ],
  [
    TREASURY,
    `get /api/factoring/proposal, post /api/factoring/schedules, post /api/factoring/schedules/{id}/take-back,
    post /api/factoring/answers, get /api/factoring/inbox, post /api/factoring/inbox, post /api/factoring/close/short,
    post /api/factoring/close/short/proof, post /api/factoring/close/pass-on, post /api/factoring/close/pass-on/proof,
    post /api/factoring/close/pass-on/{id}/undo,
    post /api/forecast/payments, put /api/forecast/payments/{id}, delete /api/forecast/payments/{id},
    post /api/forecast/payments/import, post /api/forecast/share, post /api/forecast/what-ifs,
    delete /api/forecast/what-ifs/{id},
    post /api/refunds/files, post /api/refunds/cards, post /api/payments/files/{id}/send, post /api/payments/files/{id}/take-back,
    post /api/collections/runs, put /api/collections/runs/{id}, post /api/collections/runs/{id}/proof,
    post /api/collections/runs/{id}/confirm, post /api/collections/runs/{id}/discard,
    post /api/collections/runs/{id}/files, post /api/collections/{id}/drop, post /api/collections/{id}/return,
    post /api/collections/{id}/return/proof, post /api/collections/{id}/work, post /api/collections/collect`,
  ],
  [
    [...CHASERS, 'treasurer'],
    `post /api/mandates, put /api/mandates/{id}, post /api/mandates/{id}/state, post /api/mandates/import`,
  ],
  [[...POSTERS, 'treasurer'], 'post /api/clock/advance'],
  [
    [...POSTERS, 'sales'],
    `post /api/accounts/{number}/notes, put /api/accounts/{number}/notes/{id},
    post /api/accounts/{number}/attachments, delete /api/attachments/{id}`,
  ],
  [
    [...POSTERS, 'sales', 'treasurer'],
    'post /api/messages, post /api/messages/{id}/answers, post /api/messages/{id}/done',
  ],
  [[...HEADS, 'auditor'], 'get /api/books/audit'],
  [
    ['administrator'],
    `get /api/people, post /api/people, put /api/people/{id}, delete /api/people/{id}/sessions,
    post /api/messages/hand-over`,
  ],
]
/** Answered to everybody, signed in or not. */
const OPEN = `get /api/openapi.json, post /api/session, get /api/session, get /api/session/demo,
  delete /api/session, get /api/health, get /api/metrics`

const listOf = (text: string) => text.split(',').map(r => r.trim())

let world: World
test.setTimeout(180_000)
test.beforeAll(async () => {
  world = await openWorld()
})
test.afterAll(() => world.close())

test('every request of the contract stands in the table, once', () => {
  const tabled = [...MATRIX.flatMap(([, requestsOf]) => listOf(requestsOf)), ...listOf(OPEN)].sort()
  expect(tabled).toEqual(operations.map(o => `${o.method} ${o.path}`).sort())
})

test('each role is answered what its work needs, and refused all else', async () => {
  for (const [may, requestsOf] of MATRIX)
    for (const asked of listOf(requestsOf)) {
      const [method, path] = asked.split(' ') as [string, string]
      const { bodyType } = operations.find(o => `${o.method} ${o.path}` === asked)!
      for (const role of ROLES) {
        const answer = await world.as[role].fetch(path.replace(/\{\w+\}/g, '999999'), {
          method: method.toUpperCase(),
          ...(method === 'get' ? {} : { headers: { 'content-type': bodyType ?? 'application/json' } }),
        })
        const status = answer.status()
        expect([asked, role, status === 403]).toEqual([asked, role, !may.includes(role)])
        expect(status, `${asked} as ${role}`).not.toBe(401)
        expect(status, `${asked} as ${role}`).toBeLessThan(500)
      }
    }
})

interface Answer {
  status: () => number
  json: () => Promise<unknown>
}
const body = async <T>(answer: Answer): Promise<T> => (await answer.json()) as T

test('objects: a sales contact sees what is theirs, and nothing of the whole', async () => {
  const { sales, supervisor } = world.as
  for (const path of ['/api/accounts/K1', '/api/accounts/K1/items', '/api/accounts/K2'])
    expect((await sales.get(path)).status(), path).toBe(404)
  const note = { data: { text: 'seen' } }
  expect((await sales.post('/api/accounts/K1/notes', note)).status()).toBe(404)
  expect((await sales.post('/api/accounts/K3/notes', note)).status()).toBe(201)
  // The head of the group is not theirs: neither on the Card nor in an aging by group.
  expect(await body(await sales.get('/api/accounts/K3'))).toMatchObject({ parent: null })
  expect(await body(await supervisor.get('/api/accounts/K3'))).toMatchObject({ parent: { number: 'K1' } })
  const aging = await body<{ items: { customer: { number: string } }[]; control: unknown }>(
    await sales.get('/api/aging?by=group'),
  )
  expect(aging.items.map(i => i.customer.number)).toEqual(['K3'])
  expect(aging.control).toBeNull()
  const whole = await body<{ control: { ties: boolean } }>(await supervisor.get('/api/aging'))
  expect(whole.control.ties).toBe(true)
  expect(await body(await sales.get('/api/settings'))).toMatchObject({ access: null })
})

test('objects: jobs are for who asked for them, and for who manages those of others', async () => {
  const { cash, controller, sales, supervisor } = world.as
  const queued = await cash.post('/api/documents/imports/customers?dryRun=1', {
    data: 'number,name,country\nSECRET,Somebody Else,IE\n',
    headers: { 'content-type': 'text/csv', prefer: 'respond-async' },
  })
  const { job } = await body<{ job: number }>(queued)
  for (const other of [controller, sales])
    for (const path of [`/api/jobs/${job}`, `/api/jobs/${job}/events`])
      expect((await other.get(path)).status(), path).toBe(404)
  expect((await controller.delete(`/api/jobs/${job}`)).status()).toBe(404)
  for (const own of [cash, supervisor]) expect((await own.get(`/api/jobs/${job}`)).status()).toBe(200)
  expect((await supervisor.delete(`/api/jobs/${job}`)).status()).toBe(200)
})

test('objects: somebody else’s batch', async () => {
  const { cash, controller, supervisor } = world.as
  const opened = await cash.post('/api/receipts/batches', { data: { currency: 'EUR', date: world.today } })
  const { id } = await body<{ id: number }>(opened)
  const receipt = {
    customer: 'K1',
    date: world.today,
    means: [{ means: 'cash', amount: 500 }],
    onAccount: 500,
  }
  const add = (by: typeof cash) => by.post(`/api/receipts/batches/${id}/receipts`, { data: receipt })
  expect((await add(controller)).status()).toBe(403)
  expect((await controller.delete(`/api/receipts/batches/${id}`)).status()).toBe(403)
  expect((await add(supervisor)).status()).toBe(201)
  expect((await cash.delete(`/api/receipts/batches/${id}`)).status()).toBe(204)
})

test('parts of a request: a rule with a bank line, a late discount, a credit note by import', async () => {
  const { cash, controller, supervisor } = world.as
  const owner = await asOwner(world.app.data)
  const statement = await supervisor.post('/api/banking/statements?account=1', {
    data: `Date;Text;Amount\n${world.today};BANK CHARGES;-4.00\n`,
    headers: { 'content-type': 'application/octet-stream' },
  })
  expect(statement.status()).toBe(200)
  const { items } = await body<{ items: { id: number; version: number }[] }>(
    await supervisor.get('/api/banking/lines'),
  )
  const [line] = items
  const accept = (words: string) => ({
    data: {
      version: line!.version,
      action: { kind: 'ledger', account: '6850', words, rememberPayer: false },
    },
  })
  for (const by of [cash, controller]) {
    const refused = await by.post(`/api/banking/lines/${line!.id}/accept`, accept('BANK CHARGES'))
    expect([refused.status(), await body(refused)]).toEqual([
      403,
      expect.objectContaining({ errors: [expect.objectContaining({ path: 'action.words' })] }),
    ])
    expect((await by.post(`/api/banking/lines/${line!.id}/preview`, accept('BANK CHARGES'))).status()).toBe(
      403,
    )
  }
  expect(
    (await supervisor.post(`/api/banking/lines/${line!.id}/accept`, accept('BANK CHARGES'))).status(),
  ).toBe(200)
  const [trail] = await owner.query(`SELECT person_id FROM audit WHERE what = 'bank rule'`)
  expect(trail).toHaveLength(1)

  const late = {
    customer: 'K1',
    date: world.today,
    means: [{ means: 'cash', amount: 500 }],
    onAccount: 500,
    lateDiscount: true,
  }
  for (const path of ['', '/preview'])
    expect((await cash.post(`/api/receipts${path}`, { data: late })).status()).toBe(403)

  const credit = {
    data: `number,kind,customer,date,amount\nCN-1,credit-note,K1,${world.today},10.00\n`,
    headers: { 'content-type': 'text/csv' },
  }
  expect((await controller.post('/api/documents/imports/documents', credit)).status()).toBe(403)
  const [items1] = await owner.query(`SELECT id FROM item WHERE number = 'CN-1'`)
  expect(items1).toHaveLength(0)
  expect((await supervisor.post('/api/documents/imports/documents', credit)).status()).toBe(200)
  await owner.end()
})

test('the auditor reads the trail of all this, and finds it', async () => {
  const trail = await body<{ items: { what: string; by: string }[]; whats: string[] }>(
    await world.as.auditor.get('/api/books/audit?what=bank%20rule'),
  )
  expect(trail.items).toEqual([expect.objectContaining({ what: 'bank rule', by: 'supervisor' })])
  expect(trail.whats).toEqual(expect.arrayContaining(['session', 'banking.accept', 'documents.import']))
})

test('a first password is changed before anything else is answered', async () => {
  const { administrator } = world.as
  const person = { name: 'New Nell', email: 'nell@world.example', role: 'cash', password: 'given by another' }
  const added = await administrator.post('/api/people', { data: person })
  expect(added.status()).toBe(201)
  const nell = await requests.newContext({ baseURL: world.app.url })
  const signIn = (password: string) => nell.post('/api/session', { data: { email: person.email, password } })
  expect(await body(await signIn(person.password))).toMatchObject({ mustChange: true })
  expect((await nell.get('/api/aging')).status()).toBe(403)
  expect((await nell.post('/api/receipts', { data: {} })).status()).toBe(403)
  const change = { current: person.password, password: 'chosen by myself' }
  expect((await nell.put('/api/session/password', { data: change })).status()).toBe(204)
  expect((await nell.get('/api/aging')).status()).toBe(200)

  // A role that changes ends what is open; so does the administrator's word.
  const { id } = await body<{ id: number }>(added)
  expect((await administrator.put(`/api/people/${id}`, { data: { role: 'auditor' } })).status()).toBe(200)
  expect((await nell.get('/api/aging')).status()).toBe(401)
  await signIn(change.password)
  expect((await administrator.delete(`/api/people/${id}/sessions`)).status()).toBe(204)
  expect((await nell.get('/api/aging')).status()).toBe(401)
  await nell.dispose()
})

test('a house with books of its own offers nobody at the sign-in', async ({ request }) => {
  const answer = await request.get(`${world.app.url}/api/session/demo`)
  expect(await body(answer)).toEqual({ password: null, items: [] })
})

test('signed out is signed out: the cookie of before opens nothing', async () => {
  const somebody = await world.signedIn('cash@world.example')
  const { cookies } = await somebody.storageState()
  const header = { cookie: cookies.map(c => `${c.name}=${c.value}`).join('; ') }
  const stolen = await requests.newContext({ baseURL: world.app.url, extraHTTPHeaders: header })
  expect((await stolen.get('/api/aging')).status()).toBe(200)
  expect((await somebody.delete('/api/session')).status()).toBe(204)
  expect((await stolen.get('/api/aging')).status()).toBe(401)
  await stolen.dispose()
  await somebody.dispose()
})
