import { importDocuments } from '../../../server/services/documents/imports'
import { changeSettings } from '../../../server/services/setup/settings'
import { verifyLedger } from '../../../server/ledger/verify'
import { CUSTOMERS, customers, freshBooks, type Books } from '../database'

/*
 * A closed period takes no posting: the closing and the postings hold the same rows, so one of them is first.
 */

let books: Books
beforeEach(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
})
afterEach(() => books.close())

const OCTOBER = '2026-10-31'
const close = (until: string | null = OCTOBER) =>
  changeSettings(books.database, books.actor, { closedUntil: until })
const invoices = (name: string, n: number) =>
  'number,customer,date,amount\n' +
  Array.from({ length: n }, (_, i) => `${name}-${i},K1,2026-10-02,1.00`).join('\n')
const put = (name: string, n: number, on: (step: string, done: number) => Promise<void> = async () => {}) =>
  importDocuments(
    books.database,
    books.actor,
    invoices(name, n),
    { dryRun: false, skipExisting: false },
    (step, done) => on(step, done),
  )
const count = async () => (await books.database.select<{ n: number }>('SELECT COUNT(*) AS n FROM item'))[0]!.n
const inClosed = async () =>
  (await verifyLedger(books.database)).filter(d => d.what === 'posting into a closed period')

test('an import that the closing overtakes is refused whole', async () => {
  let closed = false
  const importing = put('A', 50, async step => {
    if (step !== 'Checking' || closed) return
    closed = true
    await close()
  })
  await expect(importing).rejects.toMatchObject({ status: 422, message: expect.stringMatching(/50 rows/) })
  expect(await count()).toBe(0)
  expect(await inClosed()).toEqual([])
})

test('an import that writes already comes before the closing, whole', async () => {
  let begin = () => {}
  // Somebody else closes, as soon as half of it is written.
  const closing = new Promise<void>(resolve => {
    begin = resolve
  }).then(() => close())
  await put('B', 4500, async (step, done) => {
    if (step === 'Importing' && done > 0) begin()
  })
  await closing
  expect(await count()).toBe(4500)
  await expect(put('C', 1)).rejects.toMatchObject({ status: 422 })
  expect(await inClosed()).toEqual([])
})

test('verify names what came into a period after it closed, and not what came before or while it was open again', async () => {
  await put('D', 2)
  await close()
  await close(null)
  await put('E', 1)
  await close()
  expect(await inClosed()).toEqual([])
  // As if a posting had slipped past the lock: the last closing is said to be older than the last entry.
  await books.database.run('UPDATE closing SET after_entry = after_entry - 1 ORDER BY id DESC LIMIT 1')
  expect(await inClosed()).toEqual([
    expect.objectContaining({ row: expect.stringMatching(/^entry \d+$/), found: '2026-10-02' }),
  ])
})
