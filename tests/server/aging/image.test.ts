import fc from 'fast-check'
import { agingQuery, GROUPINGS, type AgingQuery } from '../../../contract/aging'
import { keepImage, imageHere, imageSize } from '../../../server/image'
import { Image } from '../../../server/image/image'
import { imageDifferences } from '../../../server/image/verify'
import { readAging } from '../../../server/services/aging/aging'
import { customers, documents, freshBooks, type Books } from '../database'
import { intents, postIntent } from '../post'
import { ledgerOfChance } from './chance'

/** The same questions to the ledger in memory and to its tables: two programs, one answer. */
let books: Books
beforeAll(async () => {
  books = await freshBooks()
  await ledgerOfChance(books, 'image')
  await books.database.run(`UPDATE customer SET controller_id = 1 WHERE number = 'K1'`)
})
afterAll(() => books.close())

type Ask = Partial<AgingQuery>

/** Every page of an answer, from memory or from the tables. */
async function wholeOf(from: 'memory' | 'tables', ask: Ask, limit: number) {
  keepImage(books.database, from === 'memory' ? imageHere(books.database) : null)
  const q = agingQuery.parse({ ...ask, net: ask.net ? '1' : undefined, limit })
  const first = await readAging(books.database, q, {})
  const items = [...first.items]
  for (let { next } = first; next;) {
    const page = await readAging(books.database, { ...q, cursor: next }, {})
    items.push(...page.items)
    next = page.next
  }
  expect(imageSize(books.database) !== null).toBe(from === 'memory')
  keepImage(books.database, null)
  return { ...first, items, next: null }
}

const optional = <T>(values: fc.Arbitrary<T>) => fc.option(values, { nil: undefined })
const asks: fc.Arbitrary<Ask> = fc.record({
  asOf: optional(fc.constantFrom('2026-07-19', '2026-08-31', '2026-09-30', '2026-10-15', '2026-11-16')),
  known: optional(fc.integer({ min: 1, max: 90 }).map(String)),
  basis: fc.constantFrom('due' as const, 'document' as const),
  currency: optional(fc.constantFrom('EUR', 'GBP', 'USD')),
  by: fc.constantFrom(...GROUPINGS),
  within: optional(fc.constantFrom(...GROUPINGS)),
  net: fc.boolean(),
  search: optional(fc.constantFrom('Hollin', 'K', 'brae', '%')),
  class: optional(fc.constantFrom('food', 'garden')),
  country: optional(fc.constantFrom('IE', 'GB')),
  controller: optional(fc.constantFrom('s@example.org')),
  sort: fc.constantFrom(...agingQuery.shape.sort.unwrap().options),
})

test('memory and tables answer alike, whatever is asked and however it is paged', async () => {
  await fc.assert(
    fc.asyncProperty(asks, fc.integer({ min: 1, max: 4 }), async (ask, limit) => {
      const q = { ...ask, within: ask.within === ask.by ? undefined : ask.within }
      expect(await wholeOf('memory', q, limit)).toEqual(await wholeOf('tables', q, limit))
    }),
    { numRuns: 150 },
  )
})

test('a table that was tampered with is found by the ledger in memory', async () => {
  const image = new Image(books.database)
  expect(await imageDifferences(books.database, image)).toEqual([])
  await books.database.run(
    'UPDATE open_item o SET open = open + 1, base_open = base_open + 1 ORDER BY o.item_id LIMIT 1',
  )
  expect((await imageDifferences(books.database, image)).map(d => d.what)).toEqual(['open in memory'])
  await books.database.run(
    'UPDATE open_item o SET open = open - 1, base_open = base_open - 1 ORDER BY o.item_id LIMIT 1',
  )
  expect(await imageDifferences(books.database, image)).toEqual([])
  await books.database.run(
    'UPDATE account_day SET base_amount = base_amount + 5 WHERE account = 1100 LIMIT 1',
  )
  expect((await imageDifferences(books.database, image)).map(d => d.what)).toContain('month end in memory')
  await books.database.run(
    'UPDATE account_day SET base_amount = base_amount - 5 WHERE account = 1100 LIMIT 1',
  )
})

test('what is posted is in the next answer, and a customer of the day too', async () => {
  const keeper = imageHere(books.database)
  keepImage(books.database, keeper)
  const q = agingQuery.parse({ sort: 'name' })
  const before = await readAging(books.database, q, {})
  await customers(books, 'number,name,country\nN1,Newcomer,IE\n')
  await documents(books, 'number,customer,date,amount\nN-1,N1,2026-11-02,10.00\n')
  const after = await readAging(books.database, q, {})
  expect(after.totals.total).toBe(before.totals.total + 1000)
  expect(after.items.map(r => r.customer.number)).toContain('N1')
  const item = await books.database.select<{ id: number }>(`SELECT id FROM item WHERE number = 'N-1'`)
  const receipt = await intents.receipt(books.database, {
    customer: 'N1',
    date: '2026-11-10',
    means: [{ means: 'transfer', amount: 1000 }],
    allocations: [{ itemId: item[0]!.id, amount: 1000 }],
  })
  await postIntent(books.database, books.actor, receipt)
  expect((await readAging(books.database, q, {})).totals).toEqual(before.totals)
  expect((await readAging(books.database, { ...q, asOf: '2026-11-05' }, {})).items).toContainEqual(
    expect.objectContaining({ customer: { number: 'N1', name: 'Newcomer' }, total: 1000 }),
  )
  expect(imageSize(books.database)!.items).toBeGreaterThan(50)
  keepImage(books.database, null)
})

test('one that may take no memory leaves the answer to the tables', async () => {
  const q = agingQuery.parse({})
  const expected = await readAging(books.database, q, {})
  keepImage(books.database, imageHere(books.database, 1))
  expect(await readAging(books.database, q, {})).toEqual(expected)
  expect(imageSize(books.database)).toBeNull()
  keepImage(books.database, null)
})
