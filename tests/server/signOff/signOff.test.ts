import { changeBody } from '../../../contract/accounts/master'
import { changeCustomer } from '../../../server/services/accounts/master/change'
import { readMaster } from '../../../server/services/accounts/master/read'
import { addDeputy, listDeputies, removeDeputy } from '../../../server/services/signOff/deputies'
import {
  askRequestAgain,
  commentOn,
  listSignOff,
  readSignOff,
  signRequest,
  turnRequestDown,
} from '../../../server/services/signOff/signOff'
import { withdraw } from '../../../server/ledger/waiting'
import { writeSetting } from '../../../server/db/settings'
import type { Actor } from '../../../server/services/people/scope'
import { CUSTOMERS, customers, freshBooks, TODAY, type Books } from '../database'

let books: Books
const person = (id: number, name: string, role: Actor['role']): Actor => ({
  id,
  name,
  email: `${name.toLowerCase()}@example.org`,
  role,
})
const bea = person(2, 'Bea', 'supervisor')
const cora = person(3, 'Cora', 'controller')
const dan = person(4, 'Dan', 'controller')
const ada = person(5, 'Ada', 'auditor')
beforeAll(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
  for (const p of [bea, cora, dan, ada])
    await books.database.insert('person', [
      { id: p.id, email: p.email, name: p.name, role: p.role, password_hash: 'x' },
    ])
})
afterAll(() => books.close())

const master = (number: string) => readMaster(books.database, number, {})
/** Asks for a limit; answers the request. */
async function ask(number: string, creditLimit: number, by = cora): Promise<number> {
  const { version } = await master(number)
  const body = changeBody.parse({ version, set: { creditLimit }, reason: 'good payer' })
  return (await changeCustomer(books.database, by, number, body, {})).waiting!
}
const limit = async (number: string) => (await master(number)).values.creditLimit
const sign = (by: Actor, id: number) => signRequest(books.database, by, id)

test('the queue says what it is, before and after, and who may sign', async () => {
  const id = await ask('K1', 80_000_00)
  const forBea = (await listSignOff(books.database, bea, { state: 'waiting' })).items.find(i => i.id === id)!
  expect(forBea).toMatchObject({
    label: 'Credit limit',
    customer: { number: 'K1' },
    amount: 20_000_00,
    currency: 'EUR',
    changes: [{ field: 'Credit limit', before: '60000.00 EUR', after: '80000.00 EUR' }],
    by: 'Cora',
    maySign: true,
  })
  const may = async (who: Actor) =>
    (await listSignOff(books.database, who, { state: 'waiting' })).items.find(i => i.id === id)!
  expect(await may(cora)).toMatchObject({
    own: true,
    maySign: false,
    whyNot: expect.stringMatching(/nobody signs/),
  })
  expect(await may(dan)).toMatchObject({ maySign: false, whyNot: expect.stringMatching(/supervisor/) })
  await expect(sign(ada, id)).rejects.toThrow(/may not sign/)
  await commentOn(books.database, dan, id, 'they paid late in May')
  expect(await readSignOff(books.database, bea, id)).toMatchObject({
    why: 'good payer',
    said: [{ by: 'Dan', text: 'they paid late in May' }],
    now: [{ after: '80000.00 EUR' }],
    refusals: [],
    proof: null,
  })
  await sign(bea, id)
  expect(await limit('K1')).toBe(80_000_00)
  await expect(sign(bea, id)).rejects.toThrow(/was signed meanwhile/)
})

test('two who sign at once sign once', async () => {
  const id = await ask('K3', 30_000_00)
  const both = await Promise.allSettled([sign(bea, id), sign(books.actor, id), sign(bea, id)])
  expect(both.filter(r => r.status === 'fulfilled')).toHaveLength(1)
  const rows = await books.database.select(
    `SELECT 1 AS x FROM audit WHERE what = 'customer' AND about = 'K3' AND after_value LIKE '%30000.00%'`,
  )
  expect(rows).toHaveLength(1)
})

