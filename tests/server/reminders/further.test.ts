import { execFileSync } from 'node:child_process'
import { mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import JSZip from 'jszip'
import { textOfPdf } from '../pdf'
import { claimBody, dryRunAsk } from '../../../contract/reminders'
import { int } from '../../../server/db/connection'
import { writeSetting } from '../../../server/db/settings'
import { perform } from '../../../server/ledger/command'
import { verifyLedger } from '../../../server/ledger/verify'
import { readCard } from '../../../server/services/accounts/card'
import { queueJob, readJob, runNextJob } from '../../../server/services/jobs/jobs'
import { handoverArchive } from '../../../server/services/reminders/archive'
import { claimCommand, readClaims } from '../../../server/services/reminders/claims'
import { confirmRun } from '../../../server/services/reminders/confirm'
import { requireDryRun, whatWorked } from '../../../server/services/reminders/dryRun'
import { addCost, endHandover, handOver, listHandovers } from '../../../server/services/reminders/handover'
import { changePolicy, policyOn, termsOf } from '../../../server/services/reminders/policies'
import { previewPolicy } from '../../../server/services/reminders/letters'
import { setReferenceRate } from '../../../server/services/reminders/rates'
import { listRuns, proposeRun, readRun } from '../../../server/services/reminders/runs'
import { prepareScheduled } from '../../../server/services/reminders/schedule'
import { withdrawRun } from '../../../server/services/reminders/withdraw'
import { keepHolds } from '../../../server/services/exposure/holds'
import { changeSettings } from '../../../server/services/setup/settings'
import { customers, documents, freshBooks, TODAY, type Books } from '../database'
import { intents, postIntent } from '../post'
import { leftOutOf, noticesOf, openItems, rule } from './world'

let books: Books
beforeEach(async () => {
  books = await freshBooks()
  await customers(
    books,
    `number,name,country,currency,class,language,email
Q1,Quay,IE,EUR,food,en,q1@quay.example
Q2,Quarry,GB,GBP,food,en,
Q3,Quill,US,USD,food,en,
Q4,Quern,DE,EUR,food,de,q4@quern.example
`,
  )
  await documents(
    books,
    `number,customer,date,due_date,currency,amount
Q-1,Q1,2026-04-01,2026-05-31,EUR,1000.00
Q-2,Q1,2026-10-20,2026-11-19,EUR,500.00
Q-3,Q2,2026-05-01,2026-05-31,GBP,900.00
Q-4,Q2,2026-05-01,2026-05-31,GBP,9999.99
Q-5,Q2,2026-05-01,2026-05-31,GBP,10000.00
Q-6,Q3,2026-05-01,2026-05-31,USD,100.00
Q-7,Q4,2026-06-01,2026-07-01,EUR,800.00
`,
  )
  const rates: [string, string, string][] = [
    ['ECB', '2026-01-01', '2'],
    ['ECB', '2026-07-01', '2.5'],
    ['GB base', '2026-01-01', '4'],
    ['GB base', '2026-07-01', '3.5'],
    ['DE base', '2026-07-01', '1.27'],
  ]
  for (const [code, from, percent] of rates)
    await setReferenceRate(books.database, 1, { code, from, percent, source: 'made up' })
})
afterEach(() => books.close())

const itemsOf = (number: string) => openItems(books.database, number)
const claim = (customer: string, itemIds: number[], over: object = {}) =>
  perform(books.database, books.actor, claimCommand, {
    ...claimBody.parse({ itemIds, ...over }),
    customer,
  })

// Directive 2011/7/EU, Art. 3 and 6: reference rate + 8 points by half year, EUR 40.
test('a debtor in the euro area: interest across the change of rate, and 40 euro, once', async () => {
  const found = await readClaims(books.database, 'Q1', {})
  expect(found).toMatchObject({ law: 'Directive 2011/7/EU', currency: 'EUR', trouble: '' })
  // 1,000.00 × 10 % × 30 ÷ 365 and × 10.5 % × 139 ÷ 365; what is not due is not claimed.
  expect(found.items).toMatchObject([
    {
      number: 'Q-1',
      interest: [
        { from: '2026-06-01', to: '2026-06-30', days: 30, rate: '10', amount: 822 },
        { from: '2026-07-01', to: TODAY, days: 139, rate: '10.5', amount: 3999 },
      ],
      interestAmount: 4821,
      compensation: 4000,
    },
  ])
  const { numbers } = await claim('Q1', [found.items[0]!.itemId])
  expect(numbers).toEqual(['I-00001', 'LC-00001'])
  const again = await readClaims(books.database, 'Q1', {})
  expect(again.items).toMatchObject([{ interest: [], compensation: 0 }])
  expect(await rule(claim('Q1', [found.items[0]!.itemId]))).toBe('claim.some')
  expect((await itemsOf('Q1')).map(i => [i.kind, i.open])).toEqual([
    ['invoice', 100_000],
    ['invoice', 50_000],
    ['interest', 4821],
    ['compensation', 4000],
  ])
  const [letter] = await books.database.select<{ letter: string }>(
    `SELECT letter FROM sent_letter WHERE kind = 'claim'`,
  )
  expect(letter!.letter).toContain('as Directive 2011/7/EU provides')
  expect(await verifyLedger(books.database)).toEqual([])
})

// Late Payment of Commercial Debts (Interest) Act 1998, s. 5A (from memory): under 1,000, 10,000, above.
test('a debtor in Britain: the rate of before interest starts holds; 40, 70 and 100 pounds by debt', async () => {
  const found = await readClaims(books.database, 'Q2', {})
  expect(found.items.map(i => [i.number, i.compensation, i.interest.length, i.interest[0]!.rate])).toEqual([
    ['Q-3', 4000, 1, '12'],
    ['Q-4', 7000, 1, '12'],
    ['Q-5', 10_000, 1, '12'],
  ])
  // Either may be waived.
  await claim('Q2', [found.items[0]!.itemId], { interest: false, letter: false })
  expect((await itemsOf('Q2')).filter(i => i.kind !== 'invoice').map(i => [i.kind, i.open])).toEqual([
    ['compensation', 4000],
  ])
})

test('without a law or a rate nothing is made up', async () => {
  expect((await readClaims(books.database, 'Q3', {})).trouble).toContain('no law of this country')
  const [item] = await itemsOf('Q3')
  expect(await rule(claim('Q3', [item!.id]))).toBe('claim.rule')
  await books.database.run(`DELETE FROM reference_rate WHERE code = 'DE base'`)
  expect((await readClaims(books.database, 'Q4', {})).trouble).toBe(
    'no DE base rate is known for 2026-07-02: enter it under Setup, Reminders',
  )
})

test('an account handed over: marked, no reminder, money and costs since are told, ended', async () => {
  const ask = { customer: 'Q1', agency: 'Grey & Stone', reason: 'three reminders in vain' }
  const row = await handOver(books.database, books.actor, ask)
  expect(row).toMatchObject({ amount: 150_000, open: 150_000, received: 0, costs: [], ended: null })
  expect(await rule(handOver(books.database, books.actor, ask))).toContain('with Grey & Stone already')
  expect(await readCard(books.database, 'Q1', {}, books.actor, {})).toMatchObject({
    handedOver: { to: 'Grey & Stone', on: TODAY },
  })
  const run = await proposeRun(books.database, books.actor, { asOf: TODAY })
  expect((await leftOutOf(books.database, run.id)).find(l => l.customer.number === 'Q1')).toMatchObject({
    rule: 'handed-over',
    reason: `handed over to Grey & Stone on ${TODAY}`,
  })
  const [first] = await itemsOf('Q1')
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'Q1',
      date: TODAY,
      means: [{ means: 'transfer', amount: 60_000 }],
      allocations: [{ itemId: first!.id, amount: 60_000 }],
    }),
  )
  await addCost(books.database, books.actor, row.id, {
    on: TODAY,
    currency: 'EUR',
    amount: 4_500,
    text: 'letter of the lawyer',
    charge: true,
  })
  const after = await addCost(books.database, books.actor, row.id, {
    on: TODAY,
    currency: 'EUR',
    amount: 900,
    text: 'commission',
    charge: false,
  })
  expect(after).toMatchObject({
    open: 90_000,
    received: 60_000,
    costs: [
      { text: 'letter of the lawyer', amount: 4_500, charged: 'BC-00001' },
      { text: 'commission', amount: 900, charged: null },
    ],
  })
  await endHandover(books.database, books.actor, row.id, { why: 'settled' })
  expect(await rule(endHandover(books.database, books.actor, row.id, { why: 'again' }))).toContain('ended')
  expect((await listHandovers(books.database)).items[0]!.ended).toEqual({ on: TODAY, why: 'settled' })
  expect(await verifyLedger(books.database)).toEqual([])
})

