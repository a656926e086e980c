import type { APIRequestContext } from '@playwright/test'
import { startApplication, stopApplication } from './application'
import { databaseUrl } from './database'
import { expect, test } from './base'
import { addPeople, emailOf, openWorld, verify, type World } from './world'

/*
 * Sixty-four at once, on one receipt, on a batch each, on one customer: everybody is told within five seconds
 * what became of it, and health answers within one, throughout.
 */

const CROWD = 64
const ANSWER_MS = 5000
const HEALTH_MS = 1000

let world: World
let people: APIRequestContext[]
test.setTimeout(240_000)
test.beforeAll(async () => {
  world = await openWorld()
  const names = Array.from({ length: CROWD }, (_, i) => `crowd${i}`)
  await addPeople(
    world.app.data,
    names.map(name => ({ name, role: 'cash' })),
  )
  people = []
  for (const name of names) people.push(await world.signedIn(emailOf(name)))
  // What is measured is a server that runs, not one that starts: its first requests are still compiled.
  for (let n = 0; n < 4; n++)
    await Promise.all(people.slice(0, 6).map(p => p.post('/api/receipts', { data: money(1) })))
})
test.afterAll(async () => {
  for (const person of people) await person.dispose()
  await world.close()
})

interface Told {
  status: number
  ms: number
  retryAfter: string | undefined
}

/** All at once, while health is asked again and again. */
async function crowd(ask: (person: APIRequestContext, i: number) => ReturnType<APIRequestContext['post']>) {
  let over = false
  const health: number[] = []
  const watching = (async () => {
    while (!over) {
      const begun = Date.now()
      const answer = await world.as.auditor.get('/api/health')
      expect(answer.status()).toBe(200)
      health.push(Date.now() - begun)
      await new Promise(resolve => setTimeout(resolve, 50))
    }
  })()
  const told = await Promise.all(
    people.map(async (person, i): Promise<Told> => {
      const begun = Date.now()
      const answer = await ask(person, i)
      return {
        status: answer.status(),
        ms: Date.now() - begun,
        retryAfter: answer.headers()['retry-after'],
      }
    }),
  )
  over = true
  await watching
  expect(Math.max(...told.map(t => t.ms))).toBeLessThan(ANSWER_MS)
  expect(Math.max(...health)).toBeLessThan(HEALTH_MS)
  for (const t of told) {
    expect([200, 201, 409, 503]).toContain(t.status)
    if (t.status === 503) expect(Number(t.retryAfter)).toBeGreaterThan(0)
  }
  return { of: (status: number) => told.filter(t => t.status === status).length }
}

const money = (amount: number) => ({
  customer: 'K1',
  date: world.today,
  means: [{ means: 'cash', amount }],
  onAccount: amount,
})

test('sixty-four put one receipt right: one does, all others are told', async () => {
  const posted = await world.as.cash.post('/api/receipts', { data: money(6400) })
  const { receipt } = (await posted.json()) as { receipt: { id: number } }
  const { of } = await crowd((person, i) =>
    person.post(`/api/receipts/${receipt.id}/put-right`, {
      data: { customer: i % 2 ? 'K2' : 'K3', reason: `wrong customer ${i}` },
      headers: { 'idempotency-key': `right-${i}` },
    }),
  )
  expect(of(201)).toBe(1)
  expect(verify(world.app)).toMatchObject({ status: 0 })
})

test('sixty-four close a batch each', async () => {
  const batches = await Promise.all(
    people.map(async person => {
      const opened = await person.post('/api/receipts/batches', {
        data: { currency: 'EUR', date: world.today },
      })
      expect(opened.status()).toBe(201)
      const { id } = (await opened.json()) as { id: number }
      const kept = await person.post(`/api/receipts/batches/${id}/receipts`, { data: money(100) })
      expect(kept.status()).toBe(201)
      return (await kept.json()) as { id: number; version: number }
    }),
  )
  const close = (person: APIRequestContext, i: number) =>
    person.post(`/api/receipts/batches/${batches[i]!.id}/close`, { data: { version: batches[i]!.version } })
  const { of } = await crowd(close)
  expect(of(200) + of(503)).toBe(CROWD)
  // Who was told to come again, comes again.
  for (let again = 0; again < 20; again++) {
    const answers = await Promise.all(people.slice(0, 8).map(close))
    if (answers.every(a => a.status() === 409)) break
  }
  expect(of(200)).toBeGreaterThan(CROWD / 4)
  expect(verify(world.app)).toMatchObject({ status: 0 })
})

