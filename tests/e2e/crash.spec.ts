import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { spawnSync } from 'node:child_process'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { request as requests, type APIRequestContext } from '@playwright/test'
import { startApplication, stopApplication, type Application } from './application'
import { expect, test } from './base'

test.setTimeout(180_000)

/** So many that the import is still at it when it is killed. */
const ROWS = 10_000

const csv = (n: number) =>
  'number,customer,date,amount\n' +
  Array.from({ length: n }, (_, i) => `Z-${i},K1,2026-10-01,10.00`).join('\n')
const verify = (data: string) =>
  spawnSync(process.execPath, ['scripts/run.mjs', 'verify'], {
    env: { ...process.env, DATABASE_URL: '', BILANCIO_DATA: data },
    encoding: 'utf8',
  })
const dbPid = (data: string) => Number(readFileSync(join(data, 'db/mariadbd.pid'), 'utf8'))

async function signedIn(app: Application, password: string): Promise<APIRequestContext> {
  const request = await requests.newContext({ baseURL: app.url })
  const email = 'administrator@bilancio.example'
  const own = 'a password of my own'
  const enter = (password: string) => request.post('/api/session', { data: { email, password } })
  // The password that was printed is good for one thing only: to choose another.
  if ((await enter(own)).status() !== 200) {
    expect((await enter(password)).status()).toBe(200)
    const change = { current: password, password: own }
    expect((await request.put('/api/session/password', { data: change })).status()).toBe(204)
  }
  return request
}

test('empty start, kill -9 in the middle of an import and of the database, recovery, clean stop', async () => {
  const app = await startApplication({ BILANCIO_DEMO: '0' })
  const data = app.data
  expect(app.output()).toMatch(/with the password \S+\./)
  const password = /with the password (\S+)\./.exec(app.output())![1]!
  const request = await signedIn(app, password)
  expect(
    (
      await request.post('/api/documents/imports/customers', {
        data: 'number,name,country\nK1,Kestrel,IE\n',
        headers: { 'content-type': 'text/csv' },
      })
    ).status(),
  ).toBe(200)
  const today = new Date().toISOString().slice(0, 10)
  const receipt = { customer: 'K1', date: today, means: [{ means: 'transfer', amount: 500 }], onAccount: 500 }
  expect((await request.post('/api/receipts', { data: receipt })).status()).toBe(201)

  // The start script and its server die together in the middle of an import.
  const queued = await request.post('/api/documents/imports/documents', {
    data: csv(ROWS),
    headers: { 'content-type': 'text/csv', prefer: 'respond-async' },
  })
  const { job } = (await queued.json()) as { job: number }
  await expect
    .poll(
      async () =>
        ((await (await request.get(`/api/jobs/${job}`)).json()) as { step: string; done: number }).step,
      { timeout: 40_000, intervals: [30] },
    )
    .toBe('Importing')
  app.process.kill('SIGKILL')
  await app.ended

  // The next start recovers by itself, finds the receipt and nothing of the half import; the job is then
  // taken again.
  const second = await startApplication({ BILANCIO_DEMO: '0' }, data)
  expect(second.output()).toContain('Bilancio is ready')
  const again = await signedIn(second, password)
  expect(((await (await again.get('/api/receipts')).json()) as { count: number }).count).toBe(1)
  await expect
    .poll(async () => ((await (await again.get(`/api/jobs/${job}`)).json()) as { state: string }).state, {
      timeout: 90_000,
    })
    .toBe('done')
  expect(((await (await again.get('/api/aging')).json()) as { totals: { total: number } }).totals.total).toBe(
    ROWS * 1000 - 500,
  )
  expect(verify(data)).toMatchObject({ status: 0, stdout: expect.stringContaining('verifies') })

  // The database dies under load: the server ends with one clear line, what was answered is there.
  let answered = 0
  const load = Promise.all(
    Array.from({ length: 4 }, async () => {
      for (;;) {
        const ok = await again.post('/api/receipts', { data: receipt }).then(
          r => r.status() === 201,
          () => false,
        )
        if (!ok) return
        answered++
      }
    }),
  )
  await new Promise(resolve => setTimeout(resolve, 1500))
  process.kill(dbPid(data), 'SIGKILL')
  await load
  expect(await second.ended).not.toBe(0)
  expect(second.output()).toContain('the database server ended by itself')
  expect(answered).toBeGreaterThan(5)

  const third = await startApplication({ BILANCIO_DEMO: '0' }, data)
  expect(third.output()).toContain('Bilancio is ready')
  const last = await signedIn(third, password)
  expect(
    ((await (await last.get('/api/receipts')).json()) as { count: number }).count,
  ).toBeGreaterThanOrEqual(1 + answered)
  expect(verify(data).status).toBe(0)
  expect(await stopApplication(third)).toBe(0)
  expect(verify(data).status).toBe(0)
  rmSync(data, { recursive: true, force: true })
})

test('a taken port, a foreign folder, broken data: one clear line and a non-zero exit', async () => {
  const taken = await startApplication({ PORT: new URL(process.env.E2E_URL!).port })
  expect(await taken.ended).toBe(1)
  expect(taken.output().trim().split('\n')).toEqual([expect.stringMatching(/^port \d+ is taken/)])
  const foreign = mkdtempSync(join(tmpdir(), 'bilancio-foreign-'))
  writeFileSync(join(foreign, 'thesis.doc'), 'mine')
  const refused = await startApplication({}, foreign)
  expect(await refused.ended).toBe(1)
  expect(refused.output()).toMatch(/holds files that are not Bilancio's \(thesis.doc\)/)
  rmSync(foreign, { recursive: true, force: true })
  const twice = await startApplication({}, process.env.E2E_DATA)
  expect(await twice.ended).toBe(1)
  expect(twice.output()).toMatch(/is running on .* already/)
  const broken = mkdtempSync(join(tmpdir(), 'bilancio-broken-'))
  writeFileSync(join(broken, 'bilancio.json'), '{"half":')
  const unreadable = await startApplication({}, broken)
  expect(await unreadable.ended).toBe(1)
  expect(unreadable.output()).toMatch(/cannot be read/)
  // What the message advises works.
  const anew = await startApplication({ BILANCIO_DEMO: '0', BILANCIO_ARGS: '--fresh' }, broken)
  expect(anew.output()).toContain('Bilancio is ready')
  expect(await stopApplication(anew)).toBe(0)
  rmSync(broken, { recursive: true, force: true })
})
