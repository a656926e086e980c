import { intents, postIntent } from '../tests/server/post'
import { performance } from 'node:perf_hooks'
import { agingQuery } from '../contract/aging'
import { itemsQuery } from '../contract/accounts'
import { bank as bankContract } from '../contract/banking/lines'
import { receipts as receiptContract } from '../contract/receipts'
import { addDays } from '../core/calendar'
import { int, openDatabase } from '../server/db/connection'
import { migrate } from '../server/db/migrate'
import { seedBasics } from '../server/db/seed'
import { writeSetting } from '../server/db/settings'
import { movesAsOfSql } from '../server/ledger/asOf'
import { verifyLedger } from '../server/ledger/verify'
import { addBankAccount } from '../server/services/banking/accounts'
import { listLines } from '../server/services/banking/lines'
import { listCovered } from '../server/services/banking/world'
import { readCard } from '../server/services/accounts/card'
import { readItems } from '../server/services/accounts/items'
import { readAging } from '../server/services/aging/aging'
import { writeCamt } from '../formats/statements'
import { readLine } from '../server/services/banking/lines'
import { takeStatement } from '../server/services/banking/statements'
import { importCustomers, importDocuments } from '../server/services/documents/imports'
import { listReceipts } from '../server/services/receipts/receipts'
import { benchCash } from './benchCash'

/**
 * 50,000 customers and 1,000,000 items, 300,000 of them open; our reads beside the best single SQL statement
 * we know for the same result on the same data. Ratios of medians in one run. `npm run bench -- small` takes
 * a hundredth of it, `-- cash` the measures of cash work only.
 */
const small = process.argv.includes('small')
const CUSTOMERS = small ? 500 : 50_000
const INVOICES = small ? 6500 : 650_000
const RECEIPTS = small ? 3500 : 350_000
const OPEN = small ? 3000 : 300_000
const TODAY = '2026-11-16'
const database = openDatabase(process.env.DATABASE_URL!, 12)
const say = (text: string) => console.log(text)
const run = (sql: string) => database.run(sql)

