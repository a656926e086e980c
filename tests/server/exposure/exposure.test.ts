import { order } from '../../../contract/exposure'
import { readCard } from '../../../server/services/accounts/card'
import { commandNamed } from '../../../server/services/commands'
import { performOrKeep, sign, type Signer } from '../../../server/ledger/waiting'
import { writeSetting } from '../../../server/db/settings'
import { checkExposure, readExposure, readExposureMakeUp } from '../../../server/services/exposure/exposure'
import { keepHolds, releaseCommand, setHold } from '../../../server/services/exposure/holds'
import { listHeld, readConcentration } from '../../../server/services/exposure/lists'
import { importOrders, takeOrders } from '../../../server/services/exposure/orders'
import { customers, documents, freshBooks, TODAY, type Books } from '../database'
import { intents, postIntent, proofOf } from '../post'

let books: Books
const bea: Signer = { id: 2, name: 'Bea', role: 'supervisor', standsInFor: [] }
beforeAll(async () => {
  books = await freshBooks()
  await customers(
    books,
    `number,name,country,currency,class,credit_limit,insured_limit,parent
G1,Gannet Group,IE,EUR,food,5000.00,,
G2,Gannet North,IE,EUR,food,1000.00,,G1
G3,Gannet South,GB,GBP,feed,,,G2
S1,Sandeel,IE,EUR,feed,2000.00,300.00,
`,
  )
  await documents(
    books,
    `number,customer,date,due_date,currency,amount
G-1,G2,2026-10-01,2026-10-31,EUR,400.00
G-2,G3,2026-10-01,2026-10-31,GBP,100.00
S-1,S1,2026-06-01,2026-07-01,EUR,1500.00
`,
  )
  await books.database.run(
    `INSERT INTO person (email, name, role, password_hash) VALUES ('b@example.org', 'Bea', 'supervisor', 'x')`,
  )
})
afterAll(() => books.close())

const exposure = (number: string) => readExposure(books.database, number, {})
const check = (customer: string, amount: number, currency = 'EUR') =>
  checkExposure(books.database, { customer, currency, amount }, {})
const orders = (...list: object[]) =>
  takeOrders(
    books.database,
    books.actor,
    list.map(o => order.parse(o)),
  )

test('every part of the exposure adds up, and says what it is made of', async () => {
  await orders(
    {
      number: 'O-1',
      customer: 'G2',
      date: TODAY,
      currency: 'EUR',
      amount: 30_000,
      delivered: 12_000,
      invoiced: 2000,
    },
    { number: 'O-2', customer: 'G2', date: TODAY, currency: 'GBP', amount: 10_000 },
    { number: 'O-3', customer: 'G2', date: TODAY, currency: 'EUR', amount: 90_000, state: 'cancelled' },
  )
  const receipt = await intents.receipt(books.database, {
    customer: 'G2',
    date: '2026-11-10',
    means: [{ means: 'cheque', amount: 5000, reference: 'C-77' }],
    onAccount: 5000,
  })
  await postIntent(books.database, books.actor, receipt)
  const { account } = await exposure('G2')
  const [rate] = await books.database.select<{ rate: string }>(
    `SELECT rate FROM rate WHERE currency = 'GBP' AND date <= '${TODAY}' ORDER BY date DESC LIMIT 1`,
  )
  const gbp = Math.round(10_000 * Number(rate!.rate))
  expect(account.parts).toEqual({
    receivables: 40_000,
    onAccount: -5000,
    delivered: 10_000,
    orders: 18_000 + gbp,
    notFinal: 5000,
    secured: 0,
  })
  expect(account.total).toBe(68_000 + gbp)
  for (const part of ['delivered', 'orders', 'notFinal'] as const) {
    const made = await readExposureMakeUp(books.database, 'G2', part, {})
    expect([part, made.total]).toEqual([part, account.parts[part]])
    expect(made.items.reduce((sum, i) => sum + i.amount, 0)).toBe(made.total)
  }
  expect((await readCard(books.database, 'G2', {}, books.actor, {})).exposure).toBe(account.total)
})

test('a cheque is final once the bank has shown it, and a reversed one counts no more', async () => {
  const [cheque] = await books.database.select<{ id: number }>(
    `SELECT item_id AS id FROM receipt_means WHERE reference = 'C-77'`,
  )
  const ask = { date: TODAY, reason: 'bounced', fee: 0 }
  await postIntent(books.database, books.actor, await intents.reverse(books.database, cheque!.id, ask))
  expect((await exposure('G2')).account.parts).toMatchObject({ notFinal: 0, onAccount: 0 })
})

test('a group of any depth stands together against the limit of its head', async () => {
  const [head, low] = [await exposure('G1'), await exposure('G3')]
  expect(head.group).toMatchObject({ members: 3, limit: 500_000, head: { number: 'G1' } })
  expect(low.group).toEqual(head.group)
  const parts = await Promise.all(['G1', 'G2', 'G3'].map(exposure))
  expect(head.group!.total).toBe(parts.reduce((sum, p) => sum + p.account.total, 0))
  // A sales contact who does not look after the head sees no group.
  await books.database.run(`UPDATE customer SET sales_id = 77 WHERE number = 'G3'`)
  expect((await readExposure(books.database, 'G3', { salesId: 77 })).group).toBeNull()
})

