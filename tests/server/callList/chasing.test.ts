import { promises as promiseOperations } from '../../../contract/promises'
import { disputes as disputeOperations } from '../../../contract/disputes'
import { callList as callOperations } from '../../../contract/callList'
import { itemsQuery } from '../../../contract/accounts'
import { imageHere, keepImage } from '../../../server/image'
import { writeSetting } from '../../../server/db/settings'
import { perform } from '../../../server/ledger/command'
import { sign } from '../../../server/ledger/waiting'
import { verifyLedger } from '../../../server/ledger/verify'
import { readItems } from '../../../server/services/accounts/items'
import { readCallList } from '../../../server/services/callList/callList'
import { callCommand, listCalls } from '../../../server/services/callList/calls'
import { commandNamed } from '../../../server/services/commands'
import { changeDispute, disputeCommand } from '../../../server/services/disputes/open'
import { disputeSums, listDisputes, readDispute } from '../../../server/services/disputes/read'
import { resolveDispute } from '../../../server/services/disputes/resolve'
import { readExposure } from '../../../server/services/exposure/exposure'
import {
  keepStands,
  listPromises,
  promiseCommand,
  promiseKeeper,
  readPromise,
  withdrawPromise,
} from '../../../server/services/promises/promises'
import { readSettings } from '../../../server/db/settings'
import { basisOf, chosenFor, proposeFor } from '../../../server/services/reminders/proposal'
import { customers, documents, freshBooks, TODAY, type Books } from '../database'
import { intents, postIntent } from '../post'

let books: Books
const bea = { id: 2, name: 'Bea', email: 'b@example.org', role: 'supervisor' as const, standsInFor: [] }
beforeAll(async () => {
  books = await freshBooks()
  await books.database.run(
    `INSERT INTO person (email, name, role, password_hash) VALUES ('b@example.org', 'Bea', 'supervisor', 'x'),
      ('c@example.org', 'Con', 'controller', 'x')`,
  )
  await customers(
    books,
    `number,name,country,currency,class,controller
L1,Larch,IE,EUR,food,c@example.org
L2,Linden,IE,EUR,food,c@example.org
L3,Lime,NO,NOK,food,b@example.org
L4,Laurel,IE,EUR,food,
`,
  )
  await documents(
    books,
    `number,customer,date,due_date,currency,amount,tax
L-1,L1,2026-08-01,2026-08-31,EUR,1000.00,180.00
L-2,L1,2026-09-01,2026-10-01,EUR,500.00,90.00
L-3,L2,2026-09-01,2026-10-01,EUR,4000.00,0
L-4,L3,2026-09-01,2026-10-01,NOK,9000.00,0
L-5,L4,2026-11-01,2026-11-30,EUR,50.00,0
L-6,L4,2026-08-01,2026-08-30,EUR,700.00,0
`,
  )
})
afterEach(() => keepImage(books.database, null))
afterAll(() => books.close())

const item = async (customer: string, number: string) => {
  const { items } = await readItems(books.database, customer, itemsQuery.parse({ state: 'all' }), {})
  return items.find(i => i.number === number)!
}
const promise = (ask: object) =>
  perform(books.database, books.actor, promiseCommand, ask as never) as Promise<{ id: number }>
const list = async (q: object = {}, actor = books.actor) =>
  readCallList(books.database, actor, callOperations.list.query!.parse({ of: 'all', ...q }), {})
const names = (rows: { customer: { number: string } }[]) => rows.map(r => r.customer.number)
const inProposal = async () => {
  const settings = await readSettings(books.database)
  const ask = { kind: 'reminder' as const, asOf: TODAY, policy: '', scope: {} }
  const basis = await basisOf(books.database, ask, {})
  return proposeFor(books.database, settings, basis, await chosenFor(books.database, ask))
}
const at = (day: string) => writeSetting(books.database, 1, 'clock', day)

test('a promise stops reminders of its items, and takes the account off the call list', async () => {
  const first = await item('L1', 'L-1')
  expect(names((await list()).items)).toContain('L1')
  const { id } = await promise({
    customer: 'L1',
    currency: 'EUR',
    items: [{ itemId: first.id, amount: first.open }],
    parts: [{ date: '2026-11-20', amount: first.open }],
    text: 'after the fair',
  })
  const { notices, leftOut } = await inProposal()
  expect(notices.find(n => n.customer.number === 'L1')!.items.map(i => i.number)).toEqual(['L-2'])
  expect(leftOut).toContainEqual(expect.objectContaining({ item: 'L-1', rule: 'promised' }))
  expect((await item('L1', 'L-1')).promise).toEqual({ id, date: '2026-11-20' })
  const row = await readPromise(books.database, id, {})
  expect(row).toMatchObject({ state: 'open', amount: 100_000, paid: 0, text: 'after the fair' })
  expect(row.parts[0]).toMatchObject({ until: '2026-11-24', state: 'due' })
  const { items } = await list()
  expect(items.find(r => r.customer.number === 'L1')!.why).toContain('1000 EUR more is promised')
})

