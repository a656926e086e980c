import { existsSync, mkdtempSync, readFileSync, readdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { BankAnswer } from '../../../core/payments'
import { readPain, writePain002 } from '../../../formats/payments'
import { writeSetting } from '../../../server/db/settings'
import { verifyLedger } from '../../../server/ledger/verify'
import { readExposure } from '../../../server/services/exposure/exposure'
import { advanceClock } from '../../../server/services/setup/clock'
import { queueJob, readJob, runNextJob } from '../../../server/services/jobs/jobs'
import { collectDue } from '../../../server/services/collections/collect'
import { confirmCollection, proveCollection } from '../../../server/services/collections/confirm'
import { discardRun, dropCollection } from '../../../server/services/collections/drop'
import { makeDebitFiles } from '../../../server/services/collections/files'
import { listCollections, listLeftOut, listRunRows } from '../../../server/services/collections/lists'
import {
  addMandate,
  changeMandate,
  listMandates,
  readMandate,
  setMandateState,
} from '../../../server/services/collections/mandates'
import { importMandates } from '../../../server/services/collections/mandateImport'
import { returnCollection } from '../../../server/services/collections/returns'
import { workReturn } from '../../../server/services/collections/rework'
import { editRun, proposeRun, readRun } from '../../../server/services/collections/runs'
import { takeAnswer } from '../../../server/services/payments/answers'
import { sendFile, takeFileBack } from '../../../server/services/payments/send'
import { proposeRun as proposeReminders } from '../../../server/services/reminders/runs'
import { mandateBody } from '../../../contract/collections'
import { customers, documents, TODAY } from '../database'
import { leftOutOf } from '../reminders/world'
import { acceptFirst, agrees, balance, books, itemId, line, lines, refusal, take } from '../banking/bank'
import { intents, postIntent } from '../post'

const COLLECT_ON = '2026-12-01'
let folder = ''
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'bilancio-bank-'))
  process.env.BILANCIO_BANK = folder
  await customers(
    books,
    `number,name,country,currency,class,language,email,terms
D1,Dune Mills,DE,EUR,food,de,d1@dune.example,net 30
D2,Dyke Feeds,IE,EUR,food,en,d2@dyke.example,net 30
D3,Delta Pots,FR,EUR,food,fr,,"2% 10, net 30"
D4,Dock Yard,IE,EUR,food,en,,net 30
D5,Downs,IE,EUR,food,en,,net 30
`,
  )
  await documents(
    books,
    `number,kind,customer,date,due_date,currency,amount
D-1,invoice,D1,2026-10-20,2026-11-19,EUR,1000.00
D-2,invoice,D1,2026-10-28,2026-11-27,EUR,250.00
D-3,invoice,D2,2026-10-25,2026-11-24,EUR,400.00
D-4,invoice,D3,2026-11-16,2026-12-16,EUR,500.00
D-5,invoice,D4,2026-10-20,2026-11-19,EUR,90.00
D-6,invoice,D5,2026-10-20,2026-11-19,EUR,70.00
D-7,credit-note,D2,2026-11-02,,EUR,50.00
`,
  )
  await books.database.run(`UPDATE customer SET method = 'direct-debit' WHERE number LIKE 'D%'`)
  await writeSetting(books.database, 1, 'paymentPolicy', { creditorId: 'DE98ZZZ09999999999', returnFee: 500 })
  await mandate('D1', { scheme: 'B2B', iban: 'DE89370400440532013000' })
  await mandate('D2', { iban: 'IE29AIBK93115212345678', reference: 'OLD/77' })
  await mandate('D3', { iban: 'FR1420041010050500013M02606', noticeDays: 5 })
  await mandate('D4', { iban: 'IE64IRCE92050112345678', most: 5000 })
})
afterEach(() => {
  delete process.env.BILANCIO_BANK
})