test('an order: yes up to the limit; no, with what would make it yes', async () => {
  const { account } = await exposure('G2')
  expect(await check('G2', account.headroom!)).toMatchObject({ yes: true, reasons: [] })
  const no = await check('G2', account.headroom! + 1)
  expect(no).toMatchObject({ yes: false, reasons: [{ rule: 'limit', toPay: 1, limitNeeded: 100_001 }] })
  expect(no.reasons[0]!.satisfy).toMatch(/0\.01 EUR are paid, or the limit rises to 1000\.01 EUR, signed by/)
  // The head's limit holds for the group once, not twice.
  expect((await check('G1', 10_000_000)).reasons.map(r => r.rule)).toEqual(['group'])
  await expect(check('G2', 100, 'KWD')).resolves.toMatchObject({ yes: true })
  await expect(check('G2', 100, 'CHF')).rejects.toThrow(/no exchange rate of CHF/)
})

test('rules hold and let go by themselves, and the history tells when', async () => {
  // 1,500.00 overdue by more than 60 days, above 1,000.00; what is insured is taken off its exposure.
  expect((await exposure('S1')).holds).toMatchObject([{ cause: 'overdue', toPay: 50_000 }])
  expect((await check('S1', 100)).reasons).toMatchObject([{ rule: 'held', toPay: 50_000 }])
  expect(await keepHolds(books.database)).toBe(1)
  expect(await keepHolds(books.database)).toBe(0)
  const paid = await intents.receipt(books.database, {
    customer: 'S1',
    date: TODAY,
    means: [{ means: 'transfer', amount: 50_000 }],
    allocations: [{ itemId: await idOf('S-1'), amount: 50_000 }],
  })
  await postIntent(books.database, books.actor, paid)
  expect((await exposure('S1')).holds).toEqual([])
  expect((await check('S1', 100)).yes).toBe(true)
  expect(await keepHolds(books.database)).toBe(1)
  expect((await exposure('S1')).history).toMatchObject([
    { cause: 'overdue', by: null, endReason: 'its cause went', endedOn: TODAY },
  ])
})
const idOf = async (number: string) =>
  (await books.database.select<{ id: number }>('SELECT id FROM item WHERE number = :number', { number }))[0]!
    .id

test('a hold by hand: one at a time, released with a second person above the threshold', async () => {
  await setHold(books.database, books.actor, { customer: 'G2', reason: 'waits for the lawyer' }, {})
  await expect(setHold(books.database, books.actor, { customer: 'G2', reason: 'again' }, {})).rejects.toThrow(
    /held by hand already/,
  )
  expect((await listHeld(books.database, {})).items).toMatchObject([
    { customer: { number: 'G2' }, holds: [{ words: 'waits for the lawyer' }], waiting: null },
  ])
  const ask = { customer: 'G2', cause: 'hand', reason: 'they paid the lawyer', until: '2026-11-20' }
  const release = () => performOrKeep(books.database, books.actor, releaseCommand, ask)
  const { waiting } = await release()
  expect((await exposure('G2')).holds).toHaveLength(1)
  expect((await listHeld(books.database, {})).items[0]!.waiting).toBe(waiting!.id)
  await sign(books.database, bea, async () => books.actor, commandNamed, waiting!.id)
  expect((await exposure('G2')).holds).toEqual([])
  await expect(release()).rejects.toThrow(/not held for this any more/)
  // After the release is over it is held again, for the same reason.
  await writeSetting(books.database, 1, 'clock', '2026-11-21')
  expect((await exposure('G2')).holds).toMatchObject([{ cause: 'hand', words: 'waits for the lawyer' }])
  await writeSetting(books.database, 1, 'clock', TODAY)
  await writeSetting(books.database, 1, 'signOff', { hold: { EUR: 10_000_000 } })
  await setHold(books.database, books.actor, { customer: 'G3', reason: 'x' }, {})
  const one = { customer: 'G3', cause: 'hand', reason: 'mistake', until: null }
  expect(await performOrKeep(books.database, books.actor, releaseCommand, one)).toMatchObject({
    waiting: null,
  })
})

test('a limit out of its dates is no limit to lean on', async () => {
  await books.database.run(`UPDATE customer SET limit_until = '2026-11-15' WHERE number = 'S1'`)
  expect(await check('S1', 100)).toMatchObject({ limit: null, reasons: [{ rule: 'expired' }] })
  await books.database.run(`UPDATE customer SET limit_until = NULL WHERE number = 'S1'`)
})

