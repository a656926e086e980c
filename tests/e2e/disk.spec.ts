import { execFileSync, spawnSync } from 'node:child_process'
import { mkdtempSync, rmSync, statfsSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test } from './base'
import { openWorld, verify, type World } from './world'

/*
 * The disk is full: who posts is told so, health says so, nothing is half done, and with room again all goes
 * on. Tried on a small disk of its own, where the machine lets us mount one.
 */

const SIZE = 900
let folder = ''
let filler = ''
let mounted = false
test.beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'bilancio-disk-'))
  filler = join(folder, 'filler')
  mounted = spawnSync('mount', ['-t', 'tmpfs', '-o', `size=${SIZE}m`, 'tmpfs', folder]).status === 0
})
test.setTimeout(240_000)
let world: World | undefined
test.afterAll(async () => {
  await world?.close()
  if (mounted) execFileSync('umount', [folder])
  rmSync(folder, { recursive: true, force: true })
})

const MB = 1024 * 1024

/** Fills the disk but for so much. */
function fill(left: number): void {
  const { bavail, bsize } = statfsSync(folder)
  writeFileSync(filler, Buffer.alloc(bavail * bsize - left))
}

test('a full disk is told as what it is, and nothing is lost', async () => {
  test.skip(!mounted, 'a disk cannot be mounted here')
  world = await openWorld({}, join(folder, 'data'))
  const { today, app, as, signedIn } = world
  const { cash, supervisor } = as
  const post = (i: number) =>
    cash.post('/api/receipts', {
      data: {
        customer: 'K1',
        date: today,
        means: [{ means: 'cash', amount: 100, reference: 'r'.repeat(60) }],
        onAccount: 100,
      },
      headers: { 'idempotency-key': `disk-${i}` },
    })
  const importing = (name: string, rows: number) =>
    supervisor.post('/api/documents/imports/documents', {
      data: `number,customer,date,amount,text\n${Array.from(
        { length: rows },
        (_, i) => `${name}-${i},K2,${today},1.00,${'t'.repeat(150)}`,
      ).join('\n')}\n`,
      headers: { 'content-type': 'text/csv' },
    })
  expect((await post(0)).status()).toBe(201)
  const FULL = {
    status: 507,
    title: 'Disk full',
    detail: expect.stringMatching(/disk .* is full: nothing was/),
  }

  // Room for a part of an import only: it is refused whole, in the middle.
  fill(68 * MB)
  const half = await importing('HALF', 20_000)
  const { status, detail } = FULL
  expect(await half.json()).toMatchObject({ status, detail, title: 'Nothing was imported' })
  const [found, health] = [await cash.get('/api/jump?q=HALF-1'), await cash.get('/api/health')]
  expect(await found.json()).toEqual({ items: [] })
  expect((await health.json()) as object).toMatchObject({ database: 'ok' })

  rmSync(filler)
  fill(40 * MB)
  const full = await cash.get('/api/health')
  expect([full.status(), await full.json()]).toEqual([
    503,
    expect.objectContaining({ status: 'down', database: 'ok', disk: 'full' }),
  ])
  for (let i = 1; i < 20; i++) {
    const answer = await post(i)
    expect([answer.status(), await answer.json()]).toEqual([507, expect.objectContaining(FULL)])
  }
  // Who looks, looks on, and may sign in for it.
  expect((await cash.get('/api/aging')).status()).toBe(200)
  await (await signedIn('auditor@world.example')).dispose()

  rmSync(filler)
  expect((await supervisor.get('/api/health')).status()).toBe(200)
  for (let i = 1; i < 20; i++) expect((await post(i)).status()).toBe(201)
  expect((await importing('LAST', 500)).status()).toBe(200)
  expect(verify(app)).toMatchObject({ status: 0 })
})