test('what the books have outrun shows why before anybody signs it', async () => {
  const id = await ask('K1', 90_000_00)
  const { version } = await master('K1')
  await changeCustomer(
    books.database,
    dan,
    'K1',
    changeBody.parse({ version, set: { creditLimit: 10_000_00 } }),
    {},
  )
  const told = await readSignOff(books.database, bea, id)
  expect(told.refusals).toMatchObject([
    { rule: 'limit.field', message: expect.stringMatching(/changed meanwhile/) },
  ])
  await expect(sign(bea, id)).rejects.toThrow(/changed meanwhile/)
  await turnRequestDown(books.database, bea, id, 'declined', 'outdated')
  expect(await limit('K1')).toBe(10_000_00)
})

test('sent back, changed by who asked, and signed', async () => {
  const id = await ask('K2', 50_000_00)
  await turnRequestDown(books.database, bea, id, 'returned', 'half of that')
  await expect(sign(bea, id)).rejects.toThrow(/was returned/)
  await expect(askRequestAgain(books.database, dan, id, { creditLimit: 1 })).rejects.toThrow(/only who asked/)
  await expect(askRequestAgain(books.database, cora, id, { nonsense: 1 })).rejects.toThrow(/not fields/)
  await askRequestAgain(books.database, cora, id, { creditLimit: 25_000_00 })
  expect(await readSignOff(books.database, bea, id)).toMatchObject({ state: 'waiting', amount: 25_000_00 })
  await sign(bea, id)
  expect(await limit('K2')).toBe(25_000_00)
})

test('taken back by who asked, and by nobody else', async () => {
  const id = await ask('K2', 70_000_00)
  await expect(withdraw(books.database, dan, id)).rejects.toThrow(/only who asked/)
  await withdraw(books.database, cora, id)
  await expect(sign(bea, id)).rejects.toThrow(/was withdrawn/)
  expect(await limit('K2')).toBe(25_000_00)
})

test('somebody stands in for who is away, on those days and not for their own', async () => {
  const id = await ask('K2', 90_000_00)
  await expect(
    addDeputy(books.database, bea, { deputy: 'nobody@example.org', from: TODAY, until: TODAY }),
  ).rejects.toThrow(/nobody here/)
  await expect(
    addDeputy(books.database, bea, { deputy: dan.email, from: TODAY, until: '2026-11-01' }),
  ).rejects.toThrow(/ends before/)
  const { id: days } = await addDeputy(books.database, bea, {
    deputy: dan.email,
    from: '2026-11-18',
    until: '2026-11-20',
  })
  await expect(sign(dan, id)).rejects.toThrow(/may not sign/)
  await writeSetting(books.database, 1, 'clock', '2026-11-19')
  expect((await listDeputies(books.database)).items).toMatchObject([{ absent: 'Bea', deputy: 'Dan' }])
  const own = await ask('K1', 11_000_00, dan)
  await expect(sign(dan, own)).rejects.toThrow(/nobody signs/)
  await sign(dan, id)
  expect(await limit('K2')).toBe(90_000_00)
  await expect(removeDeputy(books.database, cora, days)).rejects.toThrow(/does not exist/)
  await removeDeputy(books.database, bea, days)
  await expect(sign(dan, await ask('K3', 31_000_00))).rejects.toThrow(/may not sign/)
  await writeSetting(books.database, 1, 'clock', TODAY)
})

test('thresholds by currency: below them one person is enough', async () => {
  await writeSetting(books.database, 1, 'signOff', { limit: { EUR: 5_000_00 } })
  const before = Number(await limit('K1'))
  expect(await ask('K1', before + 5_000_00)).toBeNull()
  expect(await limit('K1')).toBe(before + 5_000_00)
  expect(await ask('K1', before + 10_000_01)).toEqual(expect.any(Number))
})