test('sixty-four post for one customer', async () => {
  const { of } = await crowd(person => person.post('/api/receipts', { data: money(1) }))
  expect(of(201) + of(503)).toBe(CROWD)
  expect(of(201)).toBeGreaterThan(CROWD / 4)
  expect(verify(world.app)).toMatchObject({ status: 0 })
})

test('a batch receipt sent again with its key is kept once', async () => {
  const [person] = people as [APIRequestContext]
  const opened = await person.post('/api/receipts/batches', { data: { currency: 'EUR', date: world.today } })
  const { id } = (await opened.json()) as { id: number }
  const send = (amount: number) =>
    person.post(`/api/receipts/batches/${id}/receipts`, {
      data: money(amount),
      headers: { 'idempotency-key': 'sent-again' },
    })
  const answers = await Promise.all([send(700), send(700), send(700)])
  expect(answers.map(a => a.status())).toEqual([201, 201, 201])
  const { count } = (await (await person.get(`/api/receipts/batches/${id}`)).json()) as { count: number }
  expect(count).toBe(1)
  expect((await send(701)).status()).toBe(409)
  expect((await person.delete(`/api/receipts/batches/${id}`)).status()).toBe(204)
})

test('a period closes among postings: none comes into it afterwards', async () => {
  const day = new Date(`${world.today}T12:00:00Z`)
  day.setUTCDate(day.getUTCDate() - 1)
  const yesterday = day.toISOString().slice(0, 10)
  const post = (person: APIRequestContext) =>
    person.post('/api/receipts', { data: { ...money(2), date: yesterday } })
  const importing = world.as.administrator.post('/api/documents/imports/documents', {
    data: `number,customer,date,amount\n${Array.from({ length: 3000 }, (_, i) => `L-${i},K2,${yesterday},1.00`).join('\n')}\n`,
    headers: { 'content-type': 'text/csv' },
  })
  const closing = (async () => {
    for (;;) {
      await new Promise(resolve => setTimeout(resolve, 150))
      const answer = await world.as.supervisor.put('/api/settings', { data: { closedUntil: yesterday } })
      if (answer.status() === 200) return
      expect(answer.status()).toBe(503)
    }
  })()
  const posted: number[] = []
  const posting = people.slice(0, 16).map(async person => {
    for (let i = 0; i < 8; i++) posted.push((await post(person)).status())
  })
  await Promise.all([closing, ...posting])
  // Whole or not at all, whichever came first.
  expect([200, 422, 409]).toContain((await importing).status())
  const found = await world.as.supervisor.get('/api/books/entries?search=L-1&limit=1')
  const { totals } = (await found.json()) as { totals: { entries: number } }
  expect(totals.entries > 0).toBe((await importing).status() === 200)
  expect(posted).toContain(409)
  expect((await post(people[0]!)).status()).toBe(409)
  expect(verify(world.app)).toMatchObject({ status: 0 })
})

test('a second process on the same database knows who is signed in, and who is not any more', async () => {
  const second = await startApplication({ DATABASE_URL: databaseUrl(world.app.data), BILANCIO_DEMO: '0' })
  try {
    const person = await world.signedIn(emailOf('crowd1'))
    const { cookies } = await person.storageState()
    const headers = { cookie: cookies.map(c => `${c.name}=${c.value}`).join('; ') }
    const there = async () => (await fetch(`${second.url}/api/aging`, { headers })).status
    expect(await there()).toBe(200)
    expect((await person.delete('/api/session')).status()).toBe(204)
    expect(await there()).toBe(401)
    await person.dispose()
  } finally {
    await stopApplication(second)
  }
})