const mandate = (customer: string, over: object) =>
  addMandate(books.database, books.actor, {
    ...mandateBody.parse({ signedOn: '2026-01-15', iban: '', ...over }),
    customer,
  })
const propose = (over: object = {}) =>
  proposeRun(books.database, books.actor, { collectOn: COLLECT_ON, ...over })
const rows = async (runId: number) => (await listRunRows(books.database, runId, { limit: 50 })).items
const out = async (runId: number) =>
  (await listLeftOut(books.database, runId, { limit: 50 })).items.map(l => [
    l.customer.number,
    l.item,
    l.rule,
  ])
const all = async (only: 'all' | 'back' | 'not-final' = 'all') =>
  (await listCollections(books.database, { only, limit: 50 })).items
const confirm = async () => {
  const run = await propose()
  return confirmCollection(books.database, books.actor, run.id, run.version)
}
const sent = async () => {
  const { id } = await confirm()
  const { run } = await makeDebitFiles(books.database, books.actor, id)
  for (const file of run.files) await sendFile(books.database, books.actor, file.id)
  return readRun(books.database, id)
}
const toDay = (day: string) => writeSetting(books.database, 1, 'clock', day)
const collected = async () => {
  const run = await sent()
  await toDay(COLLECT_ON)
  await collectDue(books.database)
  return run
}
const outbox = () => (existsSync(join(folder, 'outbox')) ? readdirSync(join(folder, 'outbox')).sort() : [])
const answer = (fileId: string, over: Partial<BankAnswer>): Buffer =>
  Buffer.from(
    writePain002({
      answer: {
        id: `A-${fileId}`,
        fileId,
        status: '',
        code: '',
        text: '',
        blocks: [],
        payments: [],
        ...over,
      },
      of: 'pain.008.001.08',
      createdAt: `${TODAY}T18:00:00`,
      bank: { name: 'Bank', bic: '' },
      blockOf: () => `${fileId}-1`,
    }),
  )

test('what is due is proposed with mandate, sequence and discount; all else is left out with a reason', async () => {
  const run = await propose({ dueBy: '2026-11-30' })
  expect((await rows(run.id)).map(r => [r.customer.number, r.sequence, r.mandate.scheme, r.amount])).toEqual([
    ['D1', 'FRST', 'B2B', 125_000],
    // Credit on the account is taken off first.
    ['D2', 'FRST', 'CORE', 35_000],
  ])
  expect(await out(run.id)).toEqual([
    ['D4', null, 'limit'],
    ['D5', null, 'mandate'],
  ])
  // Soon enough, its discount is taken as of the day of collection.
  const soon = await propose({ collectOn: '2026-11-24', dueBy: '2026-11-24' })
  expect((await rows(soon.id)).map(r => [r.customer.number, r.amount, r.items[0]!.discount])).toEqual([])
  expect((await out(soon.id)).filter(l => l[2] === 'notice').length).toBe(3)
  const later = await propose({ collectOn: '2026-11-26', dueBy: '2026-11-26' })
  expect((await rows(later.id)).map(r => [r.customer.number, r.amount, r.items[0]!.discount])).toEqual([
    ['D3', 49_000, 1000],
  ])
})

