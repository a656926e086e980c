import { performance } from 'node:perf_hooks'
import { agingQuery } from '../../contract/aging'
import { itemsQuery } from '../../contract/accounts'
import { bank as bankContract } from '../../contract/banking/lines'
import { receipts as receiptContract } from '../../contract/receipts'
import { addDays } from '../../core/calendar'
import { movesAsOfSql } from '../../server/ledger/asOf'
import { verifyLedger } from '../../server/ledger/verify'
import { listLines } from '../../server/services/banking/lines'
import { listCovered } from '../../server/services/banking/world'
import { readCard } from '../../server/services/accounts/card'
import { readItems } from '../../server/services/accounts/items'
import { readAging } from '../../server/services/aging/aging'
import { importCustomers, importDocuments } from '../../server/services/documents/imports'
import { listReceipts } from '../../server/services/receipts/receipts'
import { actor, CUSTOMERS, database, INVOICES, OPEN, RECEIPTS, say, small, TODAY } from './base'
import { openLine } from './bankLine'
import { callsMeasured } from './calls'
import { benchCash } from './cash'
import { benchLoad } from './load'
import { houses } from './forecast'
import { forecastSpeed } from './forecastSpeed'
import { losses } from './losses'
import { payments } from './payments'
import { position } from './position'
import { lists, statements } from './chasing'
import { checks, comparison, fillImage, imageRight, visible } from './image'
import { posting } from './posting'
import { reminderRun } from './reminders'
import { build } from './world'

/*
 * 50,000 customers and 1,000,000 items, 300,000 of them open; our reads beside the best single SQL statement
 * we know for the same result on the same data. Ratios of medians in one run. `npm run bench -- small` takes
 * a hundredth of it; `-- cash`, `-- posting`, `-- bank`, `-- image`, `-- load`, `-- calls`, `-- letters`,
 * `-- lists`, `-- reminders`, `-- payments`, `-- losses`, `-- forecast` only these measures.
 */

async function median(times: number, work: (i: number) => Promise<unknown>): Promise<number> {
  await work(0)
  const taken: number[] = []
  for (let i = 1; i <= times; i++) {
    const start = performance.now()
    await work(i)
    taken.push(performance.now() - start)
  }
  return taken.sort((a, b) => a - b)[Math.floor(times / 2)]!
}

async function compare(
  what: string,
  ours: (i: number) => Promise<unknown>,
  sql: (i: number) => Promise<unknown>,
  times = 5,
): Promise<void> {
  const a = await median(times, ours)
  const b = await median(times, sql)
  say(
    `${what.padEnd(44)} ours ${a.toFixed(0).padStart(6)} ms   one statement ` +
      `${b.toFixed(0).padStart(6)} ms   ratio ${(a / b).toFixed(3)}`,
  )
}

const bucketSums = (
  asOf: string,
  open: string,
  due: string,
) => `SUM(IF(${due} >= '${asOf}', ${open}, 0)) AS b0, SUM(IF(${due} < '${asOf}'
  AND ${due} >= '${addDays(asOf, -30)}', ${open}, 0)) AS b1,
  SUM(IF(${due} < '${addDays(asOf, -30)}' AND ${due} >= '${addDays(asOf, -60)}', ${open}, 0)) AS b2,
    SUM(IF(${due} < '${addDays(asOf, -60)}' AND ${due} >= '${addDays(asOf, -90)}', ${open}, 0)) AS b3,
    SUM(IF(${due} < '${addDays(asOf, -90)}', ${open}, 0)) AS b4, SUM(${open}) AS total`

/**
 * The best single statement we know for the first page: the same source of open amounts, grouped and joined
 * once, no totals.
 */
const agingStatement = (asOf: string) => `SELECT c.number, c.name, g.* FROM (
  SELECT customer_id, ${bucketSums(asOf, 'base_open', 'due_date')}
    FROM ${movesAsOfSql({ asOf, today: TODAY, known: null })} s
    GROUP BY customer_id) g JOIN customer c ON c.id = g.customer_id ORDER BY g.total DESC LIMIT 100`

async function imports(): Promise<void> {
  const rows = small ? 1000 : 100_000
  const quiet = async () => {}
  await importCustomers(
    database,
    actor,
    'number,name,country\nIMP,Import,IE\n',
    { dryRun: false, skipExisting: false },
    quiet,
  )
  const csv =
    'number,kind,customer,date,currency,amount,tax\n' +
    Array.from(
      { length: rows },
      (_, i) =>
        `IMP-${i},invoice,B${String(1 + (i % CUSTOMERS)).padStart(6, '0')},2026-11-01,EUR,${(i % 900) + 1}.50,0.10`,
    ).join('\n')
  const start = performance.now()
  await importDocuments(database, actor, csv, { dryRun: false, skipExisting: false }, quiet)
  const seconds = (performance.now() - start) / 1000
  say(
    `${`Import of ${rows.toLocaleString('en')} documents`.padEnd(44)} ${seconds.toFixed(1)} s, ` +
      `${(rows / seconds).toFixed(0)} rows a second`,
  )
}

