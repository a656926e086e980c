import { LedgerRefused } from '../../../server/ledger/command'
import { intents, postIntent } from '../post'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { textOfPdf } from '../pdf'
import { agingQuery } from '../../../contract/aging'
import { int } from '../../../server/db/connection'
import { writeSetting } from '../../../server/db/settings'
import { verifyLedger } from '../../../server/ledger/verify'
import { readItems } from '../../../server/services/accounts/items'
import { readAging } from '../../../server/services/aging/aging'
import { listOutbox, readMessage, sendAgain, sendNext } from '../../../server/services/outbox/outbox'
import { changePolicy, policyOn } from '../../../server/services/reminders/policies'
import { addPause } from '../../../server/services/reminders/pauses'
import { confirmRun } from '../../../server/services/reminders/confirm'
import { editRun } from '../../../server/services/reminders/edit'
import { discardRun, proposeRun, runRow } from '../../../server/services/reminders/runs'
import { leftOutOf, noticesOf } from './world'
import { creditorReference } from '../../../core/banking/matching'
import { noticeLetter, previewLetter } from '../../../server/services/reminders/letters'
import { mailPort } from '../../../server/wiring'
import { openMailbox, type Mailbox } from '../../../simulators/mailbox'
import { CUSTOMERS, customers, DOCUMENTS, documents, freshBooks, TODAY, type Books } from '../database'

let books: Books
let mailbox: Mailbox
let folder: string
beforeEach(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
  await documents(books, DOCUMENTS)
  folder = mkdtempSync(join(tmpdir(), 'bilancio-mail-'))
  process.env.BILANCIO_DATA = folder
  mailbox = await openMailbox(join(folder, 'mailbox'))
  process.env.BILANCIO_SMTP = mailbox.url
})
afterEach(async () => {
  await mailbox.close()
  rmSync(folder, { recursive: true, force: true })
  await books.close()
})
const propose = (over: object = {}) =>
  proposeRun(books.database, books.actor, { asOf: TODAY, policy: 'standard', ...over })
const notices = (id: number) => noticesOf(books.database, id)
const confirm = async (id: number, version?: number) =>
  confirmRun(books.database, books.actor, id, {
    version: version ?? (await runRow(books.database, id)).version,
  })
const leaveOut = async (id: number, key: string) =>
  editRun(books.database, books.actor, id, {
    version: (await runRow(books.database, id)).version,
    key,
    edit: { leaveOut: 'by hand' },
  })
const sentOf = async (id: number) => (await notices(id)).flatMap(n => n.sent ?? [])
const status = (work: Promise<unknown>) =>
  work.then(
    () => 'accepted',
    (e: unknown) => (e instanceof LedgerRefused ? e.refusals[0]!.rule : (e as { status?: number }).status),
  )

test('proposal, confirmation, letter, e-mail by a real SMTP conversation, level and fee on the account', async () => {
  const first = await propose()
  expect((await notices(first.id)).map(n => [n.key, n.level, n.total])).toEqual([
    ['K1 EUR', 1, 121_040],
    ['K2 NOK', 1, 5_000_000],
  ])
  await confirm(first.id)
  await writeSetting(books.database, 1, 'clock', '2026-12-01')
  const second = await propose({ asOf: '2026-12-01' })
  const run = await confirm(second.id)
  expect(run).toMatchObject({ state: 'confirmed', confirmedBy: 'Sam Over' })
  expect((await sentOf(run.id)).map(s => s.number)).toEqual(['N-00003', 'N-00004'])
  const { items } = await readItems(
    books.database,
    'K1',
    { state: 'open', sort: 'due', limit: 50 } as never,
    {},
  )
  expect(items.map(i => [i.number, i.level, i.open])).toEqual([
    ['26-1', 2, 121_040],
    ['C-1', 0, -11_040],
    ['26-2', 1, 912_000],
    ['F-00001', 0, 1500],
  ])
  expect(await verifyLedger(books.database)).toEqual([])

  while (await sendNext(books.database, mailPort())) {
    /* until nothing waits */
  }
  const sent = await listOutbox(books.database, { state: 'sent', limit: 10 } as never)
  expect(sent.counts).toEqual({ sent: 4 })
  const message = await readMessage(books.database, sent.items.find(m => m.customer.number === 'K1')!.id)
  expect(message.reply).toMatch(/^250/)
  expect(message.received).toMatchObject({
    to: 'maud@hollin.example',
    attachments: [{ name: expect.stringMatching(/^N-0000\d\.pdf$/), type: 'application/pdf' }],
  })
  expect(message.received!.text).toContain('Dear Maud Ferrow')
})

test('the letter is a PDF that an independent reader reads', async () => {
  await writeSetting(books.database, 1, 'house', {
    ...{ street: '3 Kelp Quay', postcode: 'X91 K220', city: 'Carrowbeg', country: 'GB' },
    ...{ iban: 'IE29AIBK93115212345678', bic: 'ZZZZIE2DXXX', vatNumber: 'IE0000000W' },
  })
  await books.database.run(
    `UPDATE customer SET street = '4 Ferry Lane', postcode = 'D02', city = 'Dublin' WHERE number = 'K1'`,
  )
  const run = await confirm((await propose()).id)
  const { pdf } = await noticeLetter(books.database, (await sentOf(run.id))[0]!.id)
  const text = textOfPdf(pdf)
  for (const part of [
    'N-00001',
    'Hollin & Sedge',
    '26-1',
    '13 Sep 2026',
    '64',
    'EUR 1,210.40',
    '26 Nov 2026',
    'Page 1 / 1',
    // Somebody could post it, and pay it: our address, theirs with the country, account and reference.
    'Your company · 3 Kelp Quay · X91 K220 Carrowbeg',
    '4 Ferry Lane',
    'D02 Dublin',
    'IRELAND',
    'IBAN IE29 AIBK 9311 5212 3456 78',
    creditorReference('26-1').replace(/(.{4})(?=.)/g, '$1 '),
    'VAT IE0000000W',
  ])
    expect(text.replace(/\u00a0/g, ' ')).toContain(part)
  // The greeting stands below the table.
  expect(text.indexOf('Kind regards')).toBeGreaterThan(text.indexOf('Total to pay'))
})