test('announced, sent, collected, settled by the bank’s lump line: every euro in one place', async () => {
  const run = await propose({ dueBy: '2026-11-30' })
  const proof = await proveCollection(books.database, books.actor, run.id)
  expect(proof.lines.map(l => [l.account, l.amount])).toContainEqual(['1220', 160_000])
  const confirmed = await confirmCollection(books.database, books.actor, run.id, run.version)
  expect(confirmed.state).toBe('confirmed')
  const notices = await books.database.select<{ letter: string }>(
    `SELECT letter FROM sent_letter WHERE kind = 'notice' ORDER BY id`,
  )
  expect(notices.length).toBe(2)
  expect(notices[0]!.letter).toContain('DE98ZZZ09999999999')
  // On its way: no reminder, no second collection.
  const reminders = await proposeReminders(books.database, books.actor, { asOf: TODAY })
  expect((await leftOutOf(books.database, reminders.id)).filter(l => l.rule === 'collection')).toEqual([])
  const again = await propose({ dueBy: '2026-11-30' })
  expect((await out(again.id)).filter(l => l[2] === 'on-its-way').map(l => l[1])).toEqual([
    'D-1',
    'D-2',
    'D-3',
  ])
  const { run: made, dropped } = await makeDebitFiles(books.database, books.actor, run.id)
  expect(dropped).toEqual([])
  expect(made.files.map(f => [f.scheme, f.payments, f.total])).toEqual([
    ['B2B', 1, 125_000],
    ['CORE', 1, 35_000],
  ])
  for (const f of made.files) await sendFile(books.database, books.actor, f.id)
  expect(outbox()).toEqual(['PF-00001.xml', 'PF-00002.xml'])
  const core = readPain(readFileSync(join(folder, 'outbox/PF-00001.xml'), 'utf8'))
  expect(core.blocks[0]).toMatchObject({ scheme: 'CORE', sequence: 'FRST', date: COLLECT_ON })
  expect(core.blocks[0]!.payments[0]).toMatchObject({ amount: 35_000, mandate: { reference: 'OLD/77' } })
  // Nothing is posted before its day.
  expect(await collectDue(books.database)).toEqual({ collected: 0, amount: 0 })
  await toDay(COLLECT_ON)
  expect(await collectDue(books.database)).toEqual({ collected: 2, amount: 160_000 })
  expect(await collectDue(books.database)).toEqual({ collected: 0, amount: 0 })
  expect(await balance('1220')).toBe(160_000)
  const on = { bookingDate: COLLECT_ON, valueDate: COLLECT_ON }
  await take(
    [
      line(125_000, { ...on, text: 'SAMMLER PF-00002', code: 'PMNT-IDDT-BBDD' }),
      line(35_000, { ...on, endToEndId: 'DD-00002', code: 'PMNT-IDDT-ESDD' }),
    ],
    { from: COLLECT_ON, to: COLLECT_ON },
  )
  for (const l of await lines('open')) await acceptFirst(l.id)
  expect(await balance('1220')).toBe(0)
  await agrees()
  // Not final until the window is over: eight weeks, or three days between businesses.
  const notFinal = async (customer: string) =>
    (await readExposure(books.database, customer, {})).account.parts.notFinal
  expect([await notFinal('D1'), await notFinal('D2')]).toEqual([125_000, 35_000])
  await toDay('2026-12-08')
  expect([await notFinal('D1'), await notFinal('D2')]).toEqual([0, 35_000])
  await toDay('2027-01-27')
  expect(await notFinal('D2')).toBe(0)
})

