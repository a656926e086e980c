import { intents, postIntent } from '../../tests/server/post'
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { performance } from 'node:perf_hooks'
import { chromium } from '@playwright/test'
import type { Handle } from '../../server/db/handle'
import { addDays } from '../../core/calendar'
import { decode, type MatchItem } from '../../core/banking/matching'
import { share, toMajor } from '../../core/money'
import { writeCamt } from '../../formats/statements'
import { openDatabase } from '../../server/db/connection'
import { migrate } from '../../server/db/migrate'
import { seedBasics } from '../../server/db/seed'
import { writeSetting } from '../../server/db/settings'
import { addBankAccount } from '../../server/services/banking/accounts'
import { takeStatement } from '../../server/services/banking/statements'
import { importCustomers, importDocuments } from '../../server/services/documents/imports'
import { hashPassword } from '../../server/services/people/passwords'
import { chance } from '../../simulators/chance'
import { inventWorld, paymentLines, type Truth } from '../../simulators/payers'
import { askAll, goalsOf, reliability } from '../match/score'
import { matchWorldOf } from '../match/world'
import { unrulyWorld, type UnrulyWorld } from '../../simulators/unruly/lines'

const TODAY = '2026-11-16'
const PASSWORD = 'bench-and-measure'
const actor = { id: 1, name: 'Bench', email: 'bench@example.org', role: 'supervisor' as const }
const quiet = async () => {}
const percent = (a: number, b: number) => `${((100 * a) / Math.max(1, b)).toFixed(2)} %`
const middle = (list: number[]) => [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!

/**
 * The measures of cash work: matching against the truth of simulated payers, lump sums, a large receipt, the
 * tick sheet's keys.
 */
export async function benchCash(url: string, small: boolean, say: (text: string) => void): Promise<void> {
  const tell = (what: string, result: string) => say(`${what.padEnd(44)} ${result}`)
  const [customers, items, lines] = small ? [700, 5000, 500] : [7000, 50_000, 5000]
  const payers = inventWorld('measure', customers, items, TODAY)
  const world = matchWorldOf(payers, addDays(TODAY, -1), TODAY)
  tellMatching(tell, `Matching, ${items.toLocaleString('en')} open items`, [
    { ...world, lines: world.lines.slice(0, lines) },
  ])
  const houses = Array.from({ length: small ? 3 : 10 }, (_, n) => unrulyWorld(`bench-${n}`))
  tellMatching(tell, `Matching, ${houses.length} untidy houses`, houses).forEach(step =>
    tell(`  said ${percent(step.said, 1)}`, `right ${percent(step.right, 1)} of ${step.lines} lines`),
  )
  lumps(tell)

  const name = 'bench_cash'
  const admin = openDatabase(url, 1)
  await admin.run(`CREATE DATABASE ${name} CHARACTER SET utf8mb4 COLLATE utf8mb4_unicode_ci`)
  await admin.close()
  const own = url.replace(/\/[^/]+$/, `/${name}`)
  const database = openDatabase(own, 12)
  await migrate(database)
  await seedBasics(database)
  await database.insert('person', [
    { email: actor.email, name: actor.name, role: actor.role, password_hash: await hashPassword(PASSWORD) },
  ])
  for (const [key, value] of [
    ['clock', TODAY],
    ['demo', true],
  ] as const)
    await writeSetting(database, 1, key, value)
  await importCustomers(
    database,
    actor,
    `number,name,country\n${payers.map(p => `${p.number},${p.name},IE`).join('\n')}\n`,
    { dryRun: false, skipExisting: false },
    quiet,
  )
  for (const p of payers.filter(x => x.iban))
    await database.run('UPDATE customer SET iban = :iban WHERE number = :number', {
      iban: p.iban,
      number: p.number,
    })
  const row = (
    p: (typeof payers)[number],
    number: string,
    kind: string,
    date: string,
    due: string,
    amount: number,
    d?: { date: string; amount: number },
  ) =>
    [
      ...[number, kind, p.number, date, due, 'EUR', toMajor(amount, 'EUR'), '0'],
      ...(d ? [d.date, toMajor(d.amount, 'EUR')] : ['', '']),
    ].join(',')
  const yesterday = addDays(TODAY, -1)
  const documents = payers.flatMap(p => [
    ...p.invoices.map(i => row(p, i.number, 'invoice', i.date, i.due, i.amount, i.discounts[0])),
    ...p.credits.map(k => row(p, k.number, 'credit-note', yesterday, yesterday, k.open)),
  ])
  const header = 'number,kind,customer,date,due_date,currency,amount,tax,discount_date,discount_amount'
  await importDocuments(
    database,
    actor,
    [header, ...documents, ''].join('\n'),
    { dryRun: false, skipExisting: false },
    quiet,
  )
  await statement(database, payers, lines, tell)
  await largeReceipt(database, tell)
  await database.close()
  await tickSheetKeys(own, small ? 2000 : 20_000, tell)
}

/** The three goals, and how often what was said was right. */
function tellMatching(
  tell: (what: string, result: string) => void,
  what: string,
  worlds: readonly UnrulyWorld[],
): ReturnType<typeof reliability> {
  const started = performance.now()
  const told = worlds.flatMap(world => askAll(world))
  const seconds = (performance.now() - started) / 1000
  const g = goalsOf(told)
  tell(
    `${what}, ${g.lines.toLocaleString('en')} lines`,
    `${seconds.toFixed(1)} s in one thread; ${percent(g.automatic, g.lines)} automatic (goal 90), of these ` +
      `right ${percent(g.automaticRight, g.automatic)} (goal 99.9); first proposal right for ` +
      `${percent(g.restRight, g.rest)} of the ${g.rest} others that have an answer (goal 90)`,
  )
  return reliability(told)
}

function lumps(tell: (what: string, result: string) => void): void {
  const c = chance('lumps')
  const times: number[] = []
  let found = 0
  for (let run = 0; run < 200; run++) {
    const items = Array.from({ length: 40 }, (_, i): MatchItem => {
      const date = addDays(TODAY, -c.whole(1, 90))
      const amount = c.whole(4000, 900_000)
      return {
        id: i + 1,
        customerId: 1,
        number: `26-${i}`,
        kind: 'invoice',
        side: 'debit',
        amount,
        open: amount,
        documentDate: date,
        dueDate: addDays(date, 30),
        order: '',
        discounts: [{ date: addDays(date, 14), amount: share(amount, 2, 100) }],
      }
    })
    const discountOf = (i: MatchItem) => (i.discounts[0]!.date >= TODAY ? i.discounts[0]!.amount : 0)
    const chosen = [...items]
      .sort((a, b) => (a.dueDate < b.dueDate ? -1 : 1))
      .filter(() => c.happens(0.85))
      .slice(0, c.whole(3, 34))
    const target = chosen.reduce((a, i) => a + i.open - discountOf(i), 0)
    const started = performance.now()
    const answers = decode(items, [], target, {
      referred: new Set(),
      discountsOf: i => [discountOf(i)].filter(Boolean),
      tolerance: 500,
      asOf: TODAY,
    })
    times.push(performance.now() - started)
    if (answers.some(a => a.take.reduce((x, t) => x + t.item.open - t.discount, 0) - a.difference === target))
      found++
  }
  tell(
    'Lump sum over 40 open items, 200 of them',
    `median ${middle(times).toFixed(1)} ms, longest ${Math.max(...times).toFixed(0)} ms; ${found} ` +
      'decoded into sets that meet the amount',
  )
}

async function statement(
  database: Handle,
  payers: ReturnType<typeof inventWorld>,
  most: number,
  tell: (what: string, result: string) => void,
): Promise<void> {
  await addBankAccount(database, 1, {
    name: 'Current',
    iban: 'IE64IRCE92050112345678',
    currency: 'EUR',
    account: '1200',
    csvMap: null,
  })
  const delivered = paymentLines(payers, addDays(TODAY, -1), TODAY, 'measure').slice(0, most)
  const file = Buffer.from(
    writeCamt(
      {
        format: 'camt.053',
        id: 'BENCH',
        account: 'IE64IRCE92050112345678',
        currency: 'EUR',
        from: TODAY,
        to: TODAY,
        opening: 0,
        closing: delivered.reduce((a, d) => a + d.line.amount, 0),
        lines: delivered.map(d => d.line),
      },
      `${TODAY}T22:00:00`,
    ),
  )
  const marks: Record<string, number> = {}
  const started = performance.now()
  const result = await takeStatement(database, actor, file, {}, async step => {
    marks[step] ??= performance.now()
  })
  const ended = performance.now()
  const matched = ((marks.Applying ?? ended) - started) / 1000
  tell(
    `Statement of ${delivered.length} lines taken in`,
    `read and matched in ${matched.toFixed(1)} s, ${result.applied} receipts posted in ` +
      `${((ended - (marks.Applying ?? ended)) / 1000).toFixed(1)} s more: ` +
      `${((ended - started) / 1000).toFixed(1)} s for all`,
  )
  const rows = await database.select<{
    reference: string
    customer: string
    number: string | null
    amount: number
    discount: number
  }>(`
    SELECT l.bank_reference AS reference, c.number AS customer, d.number, SUM(IF(k.kind = 'receipt', a.amount,
      0)) AS amount, SUM(IF(k.kind = 'discount', a.amount, 0)) AS discount
    FROM bank_line l JOIN bank_match m ON m.line_id = l.id JOIN bank_match_target t ON t.match_id = m.id
      AND t.kind = 'receipt' JOIN item r ON r.id = t.ref_id JOIN customer c ON c.id = r.customer_id
      LEFT JOIN item k ON k.id = r.id OR (k.born_of_item_id = r.id AND k.kind = 'discount') LEFT
      JOIN allocation a ON a.credit_item_id = k.id LEFT JOIN item d ON d.id = a.debit_item_id
      GROUP BY l.id, c.number, d.number`)
  const posted = new Map<string, string[]>()
  for (const r of rows)
    posted.set(`${r.reference} ${r.customer}`, [
      ...(posted.get(`${r.reference} ${r.customer}`) ?? []),
      ...(r.number ? [`${r.number} ${r.amount} ${r.discount}`] : []),
    ])
  const wanted = (t: Truth) =>
    t.allocations
      .map(a => `${a.number} ${a.amount} ${a.discount}`)
      .sort()
      .join('; ')
  const done = new Set(rows.map(r => r.reference))
  const right = delivered.filter(
    d =>
      done.has(d.truth.bankReference) &&
      (posted.get(`${d.truth.bankReference} ${d.truth.customer}`) ?? []).sort().join('; ') ===
        wanted(d.truth),
  ).length
  tell('  of what was posted without a look, right', `${percent(right, done.size)} of ${done.size}`)
}

async function largeReceipt(database: Handle, tell: (what: string, result: string) => void): Promise<void> {
  await importCustomers(
    database,
    actor,
    'number,name,country\nBIG,Big Payer,IE\n',
    { dryRun: false, skipExisting: false },
    quiet,
  )
  const times: number[] = []
  for (let run = 0; run < 12; run++) {
    const rows = Array.from({ length: 50 }, (_, i) => `BIG-${run}-${i},BIG,2026-11-01,100.00`)
    await importDocuments(
      database,
      actor,
      ['number,customer,date,amount', ...rows, ''].join('\n'),
      { dryRun: false, skipExisting: false },
      quiet,
    )
    const own = await database.select<{ id: number }>(`SELECT id FROM item WHERE number LIKE 'BIG-${run}-%'`)
    const started = performance.now()
    await postIntent(
      database,
      actor,
      await intents.receipt(database, {
        customer: 'BIG',
        date: TODAY,
        means: [{ means: 'transfer', amount: 500_000 }],
        allocations: own.map(o => ({ itemId: o.id, amount: 10_000 })),
      }),
    )
    times.push(performance.now() - started)
  }
  tell('Receipt over 50 items posted at the server', `median ${middle(times.slice(2)).toFixed(0)} ms`)
}

/**
 * The built application on this data, driven by a browser: what a key press waits until the next frame is
 * drawn.
 */
async function tickSheetKeys(
  url: string,
  items: number,
  tell: (what: string, result: string) => void,
): Promise<void> {
  const port = 3900 + (process.pid % 90)
  const data = join(process.env.BILANCIO_DATA!, 'app')
  const child = spawn(process.execPath, ['scripts/start.mjs'], {
    env: { ...process.env, DATABASE_URL: url, BILANCIO_DATA: data, PORT: String(port) },
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  try {
    await new Promise<void>((resolve, reject) => {
      child.stdout.on('data', (chunk: Buffer) => {
        if (/ready at/.test(chunk.toString())) resolve()
      })
      child.once('exit', code => reject(new Error(`the application ended with ${code}`)))
    })
    const browser = await chromium.launch({
      executablePath: process.env.CHROMIUM ?? '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run'],
    })
    const page = await browser.newPage({
      baseURL: `http://127.0.0.1:${port}`,
      viewport: { width: 1280, height: 800 },
    })
    await page.request.post('/api/session', { data: { email: actor.email, password: PASSWORD } })
    // As many items as the measure asks for: the rest of the ledger is left out of the answer.
    let served = 0
    await page.route('**/api/receipts/open-items**', async route => {
      const answer = await route.fetch()
      const body = (await answer.json()) as { items: unknown[]; next: string | null }
      const keep = body.items.slice(0, Math.max(0, items - served))
      served += keep.length
      await route.fulfill({
        response: answer,
        json: { items: keep, next: served >= items ? null : body.next },
      })
    })
    await page.goto('/receipts/tick-sheet')
    await page.locator('tbody tr[data-item]').first().waitFor()
    await page.waitForFunction(
      n => document.querySelector('tfoot')?.textContent?.includes(n),
      `${items.toLocaleString('en-US')} items`,
      { timeout: 60_000 },
    )
    await page.evaluate(() => {
      const waits: number[] = []
      Object.assign(window, { waits })
      window.addEventListener(
        'keydown',
        event => {
          const from = event.timeStamp
          requestAnimationFrame(() => {
            const channel = new MessageChannel()
            channel.port1.onmessage = () => waits.push(performance.now() - from)
            channel.port2.postMessage(0)
          })
        },
        true,
      )
    })
    // As fast as a held key repeats; one key in seven does nothing and shows what this machine takes for any
    // frame.
    for (let i = 0; i < 20; i++)
      for (const key of ['ArrowDown', ' ', 'j', 'd', 'ArrowUp', 'PageDown', 'F9']) {
        await page.keyboard.press(key)
        await page.waitForTimeout(33)
      }
    await page.waitForTimeout(500)
    const all = await page.evaluate(() => (window as unknown as { waits: number[] }).waits)
    const waits = all.filter((_, n) => n % 7 !== 6)
    const shown = await page.locator('tbody tr[data-item]').count()
    tell(
      `Tick sheet, ${items.toLocaleString('en')} items, ${waits.length} key presses`,
      `median ${middle(waits).toFixed(0)} ms, 95 % within ` +
        `${[...waits].sort((a, b) => a - b)[Math.floor(waits.length * 0.95)]!.toFixed(0)} ms, longest ` +
        `${Math.max(...waits).toFixed(0)} ms until drawn (${shown} rows in the page; a key that does ` +
        `nothing: ${middle(all.filter((_, n) => n % 7 === 6)).toFixed(0)} ms)`,
    )
    await browser.close()
  } finally {
    const gone = new Promise(resolve => child.once('exit', resolve))
    child.kill('SIGINT')
    await gone
  }
}
