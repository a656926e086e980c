import { changeBody, createBody } from '../../../contract/accounts/master'
import { agingQuery } from '../../../contract/aging'
import { itemsQuery } from '../../../contract/accounts'
import { commandNamed } from '../../../server/services/commands'
import { imageHere, keepImage } from '../../../server/image'
import { verifyLedger } from '../../../server/ledger/verify'
import { sign, type Signer } from '../../../server/ledger/waiting'
import { exportCustomers } from '../../../server/services/accounts/export'
import { findCustomer } from '../../../server/services/accounts/customers'
import { readItems } from '../../../server/services/accounts/items'
import { changeCustomer, createCustomer } from '../../../server/services/accounts/master/change'
import { closeCustomer } from '../../../server/services/accounts/master/close'
import { TABLES } from '../../../server/db/models'
import { ALONG, mergeCustomers } from '../../../server/services/accounts/master/merge'
import { handOver, listHandovers } from '../../../server/services/reminders/handover'
import { readMaster } from '../../../server/services/accounts/master/read'
import { readAging } from '../../../server/services/aging/aging'
import { ProblemError } from '../../../server/services/common/problems'
import { importCustomers } from '../../../server/services/documents/imports'
import type { Actor } from '../../../server/services/people/scope'
import { CUSTOMERS, customers, documents, DOCUMENTS, freshBooks, type Books } from '../database'
import { intents, postIntent } from '../post'

let books: Books
let cora: Actor
const second: Signer = { id: 2, name: 'Bea', role: 'supervisor', standsInFor: [] }
beforeAll(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
  await documents(books, DOCUMENTS)
  await books.database.run(`INSERT INTO person (email, name, role, password_hash) VALUES
    ('b@example.org', 'Bea', 'supervisor', 'x'), ('c@example.org', 'Cora', 'controller', 'x')`)
  cora = { id: 3, name: 'Cora', email: 'c@example.org', role: 'controller' }
})
afterAll(() => books.close())

const master = (number: string) => readMaster(books.database, number, {})
const change = async (number: string, ask: object, by = cora, version?: number) => {
  const body = changeBody.parse({ version: version ?? (await master(number)).version, ...ask })
  return changeCustomer(books.database, by, number, body, {})
}
const problem = async (work: Promise<unknown>) => {
  const error = await work.then(
    () => undefined,
    (e: unknown) => e as ProblemError,
  )
  return (
    error && { status: error.status, detail: error.message, paths: (error.errors ?? []).map(f => f.path) }
  )
}
const signed = (id: number) => sign(books.database, second, async () => cora, commandNamed, id)
const waiting = async (number: string) => (await master(number)).waiting

test('what is empty comes from the class, is overridden, and given back', async () => {
  await books.database.run(
    `UPDATE customer_class SET terms = 'net 14', risk_class = 'C' WHERE code = 'garden'`,
  )
  await change('K3', { set: { terms: '' } })
  expect(await master('K3')).toMatchObject({
    values: { terms: '', riskClass: '' },
    inherited: { terms: 'net 14', riskClass: 'C' },
  })
  expect((await findCustomer(books.database, 'K3', {})).terms).toBe('net 14')
  await change('K3', { set: { terms: 'eom 30' } })
  expect((await findCustomer(books.database, 'K3', {})).terms).toBe('eom 30')
})

test('two who edit one customer: the second is told what the first changed, and saves nothing', async () => {
  const { version } = await master('K2')
  await change('K2', { set: { city: 'Bodø', phone: '+47 555 0100' } })
  const told = await problem(change('K2', { set: { street: 'Kaien 3' } }, books.actor, version))
  expect(told).toMatchObject({ status: 409, paths: ['Town', 'Telephone'] })
  expect(told!.detail).toContain('Cora changed Town, Telephone')
  expect((await master('K2')).values).toMatchObject({ street: '', city: 'Bodø' })
  expect((await master('K2')).history[0]).toMatchObject({ by: 'Cora', field: 'Town', after: 'Bodø' })
})