test('three ways back: pain.002 before the day, the statement after it, and by hand', async () => {
  await collected()
  const [b, a] = await all()
  expect([a!.customer.number, b!.customer.number]).toEqual(['D1', 'D2'])
  // By hand, with the house's fee; the item is open again at its own due date.
  const back = await returnCollection(books.database, books.actor, b!.id, { code: 'AM04' })
  expect(back).toMatchObject({ state: 'returned', back: { code: 'AM04', action: 'again', done: '' } })
  const open = await books.database.select<{ number: string; open: number; due: string }>(
    `SELECT i.number, o.open, o.due_date AS due FROM open_item o JOIN item i ON i.id = o.item_id
      JOIN customer c ON c.id = i.customer_id WHERE c.number = 'D2' ORDER BY i.id`,
  )
  expect(open.map(o => [o.number, Number(o.open), o.due])).toEqual([
    ['D-3', 40_000 - 5000, '2026-11-24'],
    ['BC-00001', 500, COLLECT_ON],
  ])
  expect(await refusal(returnCollection(books.database, books.actor, b!.id, { code: 'AM04' }))).toBe(
    'return.state',
  )
  // The bank books all of it and takes the return apart.
  const on = { bookingDate: COLLECT_ON, valueDate: COLLECT_ON }
  await take(
    [line(125_000, { ...on, endToEndId: 'DD-00001' }), line(35_000, { ...on, endToEndId: 'DD-00002' })],
    { from: COLLECT_ON, to: COLLECT_ON },
  )
  for (const l of await lines('open')) await acceptFirst(l.id)
  const later = { bookingDate: '2026-12-02', valueDate: '2026-12-02' }
  await toDay('2026-12-02')
  await take(
    [
      line(-35_000, { ...later, endToEndId: 'DD-00002', returnReason: 'AM04', text: 'RETURN DD-00002' }),
      line(-125_000, { ...later, endToEndId: 'DD-00001', returnReason: 'MD01', text: 'RETURN DD-00001' }),
    ],
    { from: '2026-12-02', to: '2026-12-02' },
  )
  for (const l of await lines('open')) await acceptFirst(l.id)
  expect((await all()).map(c => [c.customer.number, c.state, c.back!.code])).toEqual([
    ['D2', 'returned', 'AM04'],
    ['D1', 'returned', 'MD01'],
  ])
  // No mandate: it is stopped by itself.
  const [stopped] = (await listMandates(books.database, { customer: 'D1', only: 'all', limit: 5 }, {})).items
  expect(stopped).toMatchObject({ state: 'suspended' })
  expect([await balance('1220'), await balance('1230')]).toEqual([0, 0])
  await agrees()
})

test('refused before its day nothing was posted, and a file that is refused whole waits again', async () => {
  const run = await sent()
  const core = run.files.find(f => f.scheme === 'CORE')!
  const b2b = run.files.find(f => f.scheme === 'B2B')!
  const refused = { endToEndId: 'DD-00002', status: 'RJCT', code: 'AC04', text: '' }
  await takeAnswer(books.database, books.actor, answer(core.number, { payments: [refused] }), 'a.xml')
  await takeAnswer(books.database, books.actor, answer(b2b.number, { status: 'RJCT', code: 'FF01' }), 'b.xml')
  expect((await all()).map(c => [c.customer.number, c.state, c.file?.number ?? null])).toEqual([
    ['D2', 'refused', core.number],
    ['D1', 'announced', null],
  ])
  expect(
    (await listMandates(books.database, { customer: 'D1', only: 'all', limit: 5 }, {})).items[0],
  ).toMatchObject({
    lastUsed: null,
    next: 'FRST',
  })
  await makeDebitFiles(books.database, books.actor, run.id)
  await toDay('2026-12-02')
  await collectDue(books.database)
  expect(await balance('1220')).toBe(0)
  expect(await verifyLedger(books.database)).toEqual([])
})

test('a file refused whole after its day is taken back from the customers, whoever reads the answer', async () => {
  const run = await collected()
  const core = run.files.find(f => f.scheme === 'CORE')!
  const before = (await all()).find(c => c.file?.number === core.number)!
  expect(before.state).toBe('collected')
  const cash = { ...books.actor, role: 'cash' as const }
  const taken = await takeAnswer(
    books.database,
    cash,
    answer(core.number, { status: 'RJCT', code: 'FF01' }),
    'a.xml',
  )
  expect(taken.refused).toBe(1)
  const now = await all()
  expect(now.find(c => c.id === before.id)).toMatchObject({ state: 'returned' })
  expect(now.filter(c => c.file?.number !== core.number).map(c => c.state)).toEqual(['collected'])
  // Nobody pays a fee for what a bank says of a whole file.
  expect(await books.database.select(`SELECT number FROM item WHERE kind = 'charge'`)).toEqual([])
  expect(await verifyLedger(books.database)).toEqual([])
  await agrees()
})