test('memory and tables list the same, page by page', async () => {
  const fromTables = await list()
  keepImage(books.database, imageHere(books.database))
  expect(await list()).toEqual(fromTables)
  const [one, two] = [
    await list({ limit: 1 }),
    await list({ limit: 1, cursor: (await list({ limit: 1 })).next }),
  ]
  expect([...one.items, ...two.items]).toEqual(fromTables.items.slice(0, 2))
})

test('a person’s own list, a colleague’s, and of those one stands in for', async () => {
  const con = { id: 3, name: 'Con', email: 'c@example.org', role: 'controller' as const }
  const own = await readCallList(books.database, con, callOperations.list.query!.parse({}), {})
  expect(names(own.items).sort()).toEqual(['L1', 'L2'])
  const of = await list({ of: 'b@example.org' })
  expect(names(of.items)).toEqual(['L3'])
  await expect(list({ of: 'nobody@example.org' })).rejects.toThrow('looks after customers')
  await books.database.insert('deputy', [
    { absent_id: 2, deputy_id: 3, from_date: TODAY, until_date: '2026-11-20', person_id: 2 },
  ])
  const both = await readCallList(books.database, con, callOperations.list.query!.parse({}), {})
  expect(names(both.items).sort()).toEqual(['L1', 'L2', 'L3'])
  expect(both.whose.find(w => w.email === 'b@example.org')!.away).toBe(true)
})

test('nobody is rung twice on a day; a date to ring again counts; all of a call is kept or nothing', async () => {
  const call = (ask: object) =>
    perform(books.database, books.actor, callCommand, { customer: 'L2', ...ask } as never) as Promise<{
      id: number
      promise: number | null
    }>
  await expect(call({ outcome: 'promised' })).rejects.toThrow('what was promised is missing')
  await expect(
    call({
      outcome: 'promised',
      promise: { currency: 'EUR', parts: [{ date: '2026-11-18', amount: 400_001 }] },
    }),
  ).rejects.toThrow('4000.00 EUR are open')
  await expect(call({ outcome: 'reached', nextDate: '2026-11-15' })).rejects.toThrow('is over')
  expect((await listCalls(books.database, { customer: 'L2', limit: 10 }, {})).items).toEqual([])
  await call({ outcome: 'not-reached', nextDate: '2026-11-17', text: 'engaged' })
  expect(names((await list()).items)).not.toContain('L2')
  expect((await list()).leftOut.called.count).toBe(1)
  await at('2026-11-17')
  const row = (await list({ only: 'followUps' })).items
  expect(names(row)).toEqual(['L2'])
  expect(row[0]!.why).toContain('to be rung again on 2026-11-17')
  const done = await call({
    outcome: 'promised',
    spokeWith: 'Ms Oak',
    promise: { currency: 'EUR', parts: [{ date: '2026-11-18', amount: 300_000 }] },
    nextDate: '2026-12-01',
  })
  expect(done.promise).not.toBeNull()
  expect(names((await list()).items)).not.toContain('L2')
  // It breaks: two bank working days after Wednesday the 18th, and then the account is worth a call at once.
  await at('2026-11-23')
  await promiseKeeper(books.database)()
  const again = (await list()).items.find(r => r.customer.number === 'L2')!
  expect(again.why).toContain('broke its promise of 3000.00 EUR')
  const missed = await listPromises(
    books.database,
    promiseOperations.list.query!.parse({ state: 'missed' }),
    {},
  )
  expect(missed.items.map(p => [p.customer.number, p.state])).toEqual([['L2', 'broken']])
  await at(TODAY)
})

test('what became of a promise follows the money, and a payment that comes back', async () => {
  const second = await item('L1', 'L-2')
  const { id } = await promise({
    customer: 'L1',
    currency: 'EUR',
    items: [{ itemId: second.id, amount: second.open }],
    parts: [{ date: TODAY, amount: second.open }],
  })
  const paid = await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'L1',
      date: TODAY,
      means: [{ means: 'transfer', amount: second.open }],
      allocations: [{ itemId: second.id, amount: second.open }],
    }),
  )
  expect((await readPromise(books.database, id, {})).state).toBe('kept')
  await expect(withdrawPromise(books.database, books.actor, id, 'x')).rejects.toThrow('is kept')
  await postIntent(
    books.database,
    books.actor,
    await intents.reverse(books.database, paid.receipt!.id, { date: TODAY, reason: 'came back', fee: 0 }),
  )
  expect((await readPromise(books.database, id, {})).state).toBe('open')
  await withdrawPromise(books.database, books.actor, id, 'agreed anew')
  expect((await readPromise(books.database, id, {})).state).toBe('withdrawn')
})

