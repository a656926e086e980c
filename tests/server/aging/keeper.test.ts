import { agingQuery } from '../../../contract/aging'
import { imageInThread, keepImage, type Keeper } from '../../../server/image'
import { readAging } from '../../../server/services/aging/aging'
import { documents, freshBooks, type Books } from '../database'
import { ledgerOfChance } from './chance'

/** The thread that keeps the ledger of a process, as the application starts it. */
let books: Books
beforeAll(async () => {
  books = await freshBooks()
  await ledgerOfChance(books, 'keeper')
  process.env.DATABASE_URL = books.url
})
afterAll(async () => {
  delete process.env.DATABASE_URL
  delete process.env.BILANCIO_IMAGE_MB
  keepImage(books.database, null)
  await books.close()
})

const until = async (holds: () => boolean) => {
  for (let n = 0; n < 200 && !holds(); n++) await new Promise(resolve => setTimeout(resolve, 100))
  expect(holds()).toBe(true)
}
const question = {
  moment: { day: 30_000, known: null },
  basis: 'due' as const,
  currency: null,
  buckets: [{ label: 'all', from: null, to: null }],
  by: ['customer' as const],
  net: false,
  wanted: { ids: null },
  people: [],
  classes: [],
  page: { column: 'total' as const, descending: true, after: null, limit: 5, day: 30_000 },
}

test('until it is filled nobody waits for it; then it answers as the tables do, with what was just posted', async () => {
  const expected = await readAging(books.database, agingQuery.parse({}), {})
  const keeper: Keeper = imageInThread()
  // Whoever is better served by waiting is answered as soon as it is filled.
  const patient = keeper.ask('aging', question, 'waits')
  expect(await keeper.ask('aging', question)).toBeNull()
  keepImage(books.database, keeper)
  expect((await patient)!.totals.total).toBe(expected.totals.total)
  await until(() => keeper.size() !== null)
  expect(await readAging(books.database, agingQuery.parse({}), {})).toEqual(expected)
  await documents(books, 'number,customer,date,amount\nT-1,K1,2026-11-02,10.00\n')
  const told = await keeper.ask('aging', question)
  expect(told!.totals.total).toBe(expected.totals.total + 1000)
  await keeper.close()
  expect(keeper.size()).toBeNull()
  expect(await keeper.ask('aging', question)).toBeNull()
})

test('a ledger that does not fit is told once, and its thread is not begun anew', async () => {
  process.env.BILANCIO_IMAGE_MB = '0.001'
  const begun = jest.spyOn(global, 'setTimeout')
  const keeper = imageInThread()
  expect(await keeper.ask('aging', question, 'waits')).toBeNull()
  await new Promise(resolve => setTimeout(resolve, 6000))
  expect(keeper.size()).toBeNull()
  expect(begun.mock.calls.filter(([, ms]) => ms === 2000)).toEqual([])
  begun.mockRestore()
  await keeper.close()
})