test('the archive opens with an independent reader and holds account, items, notices, copies', async () => {
  const run = await proposeRun(books.database, books.actor, { asOf: TODAY, customer: 'Q1' })
  await confirmRun(books.database, books.actor, run.id, { version: run.version })
  const row = await handOver(books.database, books.actor, { customer: 'Q1', agency: 'Grey', reason: 'late' })
  const { zip, name } = await handoverArchive(books.database, row.id)
  expect(name).toBe(`handover-Q1-${TODAY}`)
  const file = join(mkdtempSync(join(tmpdir(), 'bilancio-zip-')), 'a.zip')
  writeFileSync(file, zip)
  // Python's zipfile tests every member.
  const script = 'import sys,zipfile;z=zipfile.ZipFile(sys.argv[1]);print(z.testzip(), sorted(z.namelist()))'
  const told = execFileSync('python3', ['-c', script, file]).toString()
  for (const part of [
    'None',
    'account.csv',
    'items.csv',
    'notices/N-00001.pdf',
    'copies/Q-1.pdf',
    'timeline.csv',
  ])
    expect(told).toContain(part)
  const opened = await JSZip.loadAsync(zip)
  expect(await opened.file('items.csv')!.async('string')).toContain(
    'Q-1,invoice,2026-04-01,2026-05-31,EUR,1000.00',
  )
})