test('bad values are told field by field and nothing is half done', async () => {
  const before = await master('K1')
  const told = await problem(
    change('K1', {
      set: {
        city: 'Cork',
        limitCurrency: 'XYZ',
        limitFrom: '2026-12-01',
        limitUntil: '2026-01-01',
        email: 'a@b.example\r\nBcc: c@d.example',
        class: 'nowhere',
        parent: 'K99',
        currency: 'GBP',
      },
    }),
  )
  expect(told!.paths.sort()).toEqual(['class', 'currency', 'email', 'limitCurrency', 'parent'])
  expect(await master('K1')).toEqual(before)
  expect(
    await problem(change('K1', { set: { limitFrom: '2026-12-01', limitUntil: '2026-01-01' } })),
  ).toMatchObject({ paths: ['limitUntil'] })
})

test('groups of any depth, without circles', async () => {
  await customers(books, 'number,name,country,parent\nG1,Head,IE,\nG2,Middle,IE,G1\nG3,Low,IE,G2\n')
  const heads = await books.database.select<{ number: string; head: string }>(
    `SELECT c.number, h.number AS head FROM customer c JOIN customer h ON h.id = COALESCE(c.head_id, c.id)
      WHERE c.number LIKE 'G_' ORDER BY 1`,
  )
  expect(heads.map(h => h.head)).toEqual(['G1', 'G1', 'G1'])
  const told = await problem(change('G1', { set: { parent: 'G3' } }))
  expect(told).toMatchObject({ status: 422, paths: ['parent'] })
  await expect(
    customers(books, 'number,name,country,parent\nG1,Head,IE,G3\n', { update: true }),
  ).rejects.toMatchObject({ errors: [expect.objectContaining({ column: 'parent' })] })
  // Two at once, each fine by itself.
  const both = await Promise.allSettled([
    change('K2', { set: { parent: 'G1' } }),
    change('G1', { set: { parent: 'K2' } }),
  ])
  expect(both.filter(r => r.status === 'fulfilled')).toHaveLength(1)
})

test('a limit that rises waits; signed it holds, and one that fell needs nobody', async () => {
  const asked = await change('K1', { set: { creditLimit: 90_000_00 }, reason: 'good year' })
  expect(asked).toMatchObject({ waiting: expect.any(Number), applied: [] })
  expect((await master('K1')).values.creditLimit).toBe(60_000_00)
  expect(await waiting('K1')).toMatchObject([{ kind: 'limit', by: 'Cora' }])
  await signed(asked.waiting!)
  expect((await master('K1')).values.creditLimit).toBe(90_000_00)
  expect((await master('K1')).history[0]).toMatchObject({ field: 'Credit limit', reason: 'good year' })
  expect(await change('K1', { set: { creditLimit: 50_000_00 } })).toMatchObject({
    waiting: null,
    applied: ['creditLimit'],
  })
})

test('a limit asked for before another one was changed is refused when it is signed', async () => {
  const asked = await change('K1', { set: { creditLimit: 70_000_00 } })
  await change('K1', { set: { creditLimit: 40_000_00 } })
  await expect(signed(asked.waiting!)).rejects.toThrow(/changed meanwhile, from 5000000 to 4000000/)
})

test('changed bank details are marked until a second person has seen them', async () => {
  await change('K1', { set: { iban: 'GB82 WEST 1234 5698 7654 32' } })
  expect(await master('K1')).toMatchObject({
    bank: { changedBy: 'Cora' },
    values: { iban: 'GB82WEST12345698765432' },
  })
  const request = (await waiting('K1')).find(w => w.kind === 'bank')!
  await expect(
    sign(books.database, { ...cora, standsInFor: [] }, async () => cora, commandNamed, request.id),
  ).rejects.toThrow(/nobody signs/)
  await signed(request.id)
  expect((await master('K1')).bank).toBeNull()
})