test('confirming twice does it once, even at the same time', async () => {
  const { id } = await propose()
  await Promise.all([confirm(id, 1), confirm(id, 1), confirm(id, 1)])
  expect((await sentOf(id)).map(s => s.number)).toEqual(['N-00001', 'N-00002'])
  expect(int((await books.database.select('SELECT COUNT(*) AS n FROM outbox'))[0]!.n)).toBe(2)
  expect(await status(discardRun(books.database, books.actor, id))).toBe(409)
})

test('what was paid meanwhile refuses the confirmation, and nothing goes out', async () => {
  const { id } = await propose()
  const [item] = await books.database.select<{ id: number }>(`SELECT id FROM item WHERE number = '26-1'`)
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'K1',
      date: TODAY,
      text: '',
      means: [{ means: 'transfer', amount: 121_040, reference: '' }],
      allocations: [{ itemId: item!.id, amount: 121_040 }],
      onAccount: 0,
    }),
  )
  expect(await status(confirm(id))).toBe('run.moved-on')
  expect(int((await books.database.select('SELECT COUNT(*) AS n FROM notice'))[0]!.n)).toBe(0)
  // Proposed again it goes, without who paid.
  const again = await propose()
  await confirm(again.id)
  expect((await notices(again.id)).map(n => [n.key, n.sent?.number])).toEqual([['K2 NOK', 'N-00001']])
})

test('pauses, exclusions, a stale version, a discarded run', async () => {
  await addPause(books.database, books.actor, {
    customer: 'K2',
    reason: 'new accounts team',
    until: '2026-12-01',
  })
  const run = await propose()
  expect((await notices(run.id)).map(n => n.key)).toEqual(['K1 EUR'])
  expect(await leftOutOf(books.database, run.id)).toMatchObject([
    { customer: { number: 'K2' }, rule: 'paused' },
  ])
  expect(
    await status(addPause(books.database, books.actor, { customer: 'K2', reason: 'x', until: '2026-01-01' })),
  ).toBe(422)
  expect(await status(confirm(run.id, 9))).toBe('run.changed')
  await leaveOut(run.id, 'K1 EUR')
  expect(await status(confirm(run.id))).toBe('run.some')
  await discardRun(books.database, books.actor, run.id)
  expect(await status(confirm(run.id))).toBe('run.open')
  expect(await status(propose({ asOf: '2026-12-24' }))).toBe(422)
})

test('a mailbox that refuses is told, and can be tried again', async () => {
  await books.database.run(`UPDATE customer SET email = 'nobody@bounce.example' WHERE number = 'K1'`)
  await confirm((await propose()).id)
  while (await sendNext(books.database, mailPort())) {
    /* until nothing waits */
  }
  const { items } = await listOutbox(books.database, { state: 'failed', limit: 10 } as never)
  expect(items).toMatchObject([
    { customer: { number: 'K1' }, reply: expect.stringContaining('mailbox unavailable') },
  ])
  await books.database.run(`UPDATE outbox SET recipient = 'better@hollin.example' WHERE id = ${items[0]!.id}`)
  await sendAgain(books.database, books.actor, items[0]!.id)
  await sendNext(books.database, mailPort())
  expect((await listOutbox(books.database, { state: 'all', limit: 10 } as never)).counts).toEqual({ sent: 2 })
})

test('templates are sandboxed and checked, levels must rise, stale edits are refused', async () => {
  const policy = await policyOn(books.database, 'standard', TODAY)
  const edit = (change: (p: typeof policy) => void) => {
    const copy = structuredClone(policy)
    change(copy)
    // As the form sends it: from when it holds is said anew.
    const { code, validFrom: _, ...body } = copy
    return changePolicy(books.database, 1, code, body)
  }
  expect(
    await status(
      edit(p => {
        p.levels[0]!.texts.en!.body = '{{ nonsense }}'
      }),
    ),
  ).toBe(422)
  expect(
    await status(
      edit(p => {
        p.levels[0]!.texts.en!.body = '{% include "/etc/passwd" %}'
      }),
    ),
  ).toBe(422)
  expect(
    await status(
      edit(p => {
        p.levels[0]!.texts.en!.body = '{% for i in (1..10000000) %}x{% endfor %}'
      }),
    ),
  ).toBe(422)
  expect(
    await status(
      edit(p => {
        p.levels[1]!.days = 5
      }),
    ),
  ).toBe(422)
  expect(
    await edit(p => {
      p.levels[0]!.texts.en!.subject = 'Pay {{ total }}'
    }),
  ).toMatchObject({ version: 2 })
  expect(
    await status(
      edit(p => {
        p.name = 'stale'
      }),
    ),
  ).toBe(409)
  const run = await propose()
  expect((await previewLetter(books.database, run.id, 'K1 EUR')).subarray(0, 5).toString()).toBe('%PDF-')
  expect((await readAging(books.database, agingQuery.parse({}), {})).control!.ties).toBe(true)
})