test('on its day a run is prepared once, whoever looks; a person confirms it', async () => {
  // 16 November 2026 is a Monday.
  const schedule = { weekday: 1, policy: '', levelOneBySelf: false }
  await changeSettings(books.database, books.actor, { reminderSchedule: schedule })
  const made = await Promise.all([prepareScheduled(books.database), prepareScheduled(books.database)])
  expect(made.filter(id => id !== null)).toHaveLength(1)
  expect(await prepareScheduled(books.database)).toBeNull()
  const { items } = await listRuns(books.database, { limit: 10 })
  expect(items).toMatchObject([{ prepared: 'schedule', state: 'proposed', notices: 4, by: 'Sam Over' }])
  // Its process died on the way: it is worked out anew.
  await books.database.run(
    `UPDATE reminder_run SET state = 'preparing', at = at - INTERVAL 1 HOUR WHERE prepared = 'schedule'`,
  )
  expect(await prepareScheduled(books.database)).toBe(items[0]!.id)
  expect((await listRuns(books.database, { limit: 10 })).items).toMatchObject([
    { state: 'proposed', notices: 4 },
  ])
  await writeSetting(books.database, 1, 'clock', '2026-11-17')
  expect(await prepareScheduled(books.database)).toBeNull()
})

test('the first level goes by itself where the house says so; the rest waits', async () => {
  const before = await proposeRun(books.database, books.actor, { asOf: TODAY, customer: 'Q1' })
  await confirmRun(books.database, books.actor, before.id, { version: before.version })
  await writeSetting(books.database, 1, 'clock', '2026-12-07')
  await changeSettings(books.database, books.actor, {
    reminderSchedule: { weekday: 1, policy: '', levelOneBySelf: true },
  })
  const id = await prepareScheduled(books.database)
  expect((await readRun(books.database, id!)).state).toBe('confirmed')
  expect((await noticesOf(books.database, id!)).map(n => [n.key, n.included, n.sent !== null])).toEqual([
    ['Q1 EUR', false, false],
    ['Q2 GBP', true, true],
    ['Q3 USD', true, true],
    ['Q4 EUR', true, true],
  ])
  const { items } = await listRuns(books.database, { limit: 1 })
  expect(items[0]).toMatchObject({ prepared: 'rest', state: 'proposed', notices: 1 })
  expect((await noticesOf(books.database, items[0]!.id))[0]).toMatchObject({ key: 'Q1 EUR', level: 2 })
})

test('a dry-run is a job, leaves nothing behind, and stands beside what was sent', async () => {
  const run = await proposeRun(books.database, books.actor, { asOf: TODAY })
  await confirmRun(books.database, books.actor, run.id, { version: run.version })
  const form = await policyOn(books.database, 'standard', TODAY)
  const [first, ...others] = form.levels
  const ask = dryRunAsk.parse({
    code: 'standard',
    policy: { ...termsOf(form), levels: [{ ...first!, fee: { EUR: 500 } }, ...others] },
    from: '2026-06-01',
    until: TODAY,
  })
  const count = async () =>
    int((await books.database.select<{ n: number }>('SELECT COUNT(*) AS n FROM notice'))[0]!.n)
  const sent = await count()
  const id = await queueJob(books.database, 1, 'reminders-dry-run', ask, Buffer.alloc(0))
  await runNextJob(books.database)
  const job = await readJob(books.database, id, books.actor)
  expect(job.state).toBe('done')
  const answer = job.result as {
    days: { on: string; notices: number; sent: { notices: number } }[]
    letters: number
  }
  expect(answer.days).toHaveLength(25)
  // Four customers with something overdue from June or July on: three levels each.
  expect(answer.letters).toBe(12)
  expect(answer.days.reduce((sum, d) => sum + d.sent.notices, 0)).toBe(4)
  expect(await count()).toBe(sent)
  await expect(requireDryRun(books.database, { ...ask, until: '2027-01-01' })).rejects.toThrow('or earlier')
  await expect(requireDryRun(books.database, { ...ask, from: '2020-01-01' })).rejects.toThrow('too many')
})