async function build(): Promise<void> {
  await migrate(database)
  await seedBasics(database)
  await run(
    `INSERT INTO person (email, name, role, password_hash)
      VALUES ('bench@example.org', 'Bench', 'supervisor', 'x')`,
  )
  await writeSetting(database, 1, 'clock', TODAY)
  await run(
    `INSERT INTO customer (id, number, name, class, country, language, currency, terms, person_id)
      SELECT seq, CONCAT('B', LPAD(seq, 6, '0')), CONCAT('Bench customer ', seq), ELT(1 + seq % 4, 'food',
      'feed', 'care', 'fish'), 'IE', 'en', 'EUR', 'net 30', 1 FROM seq_1_to_${CUSTOMERS}`,
  )
  // Invoices, then receipts that pay the first so many of them in full: one entry each, written in bulk as
  // the door would.
  const date = (seq: string, span: number) => `DATE_SUB('${TODAY}', INTERVAL (${seq} * 7919 % ${span}) DAY)`
  const customer = (seq: string) => `1 + (${seq} * 104729 % ${CUSTOMERS})`
  const amount = (seq: string) => `1000 + (${seq} * 6151 % 900000)`
  const closed = INVOICES - OPEN
  await run(
    `INSERT INTO entry (id, number, date, kind, text, person_id)
      SELECT seq, seq, ${date('seq', 720)}, 'document', 'Bench', 1 FROM seq_1_to_${INVOICES}`,
  )
  await run(`INSERT INTO item (id, customer_id, entry_id, kind, register, number, part, currency, side,
    amount, base_amount, tax, document_date, due_date, posting_date, person_id)
    SELECT seq, ${customer('seq')}, seq, 'invoice', 'document', CONCAT('I', seq), 1, 'EUR', 'debit',
      ${amount('seq')}, ${amount('seq')}, 0, ${date('seq', 720)}, DATE_ADD(${date('seq', 720)},
      INTERVAL 30 DAY), ${date('seq', 720)}, 1 FROM seq_1_to_${INVOICES}`)
  await run(
    `INSERT INTO journal_line (entry_id, account, currency, amount, base_amount, customer_id, item_id)
      SELECT id, '1100', 'EUR', amount, amount, customer_id, id FROM item`,
  )
  await run(
    `INSERT INTO journal_line (entry_id, account, currency, amount, base_amount, customer_id, item_id)
      SELECT id, '4000', 'EUR', -amount, -amount, customer_id, id FROM item`,
  )
  const paid = (seq: string) =>
    `LEAST('${TODAY}', DATE_ADD(${date(seq, 720)}, INTERVAL 20 + ${seq} % 40 DAY))`
  await run(
    `INSERT INTO entry (id, number, date, kind, text, person_id)
      SELECT ${INVOICES} + seq, ${INVOICES} + seq, ${paid('seq')}, 'receipt', 'Bench', 1
      FROM seq_1_to_${RECEIPTS}`,
  )
  await run(`INSERT INTO item (id, customer_id, entry_id, kind, register, number, part, currency, side,
    amount, base_amount, tax, document_date, due_date, posting_date, person_id)
    SELECT ${INVOICES} + seq, ${customer('seq')}, ${INVOICES} + seq, 'receipt', 'receipt', CONCAT('R-',
      LPAD(seq, 6, '0')), 1, 'EUR', 'credit', ${amount('seq')}, ${amount('seq')}, 0, ${paid('seq')},
      ${paid('seq')}, ${paid('seq')}, 1 FROM seq_1_to_${RECEIPTS}`)
  // One in five was keyed before the bank showed it, and settled since, but for the last few.
  const waits = INVOICES + RECEIPTS - Math.round(RECEIPTS / 500)
  const restsIn = `IF(id % 5 = 0 OR id > ${waits}, '1220', '1200')`
  await run(
    `INSERT INTO journal_line (entry_id, account, currency, amount, base_amount, customer_id, item_id)
      SELECT id, ${restsIn}, 'EUR', amount, amount, customer_id, id FROM item WHERE id > ${INVOICES}`,
  )
  // What the bank has shown since moved from clearing to the bank.
  for (const [account, sign] of [
    ['1220', '-'],
    ['1200', ''],
  ])
    await run(
      `INSERT INTO journal_line (entry_id, account, currency, amount, base_amount)
        SELECT id, '${account}', 'EUR', ${sign}amount, ${sign}amount FROM item
        WHERE id > ${INVOICES} AND id <= ${waits} AND id % 5 = 0`,
    )
  await run(
    `INSERT INTO journal_line (entry_id, account, currency, amount, base_amount, customer_id, item_id)
      SELECT id, '1100', 'EUR', -amount, -amount, customer_id, id FROM item WHERE id > ${INVOICES}`,
  )
  await run(`INSERT INTO allocation (customer_id, entry_id, debit_item_id, credit_item_id, amount, debit_base,
    credit_base, effective, person_id)
    SELECT customer_id, id, id - ${INVOICES}, id, amount, amount, amount, posting_date, 1 FROM item
      WHERE id > ${INVOICES}`)
  await run(
    `INSERT INTO open_item SELECT id, customer_id, currency, due_date, document_date, posting_date, amount,
      base_amount FROM item WHERE id > ${closed} AND id <= ${INVOICES}`,
  )
  await run(
    `INSERT INTO account_total SELECT customer_id, currency, SUM(IF(id > ${closed}
      AND side = 'debit', amount, 0)), 0, SUM(IF(id > ${closed} AND side = 'debit', amount, 0)), 0 FROM item
      GROUP BY customer_id, currency`,
  )
  await run(
    `INSERT INTO account_day SELECT l.account, e.date, l.currency, SUM(l.amount), SUM(l.base_amount)
      FROM journal_line l JOIN entry e ON e.id = l.entry_id GROUP BY l.account, e.date, l.currency`,
  )
  await run(`UPDATE series SET next = ${INVOICES + RECEIPTS + 1} WHERE name = 'entry'`)
  await run(`UPDATE series SET next = ${RECEIPTS + 1} WHERE name = 'receipt'`)
  await run(
    `INSERT INTO receipt_means (item_id, means, amount, base_amount, reference, account)
      SELECT id, 'transfer', amount, base_amount, CONCAT('T', id), ${restsIn} FROM item WHERE id > ${INVOICES}`,
  )
  await addBankAccount(database, 1, {
    name: 'Bench',
    iban: 'DE89370400440532013000',
    currency: 'EUR',
    account: '1200',
    csvMap: null,
  })
  await run(
    `INSERT INTO bank_statement (bank_account_id, number, format, from_date, to_date, opening, closing,
      file_name, file_hash, fresh, known, person_id)
      VALUES (1, 'BENCH', 'camt.053', '${TODAY}', '${TODAY}', 0, 0, '', '', 0, 0, 1)`,
  )
  await run(`INSERT INTO bank_line (bank_account_id, statement_id, fingerprint, occurrence, booking_date,
    value_date, currency, amount, name, iban, text, reference, end_to_end_id, bank_reference, code,
    return_reason, state)
    SELECT 1, 1, SHA2(id, 256), 1, posting_date, posting_date, 'EUR', amount, '', '', number, '', '',
      CONCAT('L', id), '', '', 'settled' FROM item WHERE id > ${INVOICES} AND id <= ${waits}`)
  await run(
    `INSERT INTO bank_match (line_id, kind, entry_id, told, person_id)
      SELECT l.id, IF(i.id % 5 = 0, 'covered', 'receipt'), i.entry_id, 'Bench', 1 FROM bank_line l
      JOIN item i ON i.number = l.text AND i.register = 'receipt'`,
  )
  await run(
    `INSERT INTO bank_match_target (match_id, kind, ref_id)
      SELECT b.id, IF(b.kind = 'covered', 'means', 'receipt'), IF(b.kind = 'covered', m.id, m.item_id)
      FROM bank_match b JOIN item i ON i.entry_id = b.entry_id AND i.kind = 'receipt'
      JOIN receipt_means m ON m.item_id = i.id`,
  )
  await run(
    `UPDATE receipt_means m SET met = EXISTS (SELECT 1 FROM bank_match_target t WHERE t.kind = 'means'
      AND t.ref_id = m.id)`,
  )
  await run(
    `ANALYZE TABLE item, allocation, open_item, journal_line, entry, customer, account_day, receipt_means,
      bank_line, bank_match, bank_match_target`,
  )
}

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
    `${what.padEnd(44)} ours ${a.toFixed(0).padStart(6)} ms   one statement ${b.toFixed(0).padStart(6)} ms   ratio ${(a / b).toFixed(2)}`,
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