test('what is paid meanwhile is dropped before the file, refused with it, and kept on account after it', async () => {
  const pay = async (number: string, customer: string, amount: number) =>
    postIntent(
      books.database,
      books.actor,
      await intents.receipt(books.database, {
        customer,
        currency: 'EUR',
        date: TODAY,
        means: [{ means: 'transfer', amount, reference: '' }],
        allocations: [{ itemId: await itemId(number), amount }],
        onAccount: 0,
      }),
    )
  const { id } = await confirm()
  await pay('D-3', 'D2', 40_000 - 5000)
  const { run, dropped } = await makeDebitFiles(books.database, books.actor, id)
  expect(dropped).toEqual(['Dyke Feeds: D-3 was paid, credited or disputed meanwhile'])
  const [file] = run.files
  await pay('D-2', 'D1', 25_000)
  expect(await refusal(sendFile(books.database, books.actor, file!.id))).toMatch(/^Paid meanwhile/)
  await takeFileBack(books.database, books.actor, file!.id, 'paid')
  expect(
    (await makeDebitFiles(books.database, books.actor, id).catch(e => e as Error)) instanceof Error,
  ).toBe(false)
  expect((await all()).map(c => c.state)).toEqual(['dropped', 'dropped'])
})

test('paid on the way to the bank: the money is on account, not lost and not twice', async () => {
  await sent()
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'D1',
      currency: 'EUR',
      date: TODAY,
      means: [{ means: 'transfer', amount: 25_000, reference: '' }],
      allocations: [{ itemId: await itemId('D-2'), amount: 25_000 }],
      onAccount: 0,
    }),
  )
  await toDay(COLLECT_ON)
  expect(await collectDue(books.database)).toMatchObject({ collected: 2 })
  const [onAccount] = await books.database.select<{ open: number }>(
    `SELECT o.open FROM open_item o JOIN item i ON i.id = o.item_id JOIN customer c ON c.id = i.customer_id
      WHERE c.number = 'D1' AND o.open < 0`,
  )
  expect(Number(onAccount!.open)).toBe(-25_000)
  expect(await verifyLedger(books.database)).toEqual([])
})

test('what came back is presented again on a later day, as often as Setup allows', async () => {
  await collected()
  const [d2] = await all()
  await returnCollection(books.database, books.actor, d2!.id, { code: 'AM04', fee: 0 })
  const { run: againId } = await workReturn(books.database, books.actor, d2!.id, 'again')
  expect(await refusal(workReturn(books.database, books.actor, d2!.id, 'chase'))).toMatch(/^Worked/)
  const again = await readRun(books.database, againId!)
  expect(again).toMatchObject({
    again: true,
    collectOn: '2026-12-03',
    totals: { collections: 1, amount: 35_000 },
  })
  expect((await rows(again.id))[0]).toMatchObject({ sequence: 'RCUR' })
  await confirmCollection(books.database, books.actor, again.id, again.version)
  const { run } = await makeDebitFiles(books.database, books.actor, again.id)
  await sendFile(books.database, books.actor, run.files[0]!.id)
  await toDay('2026-12-03')
  await collectDue(books.database)
  const [second] = await all()
  await returnCollection(books.database, books.actor, second!.id, { code: 'AM04', fee: 0 })
  expect(await refusal(workReturn(books.database, books.actor, second!.id, 'again'))).toMatch(/^Often enough/)
  await workReturn(books.database, books.actor, second!.id, 'stop')
  expect((await listMandates(books.database, { customer: 'D2', only: 'stopped', limit: 5 }, {})).count).toBe(
    1,
  )
  expect(await all('back')).toEqual([])
  expect(await verifyLedger(books.database)).toEqual([])
})