test('a new account: its number once, its limit signed', async () => {
  const body = createBody.parse({
    number: 'N7',
    values: { name: 'Nettle & Co', country: 'ie', creditLimit: 5_000_00 },
    contacts: [{ ...NOBODY, name: 'Ida', money: true }],
  })
  const made = await createCustomer(books.database, cora, body)
  expect(made).toMatchObject({ number: 'N7', waiting: expect.any(Number) })
  expect(await master('N7')).toMatchObject({
    values: { country: 'IE', currency: 'EUR', language: 'en', creditLimit: null },
    contacts: [{ name: 'Ida', money: true, reminders: false }],
  })
  expect(await problem(createCustomer(books.database, cora, body))).toMatchObject({ paths: ['number'] })
})
const NOBODY = {
  job: '',
  email: '',
  phone: '',
  money: false,
  reminders: false,
  statements: false,
  collections: false,
}

test('an account closes when nothing is open, and takes no documents then', async () => {
  const close = (number: string, closed: boolean) =>
    master(number).then(({ version }) =>
      closeCustomer(books.database, cora, number, { version, closed, reason: 'gone' }, {}),
    )
  expect((await problem(close('K1', true)))!.detail).toMatch(/cannot be closed: 3 items are open/)
  await customers(books, 'number,name,country\nZ1,Zeal,IE\n')
  expect(await close('Z1', true)).toMatchObject({ closedOn: '2026-11-16' })
  await expect(
    documents(books, 'number,customer,date,amount\nZ-1,Z1,2026-11-02,5.00\n'),
  ).rejects.toMatchObject({
    errors: [
      expect.objectContaining({ column: 'customer', message: expect.stringContaining('closed since') }),
    ],
  })
  await close('Z1', false)
  await documents(books, 'number,customer,date,amount\nZ-1,Z1,2026-11-02,5.00\n')
})

test('an export is an import: what comes out goes in again and changes nothing', async () => {
  const file = await exportCustomers(books.database, { format: 'csv' }, {})
  const again = await importCustomers(
    books.database,
    books.actor,
    file.bytes.toString('utf8'),
    { dryRun: true, skipExisting: false, update: true },
    async () => {},
  )
  expect(again).toMatchObject({ imported: 0, updated: 0, changes: [] })
  expect(again.rows).toBeGreaterThan(6)
})

test('an update by file: fields at once, limits and bank details to be signed', async () => {
  const csv = `number,city,credit_limit,iban,parent\nG3,Tralee,1200.00,DE89370400440532013000,G1\n`
  const run = (dryRun: boolean) =>
    importCustomers(books.database, cora, csv, { dryRun, skipExisting: false, update: true }, async () => {})
  const preview = await run(true)
  expect(preview.changes.map(c => c.field).sort()).toEqual(['city', 'credit_limit', 'iban', 'parent'])
  expect((await master('G3')).values.city).toBe('')
  expect(await run(false)).toMatchObject({ updated: 1, waiting: 2 })
  expect(await master('G3')).toMatchObject({
    values: { city: 'Tralee', creditLimit: null, parent: 'G1' },
    bank: { changedBy: 'Cora' },
    waiting: [{ kind: 'limit' }, { kind: 'bank' }],
  })
})