test('an account without a rate is told so by itself, and breaks no list of all', async () => {
  await orders({ number: 'O-CHF', customer: 'G1', date: TODAY, currency: 'CHF', amount: 5000 })
  await expect(exposure('G1')).rejects.toThrow(/no exchange rate of CHF/)
  expect(await readCard(books.database, 'G1', {}, books.actor, {})).toMatchObject({
    limit: null,
    exposureTrouble: expect.stringMatching(/no exchange rate of CHF/),
  })
  expect((await readConcentration(books.database, {})).largest.map(l => l.key)).not.toContain('G1')
  expect((await listHeld(books.database, {})).base).toBe('EUR')
  await orders({
    number: 'O-CHF',
    customer: 'G1',
    date: TODAY,
    currency: 'CHF',
    amount: 5000,
    state: 'cancelled',
  })
  await exposure('G1')
})

test('who the money stands with: shares of all, the largest first', async () => {
  const all = await readConcentration(books.database, {})
  expect(all.largest.reduce((sum, l) => sum + l.exposure, 0)).toBe(all.total)
  expect(all.byClass.reduce((sum, l) => sum + l.exposure, 0)).toBe(all.total)
  expect(all.byCountry.map(c => c.key).sort()).toEqual(['GB', 'IE'])
  expect([...all.largest].sort((a, b) => b.exposure - a.exposure)).toEqual(all.largest)
})

test('orders: of unknown customers, twice, of another; nothing of a bad file stays', async () => {
  const count = async () =>
    Number((await books.database.select('SELECT COUNT(*) AS n FROM sales_order'))[0]!.n)
  const before = await count()
  await expect(
    orders({ number: 'O-9', customer: 'NONE', date: TODAY, currency: 'EUR', amount: 1 }),
  ).rejects.toMatchObject({ errors: [{ path: 'orders.0.customer' }] })
  await expect(
    orders({ number: 'O-1', customer: 'S1', date: TODAY, currency: 'EUR', amount: 1 }),
  ).rejects.toThrow(/another customer/)
  const file = (text: string, dryRun = false) =>
    importOrders(books.database, books.actor, text, { dryRun, skipExisting: false }, async () => {})
  const bad = `number,customer,date,currency,amount,delivered,invoiced,state
O-4,S1,2026-11-01,EUR,100.00,,,open
O-4,S1,2026-11-01,EUR,100.00,,,open
O-5,NONE,2026-13-01,EURO,-5,x,,later
`
  await expect(file(bad)).rejects.toMatchObject({
    errors: expect.arrayContaining([
      expect.objectContaining({ line: 4, column: 'date' }),
      expect.objectContaining({ line: 4, column: 'currency' }),
      expect.objectContaining({ line: 4, column: 'state' }),
      expect.objectContaining({ line: 3, column: 'number' }),
    ]),
  })
  expect(await count()).toBe(before)
  const good = `number,customer,date,currency,amount,delivered,invoiced,state
O-1,G2,2026-11-16,EUR,300.00,300.00,300.00,closed
O-6,S1,2026-11-01,EUR,100.00,,,
`
  expect(await file(good, true)).toMatchObject({ imported: 1, updated: 1 })
  expect(await count()).toBe(before)
  expect(await file(good)).toMatchObject({ imported: 1, updated: 1 })
  expect((await exposure('G2')).account.parts.delivered).toBe(0)
})

test('the headroom of a Proof is what the exposure says when it is posted, cheques included', async () => {
  await customers(
    books,
    'number,name,country,currency,class,credit_limit,insured_limit\nH1,Heron Loch,IE,EUR,feed,900.00,150.00\n',
  )
  await documents(
    books,
    'number,customer,date,due_date,currency,amount\nH-1,H1,2026-09-01,2026-10-01,EUR,700.00\n',
  )
  const [item] = await books.database.select<{ id: number }>("SELECT id FROM item WHERE number = 'H-1'")
  const headroomNow = async () => (await exposure('H1')).account.headroom
  const held = async (intent: Awaited<ReturnType<typeof intents.receipt>>) => {
    const { changes } = await proofOf(books.database, intent)
    expect(changes!.headroom![0]).toBe(await headroomNow())
    const posted = await postIntent(books.database, books.actor, intent)
    expect(await headroomNow()).toBe(changes!.headroom![1])
    return posted
  }
  const pay = (means: 'transfer' | 'cheque', amount: number) =>
    intents.receipt(books.database, {
      customer: 'H1',
      date: TODAY,
      means: [{ means, amount, reference: '77' }],
      allocations: [{ itemId: item!.id, amount }],
    })
  const before = await headroomNow()
  await held(await pay('transfer', 20_000))
  expect(await headroomNow()).toBeGreaterThan(before!)
  const [less] = [await headroomNow()]
  const cheque = await held(await pay('cheque', 30_000))
  // Nothing is safer by a cheque that the bank has not shown.
  expect(await headroomNow()).toBe(less)
  await held(
    await intents.reverse(books.database, cheque.receipt!.id, { date: TODAY, reason: 'bounced', fee: 0 }),
  )
  expect(await headroomNow()).toBe(less)
})