test('a broken promise holds the account by a rule, as long as it is not paid', async () => {
  const settings = await readSettings(books.database)
  await writeSetting(books.database, 1, 'holdRules', { ...settings.holdRules, brokenPromiseDays: 30 })
  await at('2026-11-23')
  await keepStands(books.database, await readSettings(books.database), [2])
  const held = await readExposure(books.database, 'L2', {})
  expect(held.holds.map(h => [h.cause, h.toPay])).toContainEqual(['promise', 300_000])
  await writeSetting(books.database, 1, 'holdRules', settings.holdRules)
  await at(TODAY)
})

const dispute = (ask: object) =>
  perform(books.database, books.actor, disputeCommand, ask as never) as Promise<{ id: number }>

test('a dispute takes its part out of reminders; more than the item is refused', async () => {
  const third = await item('L2', 'L-3')
  await expect(
    dispute({ customer: 'L2', reason: 'price', items: [{ itemId: third.id, amount: third.open + 1 }] }),
  ).rejects.toThrow('are open')
  const { id } = await dispute({
    customer: 'L2',
    reason: 'price',
    text: 'agreed 30 a bag',
    owner: 'c@example.org',
    items: [{ itemId: third.id, amount: 100_000 }],
  })
  await expect(
    dispute({ customer: 'L2', reason: 'price', items: [{ itemId: third.id, amount: third.open }] }),
  ).rejects.toThrow('disputed already')
  const row = await readDispute(books.database, id, {})
  expect(row).toMatchObject({ left: 100_000, deadline: '2026-11-30', owner: { name: 'Con' } })
  expect((await item('L2', 'L-3')).dispute).toMatchObject({ id, amount: 100_000, label: 'Price' })
  const open = await listDisputes(books.database, disputeOperations.list.query!.parse({}), {})
  expect(open.totals).toMatchObject({ count: 1, left: 100_000, late: 0 })
  const [sums] = (await disputeSums(books.database, 'reason', {})).items
  expect(sums).toMatchObject({ name: 'Price', count: 1, amount: 100_000, ages: [100_000, 0, 0, 0, 0] })
})

test('two who resolve one dispute: the second is told; a credit waits for a signature and is decided anew', async () => {
  const [open] = (await listDisputes(books.database, disputeOperations.list.query!.parse({}), {})).items
  const { id, version } = open!
  const third = await item('L2', 'L-3')
  const ask = {
    version,
    resolution: 'settled' as const,
    amounts: [{ itemId: third.id, amount: 60_000 }],
    text: '',
    letter: false,
  }
  const { waiting } = await resolveDispute(books.database, books.actor, id, ask)
  expect(waiting).not.toBeNull()
  expect((await readDispute(books.database, id, {})).waiting).toBe(waiting)
  await sign(books.database, bea, async () => books.actor, commandNamed, waiting!)
  const done = await readDispute(books.database, id, {})
  expect(done).toMatchObject({ resolution: 'settled', left: 0 })
  expect((await item('L2', 'L-3')).open).toBe(third.open - 60_000)
  const credit = await item('L2', 'CN-00001')
  expect(credit).toMatchObject({ kind: 'credit-note', amount: -60_000, open: 0 })
  await expect(resolveDispute(books.database, books.actor, id, ask)).rejects.toThrow('resolved already')
  await expect(
    changeDispute(books.database, books.actor, id, {
      version: done.version,
      reason: 'price',
      fault: 'us',
      text: '',
      owner: 'c@example.org',
      deadline: '2026-12-01',
    }),
  ).rejects.toThrow('changed or resolved meanwhile')
})