test('after the window nothing is returned by hand; of what was never sent nothing comes back', async () => {
  const { id } = await confirm()
  const [announced] = await rows(id)
  expect(await refusal(returnCollection(books.database, books.actor, announced!.id, { code: 'AM04' }))).toBe(
    'return.state',
  )
  const { run } = await makeDebitFiles(books.database, books.actor, id)
  for (const f of run.files) await sendFile(books.database, books.actor, f.id)
  await toDay(COLLECT_ON)
  await collectDue(books.database)
  const [core] = (await all()).filter(c => c.mandate.scheme === 'CORE')
  await toDay('2027-02-10')
  const late = (code: string) => refusal(returnCollection(books.database, books.actor, core!.id, { code }))
  expect(await late('AM04')).toBe('return.window')
  // Without a valid mandate thirteen months.
  expect((await returnCollection(books.database, books.actor, core!.id, { code: 'MD01' })).state).toBe(
    'returned',
  )
})

test('mandates: amendments are told once, one-off and final end, two cannot change one, none lapses unseen', async () => {
  const [m] = (await listMandates(books.database, { customer: 'D2', only: 'all', limit: 5 }, {})).items
  await collected()
  const form = mandateBody.parse({ ...m!, signedOn: m!.signedOn })
  const used = await readMandate(books.database, m!.id)
  const changed = await changeMandate(books.database, books.actor, m!.id, {
    ...form,
    reference: 'NEW-1',
    iban: 'IE64IRCE92050112345678',
    version: used.version,
    endsNext: true,
  })
  expect(changed).toMatchObject({
    reference: 'NEW-1',
    next: 'FNAL',
    amended: ['its reference was OLD/77', 'its account was IE29AIBK93115212345678'],
  })
  expect(
    await refusal(
      changeMandate(books.database, books.actor, m!.id, { ...form, version: used.version, endsNext: false }),
    ),
  ).toMatch(/^Changed meanwhile/)
  const back = await changeMandate(books.database, books.actor, m!.id, {
    ...form,
    reference: 'OLD/77',
    version: changed.version,
    endsNext: false,
  })
  expect(back.amended).toEqual([])
  await setMandateState(books.database, books.actor, m!.id, {
    version: back.version,
    state: 'cancelled',
    reason: 'the customer cancelled it',
  })
  const over = await readMandate(books.database, m!.id)
  expect(
    await refusal(
      setMandateState(books.database, books.actor, m!.id, {
        version: over.version,
        state: 'active',
        reason: 'no',
      }),
    ),
  ).toMatch(/^Over/)
  await toDay('2029-10-01')
  expect(
    (await listMandates(books.database, { only: 'lapsing', limit: 9 }, {})).items.map(x => x.customer.number),
  ).toEqual(['D3', 'D4', 'D1'])
})

test('mandates from a file: all of it, or nothing and every fault', async () => {
  const wrong = importMandates(
    books.database,
    books.actor,
    `customer,signed_on,iban,scheme
D5,2026-02-30,IE29AIBK93115212345678,CORE
D9,2026-02-01,IE29AIBK93115212345679,SEPA
D5,2026-02-01,US29AIBK93115212345678,CORE
`,
  )
  await expect(wrong).rejects.toMatchObject({ title: 'Nothing was imported' })
  const file = `customer,reference,signed_on,iban,last_used
D5,M/5,2019-02-01,IE29AIBK93115212345678,2026-06-30
`
  expect(await importMandates(books.database, books.actor, file)).toEqual({ imported: 1 })
  expect(
    (await listMandates(books.database, { customer: 'D5', only: 'all', limit: 5 }, {})).items,
  ).toMatchObject([{ reference: 'M/5', next: 'RCUR', lapsesOn: '2029-06-30' }])
  expect(await refusal(mandate('D5', { iban: 'US29AIBK93115212345678' }))).toContain('mandate.iban')
  expect(await refusal(mandate('D5', { iban: 'IE29AIBK93115212345678', reference: 'M/5' }))).toBe(
    'mandate.taken',
  )
  expect(await refusal(mandate('D5', { iban: 'IE29AIBK93115212345678', signedOn: '2026-11-17' }))).toBe(
    'mandate.signed',
  )
})