/** Answers how many were posted in a second. */
async function receipts(): Promise<number> {
  const open = await database.select<{
    id: number
    number: string
    open: number
  }>(`SELECT o.item_id AS id, c.number, o.open FROM open_item o JOIN customer c ON c.id = o.customer_id
      ORDER BY o.item_id LIMIT 4000`)
  const actor = { id: 1, name: 'Bench', email: 'bench@example.org', role: 'supervisor' as const }
  let next = 0
  const SECONDS = 8
  const latencies: number[] = []
  const end = performance.now() + SECONDS * 1000
  await Promise.all(
    Array.from({ length: 8 }, async () => {
      while (performance.now() < end && next < open.length) {
        const o = open[next++]!
        const start = performance.now()
        await postIntent(
          database,
          actor,
          await intents.receipt(database, {
            customer: o.number,
            date: TODAY,
            text: '',
            means: [{ means: 'transfer', amount: int(o.open), reference: '' }],
            allocations: [{ itemId: o.id, amount: int(o.open) }],
            onAccount: 0,
          }),
        )
        latencies.push(performance.now() - start)
      }
    }),
  )
  const perSecond = latencies.length / SECONDS
  latencies.sort((a, b) => a - b)
  say(
    `${'Receipts posted, 8 clients'.padEnd(44)} ${perSecond.toFixed(0)} a second, median ${latencies[Math.floor(latencies.length / 2)]!.toFixed(0)} ms, 95 % within ${latencies[Math.floor(latencies.length * 0.95)]!.toFixed(0)} ms`,
  )
  return perSecond
}

/**
 * What the machine can do at all: the rows of a receipt inserted as they are, one transaction each, 8
 * clients.
 */
async function bareInserts(seconds: number): Promise<number> {
  let done = 0
  let number = 10_000_000
  const end = performance.now() + seconds * 1000
  const by = { person_id: 1 }
  const day = { document_date: TODAY, due_date: TODAY, posting_date: TODAY }
  await Promise.all(
    Array.from({ length: 8 }, async () => {
      while (performance.now() < end) {
        const n = ++number
        await database.transaction(async tx => {
          const [entry] = await tx.insert('entry', [
            { number: n, date: TODAY, kind: 'receipt', text: '', ...by },
          ])
          const item = {
            customer_id: 1,
            entry_id: entry!,
            kind: 'receipt',
            register: 'bench',
            number: `X${n}`,
            part: 1,
            currency: 'EUR',
            side: 'credit' as const,
            amount: 100,
            base_amount: 100,
            tax: 0,
            ...day,
            ...by,
          }
          const [id] = await tx.insert('item', [item])
          await tx.insert('receipt_means', [
            {
              item_id: id!,
              means: 'transfer',
              amount: 100,
              base_amount: 100,
              reference: '',
              account: '1220',
            },
          ])
          await tx.insert('allocation', [
            {
              customer_id: 1,
              entry_id: entry!,
              debit_item_id: id!,
              credit_item_id: id!,
              amount: 100,
              debit_base: 100,
              credit_base: 100,
              effective: TODAY,
              ...by,
            },
          ])
          const line = { entry_id: entry!, currency: 'EUR', amount: 100, base_amount: 100, customer_id: 1 }
          await tx.insert('journal_line', [
            { ...line, account: '1220', item_id: id! },
            { ...line, account: '1100', item_id: id!, amount: -100, base_amount: -100 },
          ])
          await tx.insert('audit', [{ what: 'bench', about: '', ...by }])
        })
        done++
      }
    }),
  )
  return done / seconds
}