test('credited whole gives tax back in its share; written off does not; upheld posts nothing', async () => {
  await writeSetting(books.database, 1, 'signOff', {
    credit: { EUR: 10 ** 9 },
    'write-off': { EUR: 10 ** 9 },
  })
  const first = await item('L1', 'L-1')
  const one = await dispute({
    customer: 'L1',
    reason: 'quality',
    items: [{ itemId: first.id, amount: 50_000 }],
  })
  const resolve = async (id: number, resolution: 'credited' | 'written-off' | 'upheld') =>
    resolveDispute(books.database, books.actor, id, {
      version: (await readDispute(books.database, id, {})).version,
      resolution,
      amounts: [],
      text: 'looked at',
      letter: false,
    })
  const credited = await resolve(one.id, 'credited')
  const lines = await books.database.select<{ account: string; amount: number }>(
    'SELECT account, amount FROM journal_line WHERE entry_id = :entry ORDER BY account',
    { entry: credited.dispute.resolved!.entry },
  )
  // Half of the invoice, and half of its 180.00 tax.
  expect(lines).toEqual([
    { account: '1100', amount: -50_000 },
    { account: '2200', amount: 9_000 },
    { account: '4000', amount: 41_000 },
  ])
  const two = await dispute({
    customer: 'L1',
    reason: 'other',
    items: [{ itemId: first.id, amount: 10_000 }],
  })
  const off = await resolve(two.id, 'written-off')
  expect(
    await books.database.select(
      'SELECT account, amount FROM journal_line WHERE entry_id = :entry ORDER BY account',
      {
        entry: off.dispute.resolved!.entry,
      },
    ),
  ).toEqual([
    { account: '1100', amount: -10_000 },
    { account: '6860', amount: 10_000 },
  ])
  const three = await dispute({
    customer: 'L1',
    reason: 'other',
    items: [{ itemId: first.id, amount: 5_000 }],
  })
  const upheld = await resolve(three.id, 'upheld')
  expect(upheld.dispute.resolved).toMatchObject({ entry: null, text: 'looked at' })
  expect((await item('L1', 'L-1')).open).toBe(40_000)
  expect(await verifyLedger(books.database)).toEqual([])
})

test('what is owed after all is told by one letter, however often the same request comes', async () => {
  const first = await item('L1', 'L-1')
  const { id } = await dispute({
    customer: 'L1',
    reason: 'price',
    items: [{ itemId: first.id, amount: 4_000 }],
  })
  const letters = () =>
    books.database.select<{ recipient: string; letter: string }>(
      `SELECT o.recipient, l.letter FROM sent_letter l JOIN outbox o ON o.letter_id = l.id
        WHERE l.kind = 'upheld' AND l.number = :number`,
      { number: `L1-D${id}` },
    )
  const key = { key: 'upheld-once', request: 'resolve it' }
  const body = {
    version: (await readDispute(books.database, id, {})).version,
    resolution: 'upheld' as const,
    amounts: [],
    text: 'the price list of May holds',
    letter: true,
  }
  await resolveDispute(books.database, books.actor, id, body, key)
  await resolveDispute(books.database, books.actor, id, body, key)
  const sent = await letters()
  expect(sent).toHaveLength(1)
  expect(sent[0]!.letter).toContain('the price list of May holds')
  // Refused: no letter either.
  await expect(resolveDispute(books.database, books.actor, id, body)).rejects.toThrow('resolved already')
  expect(await letters()).toHaveLength(1)
})

test('a resolution that waits for a signature waits once, however often the same request comes', async () => {
  await writeSetting(books.database, 1, 'signOff', { credit: { EUR: 0 } })
  const first = await item('L1', 'L-1')
  const { id } = await dispute({
    customer: 'L1',
    reason: 'price',
    items: [{ itemId: first.id, amount: 3_000 }],
  })
  const body = {
    version: (await readDispute(books.database, id, {})).version,
    resolution: 'credited' as const,
    amounts: [],
    text: '',
    letter: false,
  }
  const ask = () =>
    resolveDispute(books.database, books.actor, id, body, { key: 'credit-once', request: 'credit it' })
  const answers = await Promise.all([ask(), ask(), ask()])
  answers.push(await ask())
  expect(new Set(answers.map(a => a.waiting)).size).toBe(1)
  const [count] = await books.database.select<{ n: number }>(
    `SELECT COUNT(*) AS n FROM waiting_command WHERE about = :about AND state = 'waiting'`,
    { about: `dispute ${id}` },
  )
  expect(Number(count!.n)).toBe(1)
})

test('somebody rung today is on the list again when a payment of theirs comes back', async () => {
  const ring = (customer: string) =>
    perform(books.database, books.actor, callCommand, { customer, outcome: 'reached' } as never)
  const open = await item('L4', 'L-6')
  const paid = await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'L4',
      date: TODAY,
      means: [{ means: 'transfer', amount: open.open }],
      allocations: [{ itemId: open.id, amount: open.open }],
    }),
  )
  await ring('L4')
  expect(names((await list()).items)).not.toContain('L4')
  await postIntent(
    books.database,
    books.actor,
    await intents.reverse(books.database, paid.receipt!.id, { date: TODAY, reason: 'returned', fee: 0 }),
  )
  expect(names((await list()).items)).toContain('L4')
})