test('edited, discarded, dropped: two people, one proposal; the Clock collects by itself', async () => {
  const run = await propose({ dueBy: '2026-11-30' })
  const edited = await editRun(books.database, books.actor, run.id, {
    version: run.version,
    customer: 'D1',
    leaveOut: null,
    items: { [await itemId('D-2')]: 'they asked us to wait' },
  })
  expect(edited.totals).toMatchObject({ collections: 2, amount: 135_000 })
  expect(
    await refusal(
      editRun(books.database, books.actor, run.id, {
        version: run.version,
        customer: 'D2',
        leaveOut: 'no',
        items: {},
      }),
    ),
  ).toMatch(/^Changed meanwhile/)
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'D2',
      currency: 'EUR',
      date: TODAY,
      means: [{ means: 'transfer', amount: 100, reference: '' }],
      allocations: [{ itemId: await itemId('D-3'), amount: 100 }],
      onAccount: 0,
    }),
  )
  expect(await refusal(confirmCollection(books.database, books.actor, run.id, edited.version))).toBe(
    'collect.moved',
  )
  const discarded = await discardRun(books.database, books.actor, run.id, {
    version: edited.version,
    reason: 'propose again',
  })
  expect(discarded.state).toBe('discarded')
  const { id } = await confirm()
  const [one] = await rows(id)
  await dropCollection(books.database, books.actor, one!.id, 'asked to')
  expect(await refusal(dropCollection(books.database, books.actor, one!.id, 'asked to'))).toMatch(
    /^Not to drop/,
  )
  const { run: made } = await makeDebitFiles(books.database, books.actor, id)
  for (const f of made.files) await sendFile(books.database, books.actor, f.id)
  await toDay('2026-11-30')
  await advanceClock(books.database, books.actor)
  expect((await all()).map(c => c.state).sort()).toEqual(['collected', 'dropped', 'dropped', 'dropped'])
  expect(await refusal(propose({ collectOn: '2026-12-25' }))).toMatch(/^Not a collection/)
})

test('a large collection is announced by a job, once, however often it is asked for', async () => {
  const many = Array.from({ length: 405 }, (_, n) => `M${n}`)
  await customers(
    books,
    `number,name,country,currency\n${many.map(m => `${m},Mill ${m},IE,EUR`).join('\n')}\n`,
  )
  const invoices = many.map(m => `${m}-1,invoice,${m},2026-10-20,2026-11-19,EUR,10.00`)
  await documents(books, `number,kind,customer,date,due_date,currency,amount\n${invoices.join('\n')}\n`)
  await books.database.run(`UPDATE customer SET method = 'direct-debit' WHERE number LIKE 'M%'`)
  await books.database.run(
    `INSERT INTO mandate (customer_id, reference, scheme, used_for, signed_on, iban, bic, holder, person_id)
      SELECT id, CONCAT('MM-', number), 'CORE', 'recurring', '2026-01-15', 'IE29AIBK93115212345678', '', name, 1
      FROM customer WHERE number LIKE 'M%'`,
  )
  const run = await propose()
  expect(run.totals.collections).toBeGreaterThan(400)
  const ask = () =>
    confirmCollection(books.database, books.actor, run.id, run.version, undefined, (db, personId, wanted) =>
      queueJob(db, personId, 'collections-confirm', wanted, Buffer.alloc(0)),
    )
  const waits = await ask()
  expect(waits).toMatchObject({ state: 'proposed', job: expect.any(Number) as unknown })
  expect((await ask()).job).toBe(waits.job)
  await runNextJob(books.database)
  expect(await readJob(books.database, waits.job!, books.actor)).toMatchObject({
    ...{ state: 'done', result: { collections: run.totals.collections } },
  })
  const confirmed = await readRun(books.database, run.id)
  expect(confirmed).toMatchObject({ state: 'confirmed', job: null, confirmedBy: 'Sam Over' })
  expect(confirmed.totals.byState).toMatchObject([{ state: 'announced', count: run.totals.collections }])
})