const account = (i: number) => `B${String(1 + ((i * 37) % CUSTOMERS)).padStart(6, '0')}`

async function bankReads(): Promise<void> {
  await compare(
    'Bank, first page of all lines',
    () => listLines(database, bankContract.lines.query!.parse({ state: 'all' })),
    async () => {
      await database.select('SELECT * FROM bank_line ORDER BY booking_date DESC, id DESC LIMIT 100')
      await database.select('SELECT currency, SUM(amount), COUNT(*) FROM bank_line GROUP BY currency')
    },
    3,
  )
  await compare(
    'What is covered and waits for the bank',
    () => listCovered(database, {}),
    () =>
      database.select(`SELECT m.*, i.number FROM receipt_means m JOIN item i ON i.id = m.item_id LEFT
          JOIN bank_match_target t ON t.kind = 'means' AND t.ref_id = m.id WHERE m.account = '1220'
          AND t.match_id IS NULL`),
    3,
  )
}

async function agings(): Promise<void> {
  for (const [asOf, name] of [
    [TODAY, 'today'],
    ['2026-06-30', '30 June'],
  ] as const) {
    await compare(
      `Aging of ${name}, first page with totals`,
      () => readAging(database, agingQuery.parse({ asOf }), {}),
      () => database.select(agingStatement(asOf), { asOf }),
      3,
    )
  }
}

async function reads(): Promise<void> {
  await compare(
    'Receipts, first page with totals',
    () => listReceipts(database, receiptContract.list.query!.parse({})),
    () =>
      database.select(`SELECT i.*, c.number AS customer, m.means, m.reference FROM item i
          JOIN customer c ON c.id = i.customer_id JOIN receipt_means m ON m.item_id = i.id
          WHERE i.kind = 'receipt' ORDER BY i.document_date DESC, i.id DESC LIMIT 100`),
    3,
  )
  await bankReads()
  await compare(
    'Account page: open items and Card',
    async i => {
      await Promise.all([
        readItems(database, account(i), itemsQuery.parse({}), {}),
        readCard(database, account(i), {}, actor, {}),
      ])
    },
    i =>
      database.select(
        `SELECT i.*, i.amount - COALESCE((SELECT SUM(amount) FROM allocation
          WHERE debit_item_id = i.id), 0) - COALESCE((SELECT SUM(amount) FROM allocation
          WHERE credit_item_id = i.id), 0) AS open FROM item i JOIN customer c ON c.id = i.customer_id
          WHERE c.number = :number HAVING open <> 0 ORDER BY due_date`,
        { number: account(i) },
      ),
    25,
  )
}

/** Whether the books, as all the measures have left them, verify. */
async function verified(): Promise<boolean> {
  const [first] = await verifyLedger(database)
  say(first ? `The ledger does not verify: ${JSON.stringify(first)}` : 'The ledger verifies')
  return !first
}

async function main(): Promise<boolean> {
  const parts = [
    'cash',
    'posting',
    'bank',
    'image',
    'load',
    'calls',
    'letters',
    'lists',
    'reminders',
    'payments',
    'losses',
    'forecast',
  ]
  const only = parts.find(part => process.argv.includes(part))
  if (only === 'cash') {
    await benchCash(process.env.DATABASE_URL!, small, say)
    return true
  }
  if (only === 'load') {
    await benchLoad(process.argv.includes('hurry'))
    return true
  }
  if (only === 'calls') {
    callsMeasured()
    return true
  }
  if (only === 'forecast') houses()
  const started = performance.now()
  await build()
  const items = (INVOICES + RECEIPTS).toLocaleString('en')
  say(
    `Built ${CUSTOMERS.toLocaleString('en')} customers, ${items} items, ${OPEN.toLocaleString('en')} ` +
      `open, in ${((performance.now() - started) / 1000).toFixed(0)} s`,
  )
  if (only === 'bank') {
    await bankReads()
    await openLine()
    return verified()
  }
  if (only === 'lists') {
    await fillImage()
    await lists()
    if (process.argv.includes('reminders')) await reminderRun()
    return verified()
  }
  if (only === 'reminders') {
    await reminderRun()
    return verified()
  }
  if (only === 'payments') {
    await payments()
    return verified()
  }
  if (only === 'forecast') {
    await forecastSpeed()
    return verified()
  }
  if (only === 'losses') {
    await losses()
    return verified()
  }
  if (only === 'letters') {
    await fillImage()
    await lists()
    await statements()
    return verified()
  }
  if (!only || only === 'image') {
    await fillImage()
    await agings()
    await comparison()
    await checks()
    await visible()
    await position()
    await imageRight()
    await lists()
    if (only && !process.argv.includes('reminders')) return verified()
    await reminderRun()
    if (only) return verified()
    await statements()
  }
  if (!only) {
    await reads()
    await openLine()
  }
  await posting()
  if (!only) {
    await imports()
    await benchCash(process.env.DATABASE_URL!, small, say)
  }
  return verified()
}

const isRight = await main()
say(`Memory of this process at its end: ${Math.round(process.memoryUsage().rss / 1024 / 1024)} MB`)
await database.close()
process.exitCode = isRight ? 0 : 1