test('two records of one customer become one: all goes over, the old number finds it', async () => {
  await customers(books, 'number,name,country,currency\nM1,Marram Ltd,IE,EUR\nM2,Marram Limited,IE,EUR\n')
  await documents(
    books,
    'number,customer,date,amount\nM-1,M1,2026-10-01,100.00\nM-2,M2,2026-10-02,50.00\nM-3,M1,2026-10-03,7.00\n',
  )
  const keeper = imageHere(books.database)
  keepImage(books.database, keeper)
  const q = agingQuery.parse({ search: 'Marram' })
  expect((await readAging(books.database, q, {})).totals).toMatchObject({ total: 15_700, count: 2 })
  await handOver(books.database, books.actor, { customer: 'M1', agency: 'Grey & Stone', reason: 'late' })
  const merged = await mergeCustomers(books.database, books.actor, 'M1', {
    into: 'M2',
    reason: 'typed twice',
  })
  expect(merged).toEqual({ number: 'M2', items: 2 })
  expect((await readAging(books.database, q, {})).totals).toMatchObject({ total: 15_700, count: 1 })
  keepImage(books.database, null)
  expect((await readAging(books.database, q, {})).totals).toMatchObject({ total: 15_700, count: 1 })
  expect((await findCustomer(books.database, 'M1', {})).number).toBe('M2')
  // Who was with an agency stays with it.
  expect((await listHandovers(books.database)).items[0]!.customer.number).toBe('M2')
  const items = await readItems(books.database, 'M1', itemsQuery.parse({}), {})
  expect(items.items.map(i => i.number).sort()).toEqual(['M-1', 'M-2', 'M-3'])
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'M1',
      date: '2026-11-10',
      means: [{ means: 'transfer', amount: 15_000 }],
      allocations: items.items.filter(i => i.number !== 'M-3').map(i => ({ itemId: i.id, amount: i.open })),
    }),
  )
  expect((await readAging(books.database, q, {})).totals.total).toBe(700)
  expect(await verifyLedger(books.database)).toEqual([])
  const told = await problem(mergeCustomers(books.database, books.actor, 'M2', { into: 'K2', reason: 'x' }))
  expect(told!.detail).toMatch(/kept in EUR and K2 in NOK/)
})

/** Tables whose rows of a customer are moved one by one when two become one, or are worked out anew. */
const MOVED = [
  'item',
  'allocation',
  'journal_line',
  'open_item',
  'account_total',
  'payer_habit',
  'payer_learnt',
  'hold',
]
const ANEW = ['review_score']

test('every table that knows a customer goes over when two records become one', () => {
  const known = Object.entries(TABLES)
    .filter(([, table]) => 'customer_id' in table.columns)
    .map(([name]) => name)
  expect([...ALONG, ...MOVED, ...ANEW].sort()).toEqual(known.sort())
})

test('another class brings no higher limit by itself: that waits, the one of before stays', async () => {
  await customers(books, 'number,name,country,currency,class\nMU1,Murre,IE,EUR,feed\n')
  await books.database.run(`UPDATE customer_class SET credit_limit = 100000 WHERE code = 'feed'`)
  await books.database.run(`UPDATE customer_class SET credit_limit = 90000000 WHERE code = 'fish'`)
  const limit = async () => {
    const { values, inherited } = await master('MU1')
    return values.creditLimit ?? inherited.creditLimit
  }
  expect(await limit()).toBe(100_000)
  const asked = await change('MU1', { set: { class: 'fish' }, reason: 'breeds salmon now' })
  expect(asked.applied).toEqual(['class'])
  expect(asked.waiting).not.toBeNull()
  expect(await limit()).toBe(100_000)
  await signed(asked.waiting!)
  expect(await limit()).toBe(90_000_000)
  expect((await master('MU1')).values.creditLimit).toBeNull()
  // A lower one holds at once: nobody needs to sign it.
  const back = await change('MU1', { set: { class: 'feed' } })
  expect(back.waiting).toBeNull()
  expect(await limit()).toBe(100_000)
})

test('nor does a file that changes the class', async () => {
  await customers(books, 'number,name,country,currency,class\nMU2,Murrelet,IE,EUR,feed\n')
  const options = { dryRun: false, skipExisting: false, update: true }
  const told = await importCustomers(
    books.database,
    cora,
    'number,class\nMU2,fish\n',
    options,
    async () => {},
  )
  expect(told).toMatchObject({ updated: 1, waiting: 1 })
  const { values, inherited, waiting: asked } = await master('MU2')
  expect([values.class, values.creditLimit, inherited.creditLimit]).toEqual(['fish', 100_000, 90_000_000])
  await signed(asked[0]!.id)
  expect((await master('MU2')).values.creditLimit).toBeNull()
})
