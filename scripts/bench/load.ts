import { spawn } from 'node:child_process'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { performance } from 'node:perf_hooks'
import { DEMO_PASSWORD, DEMO_PEOPLE, DEMO_TODAY } from '../../demo/people'
import { chance } from '../../simulators/chance'
import { freePort } from '../lib/mariadb.mjs'
import { say } from './base'

/*
 * Twenty people who browse and four who post, on the demo, through the application as it is started. Told is
 * how long each read takes, in half of the cases and in 95 of 100. A person looks at a screen for about a
 * second; `-- load hurry` takes that second away, and so measures what the machine can do at all.
 */

const READERS = 20
const POSTERS = 4
const SECONDS = 40
const LOOK_MS = 1000

/** What the screens ask for when they open. */
const SCREENS: readonly (readonly string[])[] = [
  ['/api/today', '/api/today/history'],
  ['/api/aging?limit=100', '/api/settings'],
  ['/api/aging?asOf=2026-06-30&limit=100'],
  ['/api/aging/items?bucket=overdue&limit=100'],
  ['/api/accounts?limit=100'],
  ['/api/accounts/{account}', '/api/accounts/{account}/items?limit=100'],
  ['/api/receipts?limit=60'],
  ['/api/banking/lines?limit=100', '/api/banking/accounts'],
  ['/api/books/entries?limit=60'],
  ['/api/books/trial-balance', '/api/books/tie-out'],
  ['/api/jump?q=sea', '/api/jump?q=1,200.00'],
  ['/api/outbox?limit=100', '/api/reminders/runs?limit=20'],
]

interface Person {
  cookie: string
  draw: ReturnType<typeof chance>
}

const pause = (ms: number) => new Promise(resolve => setTimeout(resolve, ms))

async function signIn(url: string, role: string, seed: string): Promise<Person> {
  const { email } = DEMO_PEOPLE.find(p => p.role === role)!
  const answer = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ email, password: DEMO_PASSWORD }),
  })
  if (!answer.ok) throw new Error(`${email} cannot sign in: ${answer.status}`)
  return { cookie: answer.headers.getSetCookie()[0]!.split(';')[0]!, draw: chance(seed) }
}

const sorted = (list: readonly number[]) => [...list].sort((a, b) => a - b)
const at = (list: readonly number[], share: number) =>
  list[Math.min(list.length - 1, Math.floor(list.length * share))]!

export async function benchLoad(hurry: boolean): Promise<void> {
  const data = mkdtempSync(join(tmpdir(), 'bilancio-load-'))
  const port = await freePort()
  const url = `http://127.0.0.1:${port}`
  const child = spawn(process.execPath, ['scripts/start.mjs'], {
    env: { ...process.env, PORT: String(port), BILANCIO_DATA: data, DATABASE_URL: '', BILANCIO_DEMO: '1' },
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  try {
    await new Promise<void>((resolve, reject) => {
      child.stdout.on('data', (chunk: Buffer) => {
        if (/ready at/.test(chunk.toString())) resolve()
      })
      child.once('exit', code => reject(new Error(`the application ended with ${code}`)))
    })
    await measure(url, hurry)
  } finally {
    const ended = new Promise(resolve => child.once('exit', resolve))
    child.kill('SIGINT')
    await ended
    rmSync(data, { recursive: true, force: true })
  }
}

async function measure(url: string, hurry: boolean): Promise<void> {
  const times = new Map<string, number[]>()
  const failed: string[] = []
  let posted = 0
  const timed = async (person: Person, path: string, init: RequestInit = {}) => {
    const begun = performance.now()
    const headers = { cookie: person.cookie, 'content-type': 'application/json' }
    const answer = await fetch(url + path, { ...init, headers })
    const text = await answer.text()
    const named = `${init.method ?? 'GET'} ${path.replace(/\/accounts\/\d+/, '/accounts/…').replace(/\?.*limit.*/, '')}`
    times.set(named, [...(times.get(named) ?? []), performance.now() - begun])
    if (answer.status >= 400) failed.push(`${answer.status} ${named} ${text.slice(0, 120)}`)
    return text
  }
  const readers: Person[] = []
  for (let i = 0; i < READERS; i++)
    readers.push(await signIn(url, i % 3 ? 'controller' : 'auditor', `reader ${i}`))
  const posters: Person[] = []
  for (let i = 0; i < POSTERS; i++) posters.push(await signIn(url, 'cash', `poster ${i}`))
  const { items } = JSON.parse(await timed(readers[0]!, '/api/accounts?limit=100')) as {
    items: { number: string; currency: string }[]
  }
  const euro = items.filter(a => a.currency === 'EUR')
  // Once through, so that nothing is measured that is read for the first time.
  for (const path of SCREENS.flat()) await timed(readers[0]!, path.replace('{account}', euro[0]!.number))
  times.clear()
  const end = performance.now() + SECONDS * 1000
  const look = (p: Person) => (hurry ? Promise.resolve() : pause(LOOK_MS * (0.5 + p.draw.next())))
  const browse = async (p: Person) => {
    while (performance.now() < end) {
      const screen = SCREENS[p.draw.whole(0, SCREENS.length - 1)]!
      const { number } = euro[p.draw.whole(0, euro.length - 1)]!
      await Promise.all(screen.map(path => timed(p, path.replace('{account}', number))))
      await look(p)
    }
  }
  const post = async (p: Person) => {
    while (performance.now() < end) {
      const amount = p.draw.whole(100, 90_000)
      const receipt = {
        customer: euro[p.draw.whole(0, euro.length - 1)]!.number,
        date: DEMO_TODAY,
        means: [{ means: 'transfer', amount }],
        onAccount: amount,
      }
      await timed(p, '/api/receipts', { method: 'POST', body: JSON.stringify(receipt) })
      posted++
      await look(p)
    }
  }
  await Promise.all([...readers.map(browse), ...posters.map(post)])
  say(
    `${READERS} who browse and ${POSTERS} who post${hurry ? ', without a pause' : ''}, ${SECONDS} s: ` +
      `${[...times.values()].reduce((a, t) => a + t.length, 0)} requests, ${posted} receipts, ` +
      `${failed.length} failed`,
  )
  for (const f of failed.slice(0, 5)) say(`  ${f}`)
  for (const [named, list] of [...times].sort()) {
    const all = sorted(list)
    say(
      `  ${named.padEnd(52)} half ${at(all, 0.5).toFixed(0).padStart(5)} ms   95 of 100 ` +
        `${at(all, 0.95).toFixed(0).padStart(5)} ms   longest ${all.at(-1)!.toFixed(0).padStart(5)} ms`,
    )
  }
}