/** A bank line as somebody opens it: its proposals made afresh, among all customers. */
async function openLine(): Promise<void> {
  const iban = 'NL91ABNA0417164300'
  const own = { name: 'Opened by hand', iban, currency: 'EUR', account: '1298', csvMap: null }
  await addBankAccount(database, 1, own)
  const line = {
    bookingDate: TODAY,
    valueDate: TODAY,
    amount: 123_456,
    name: 'BENCH CUSTOMER 4711',
    iban: '',
    text: 'payment of July',
    reference: '',
    endToEndId: '',
    bankReference: 'B1',
    code: 'PMNT-RCDT-ESCT',
    returnReason: '',
  }
  const statement = {
    format: 'camt.053' as const,
    id: 'S-1',
    account: iban,
    currency: 'EUR',
    from: TODAY,
    to: TODAY,
    opening: 0,
    closing: line.amount,
    lines: [line],
  }
  const actor = { id: 1, name: 'Bench', email: 'bench@example.org', role: 'supervisor' as const }
  const bytes = Buffer.from(writeCamt(statement, `${TODAY}T22:00:00`))
  await takeStatement(database, actor, bytes, { propose: false })
  const [row] = await database.select<{ id: number }>('SELECT MAX(id) AS id FROM bank_line')
  const times: number[] = []
  for (let n = 0; n < 20; n++) {
    const start = performance.now()
    await readLine(database, row!.id)
    times.push(performance.now() - start)
  }
  const [first] = times
  times.sort((a, b) => a - b)
  say(
    `${`A bank line opened, ${CUSTOMERS} customers`.padEnd(44)} median ${times[10]!.toFixed(0)} ms, the first ${first!.toFixed(0)} ms`,
  )
}

async function imports(): Promise<void> {
  const rows = small ? 1000 : 100_000
  const quiet = async () => {}
  await importCustomers(
    database,
    1,
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
  await importDocuments(database, 1, csv, { dryRun: false, skipExisting: false }, quiet)
  const seconds = (performance.now() - start) / 1000
  say(
    `${`Import of ${rows.toLocaleString('en')} documents`.padEnd(44)} ${seconds.toFixed(1)} s, ${(rows / seconds).toFixed(0)} rows a second`,
  )
}

if (process.argv.includes('cash')) {
  await benchCash(process.env.DATABASE_URL!, small, say)
  await database.close()
  process.exit(0)
}
const started = performance.now()
await build()
say(
  `Built ${CUSTOMERS.toLocaleString('en')} customers, ${(INVOICES + RECEIPTS).toLocaleString('en')} items, ${OPEN.toLocaleString('en')} open, in ${((performance.now() - started) / 1000).toFixed(0)} s`,
)
const aging = (asOf: string) => readAging(database, agingQuery.parse({ asOf }), {})
await compare(
  'Aging of today, first page with totals',
  () => aging(TODAY),
  () => database.select(agingStatement(TODAY), { asOf: TODAY }),
  3,
)
await compare(
  'Aging of 30 June, first page with totals',
  () => aging('2026-06-30'),
  () => database.select(agingStatement('2026-06-30'), { asOf: '2026-06-30' }),
  3,
)
await compare(
  'Receipts, first page with totals',
  () => listReceipts(database, receiptContract.list.query!.parse({})),
  () =>
    database.select(`SELECT i.*, c.number AS customer, m.means, m.reference FROM item i
        JOIN customer c ON c.id = i.customer_id JOIN receipt_means m ON m.item_id = i.id
        WHERE i.kind = 'receipt' ORDER BY i.document_date DESC, i.id DESC LIMIT 100`),
  3,
)
await compare(
  'Bank, first page of all lines',
  () => listLines(database, bankContract.lines.query!.parse({ state: 'all' })),
  () => database.select('SELECT * FROM bank_line ORDER BY booking_date DESC, id DESC LIMIT 100'),
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
const account = (i: number) => `B${String(1 + ((i * 37) % CUSTOMERS)).padStart(6, '0')}`
await compare(
  'Account page: open items and Card',
  async i => {
    await Promise.all([
      readItems(database, account(i), itemsQuery.parse({}), {}),
      readCard(database, account(i), {}, { id: 1, name: '', email: '', role: 'supervisor' }, {}),
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
const posted = await receipts()
await openLine()
await imports()
await benchCash(process.env.DATABASE_URL!, small, say)
const differences = await verifyLedger(database)
say(
  differences.length
    ? `The ledger does not verify: ${JSON.stringify(differences[0])}`
    : 'The ledger verifies',
)
// Last: the bare rows are no books, and would not verify.
const bare = await bareInserts(4)
say(
  `Receipts beside bare inserts of their rows      ${(posted / bare).toFixed(2)} × of ${bare.toFixed(0)} a second`,
)
say(`Memory of this process at its end: ${Math.round(process.memoryUsage().rss / 1024 / 1024)} MB`)
await database.close()
process.exitCode = differences.length ? 1 : 0