test('what worked: money after a notice is counted for its level', async () => {
  const run = await proposeRun(books.database, books.actor, { asOf: TODAY })
  await confirmRun(books.database, books.actor, run.id, { version: run.version })
  await writeSetting(books.database, 1, 'clock', '2026-12-20')
  const [item] = await itemsOf('Q4')
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'Q4',
      date: '2026-11-25',
      means: [{ means: 'transfer', amount: 80_000 }],
      allocations: [{ itemId: item!.id, amount: 80_000 }],
    }),
  )
  const { items, every } = await whatWorked(books.database)
  expect(every).toBe(1)
  expect(items).toMatchObject([{ policy: 'standard', level: 1, notices: 6, collected: [0, 80_000, 80_000] }])
})

test('a third level holds, tells the sales contact and proposes to hand over', async () => {
  await books.database.run(
    `INSERT INTO person (id, email, name, role, password_hash) VALUES (7, 'sal@example.org', 'Sal', 'sales', 'x')`,
  )
  await books.database.run(`UPDATE customer SET sales_id = 7 WHERE number = 'Q1'`)
  const { code, validFrom: _, ...form } = await policyOn(books.database, 'standard', TODAY)
  await changePolicy(books.database, 1, code, {
    ...form,
    levels: form.levels.map(l => ({ ...l, consequence: { hold: true, tellSales: true, handOver: true } })),
  })
  const run = await proposeRun(books.database, books.actor, { asOf: TODAY, customer: 'Q1' })
  await confirmRun(books.database, books.actor, run.id, { version: run.version })
  const messages = await books.database.select<{ text: string; to: number }>(
    'SELECT text, to_id AS `to` FROM message',
  )
  expect(messages).toEqual([{ text: 'Quay got a reminder of level 1, payable by 2026-11-26.', to: 7 }])
  const holds = () =>
    books.database.select(
      `SELECT h.cause FROM hold h JOIN customer c ON c.id = h.customer_id WHERE c.number = 'Q1'
        AND h.ended_at IS NULL AND h.cause = 'reminder'`,
    )
  await keepHolds(books.database)
  expect(await holds()).toHaveLength(1)
  await writeSetting(books.database, 1, 'clock', '2026-11-27')
  expect((await listHandovers(books.database)).proposed).toMatchObject([
    { customer: { number: 'Q1' }, level: 1, open: 150_000 },
  ])
  // Withdrawn, the hold goes with it.
  await withdrawRun(books.database, books.actor, run.id, { keys: null, reason: 'a mistake', tell: false })
  await keepHolds(books.database)
  expect(await holds()).toEqual([])
})

test('a policy that is being edited shows its letter for a real customer, and keeps nothing', async () => {
  const form = await policyOn(books.database, 'standard', TODAY)
  const [first, second, ...others] = form.levels
  const texts = { en: { subject: 'Two, {{ customer }}', body: 'Pay {{ total }}.' } }
  const policy = { ...termsOf(form), levels: [first!, { ...second!, fee: { EUR: 1234 }, texts }, ...others] }
  const pdf = await previewPolicy(books.database, 'standard', { customer: 'Q1', level: 2, policy })
  const text = textOfPdf(pdf)
  expect(text).toContain('Two, Quay')
  expect(text.replace(/\u00a0/g, ' ')).toContain('Pay EUR 1,012.34.')
  await expect(
    previewPolicy(books.database, 'standard', { customer: 'Q1', level: 7, policy }),
  ).rejects.toThrow('level 7')
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'Q1',
      date: TODAY,
      means: [{ means: 'transfer', amount: 100_000 }],
      allocations: [{ itemId: (await itemsOf('Q1'))[0]!.id, amount: 100_000 }],
    }),
  )
  await expect(
    previewPolicy(books.database, 'standard', { customer: 'Q1', level: 2, policy }),
  ).rejects.toThrow('nothing overdue')
  expect((await listRuns(books.database, { limit: 5 })).items).toEqual([])
})
