import fc from 'fast-check'
import { ACCOUNT_SORTS, accountsQuery, type AccountRow, type AccountSort } from '../../../contract/accounts'
import { agingQuery } from '../../../contract/aging'
import { order } from '../../../contract/exposure'
import { addDays } from '../../../core/calendar'
import { imageHere, keepImage } from '../../../server/image'
import { listAccounts } from '../../../server/services/accounts/list'
import { writeNote } from '../../../server/services/accounts/notes'
import { readAging } from '../../../server/services/aging/aging'
import { readExposure } from '../../../server/services/exposure/exposure'
import { keepHolds } from '../../../server/services/exposure/holds'
import { takeOrders } from '../../../server/services/exposure/orders'
import { learn } from '../../../server/services/review/model'
import { findCustomer } from '../../../server/services/accounts/customers'
import { chance } from '../../../simulators/chance'
import { customers, documents, freshBooks, TODAY, type Books } from '../database'

let books: Books
const MANY = 24
beforeAll(async () => {
  books = await freshBooks()
  const c = chance('list')
  const rows = Array.from({ length: MANY }, (_, n) =>
    [
      `L${n}`,
      // Some share a name: their numbers say which comes first.
      c.pick(['Kelpie', 'Limpet', 'Murre', 'Noddy']),
      c.pick(['food', 'feed', '']),
      c.pick(['IE', 'GB', 'NO']),
      c.pick(['EUR', 'GBP']),
      c.happens(0.6) ? `${c.whole(100, 5000)}.00` : '',
      c.happens(0.3) ? `${c.whole(100, 900)}.00` : '',
    ].join(','),
  )
  await customers(
    books,
    ['number,name,class,country,currency,credit_limit,insured_limit', ...rows, ''].join('\n'),
  )
  const bills = Array.from({ length: 70 }, (_, n) => {
    const number = c.whole(0, MANY - 6)
    return [
      `B-${n}`,
      c.happens(0.2) ? 'credit-note' : 'invoice',
      `L${number}`,
      addDays('2026-06-01', c.whole(0, 160)),
      rows[number]!.split(',')[4],
      `${c.whole(10, 2000)}.00`,
    ].join(',')
  })
  await documents(books, ['number,kind,customer,date,currency,amount', ...bills, ''].join('\n'))
  await takeOrders(
    books.database,
    books.actor,
    [2, 5, 9].map(n =>
      order.parse({
        number: `O-${n}`,
        customer: `L${n}`,
        date: TODAY,
        currency: 'GBP',
        amount: 50_000,
        delivered: 10_000,
        invoiced: 0,
      }),
    ),
  )
  for (const number of ['L3', 'L8'])
    await writeNote(books.database, await findCustomer(books.database, number, {}), 'rang', books.actor)
  await keepHolds(books.database)
  await learn(books.database)
})
afterEach(() => keepImage(books.database, null))
afterAll(() => books.close())

const ask = (q: object) => listAccounts(books.database, accountsQuery.parse({ limit: 100, ...q }), {})

async function pages(q: object, limit: number): Promise<AccountRow[]> {
  const rows: AccountRow[] = []
  for (let cursor: string | undefined; ;) {
    const page = await ask({ ...q, limit, cursor })
    rows.push(...page.items)
    if (!page.next) return rows
    cursor = page.next
  }
}

const sorts = fc
  .tuple(fc.constantFrom(...ACCOUNT_SORTS), fc.boolean())
  .map(([sort, down]) => (down ? `-${sort}` : sort) as AccountSort)
const filters = fc.record({
  only: fc.option(fc.constantFrom('open', 'overdue', 'over', 'held'), { nil: undefined }),
  search: fc.option(fc.constantFrom('kel', 'L1', '%'), { nil: undefined }),
  country: fc.option(fc.constantFrom('IE', 'GB'), { nil: undefined }),
})

test('by any column, either way, pages join into the whole, from memory as from the tables', async () => {
  await fc.assert(
    fc.asyncProperty(sorts, filters, fc.integer({ min: 1, max: 7 }), async (sort, filter, limit) => {
      const q = { ...filter, sort }
      keepImage(books.database, null)
      const fromTables = await pages(q, limit)
      keepImage(books.database, imageHere(books.database))
      const whole = await ask(q)
      expect(await pages(q, limit)).toEqual(whole.items)
      expect(fromTables).toEqual(whole.items)
      expect(new Set(whole.items.map(r => r.number)).size).toBe(whole.totals.count)
    }),
    { numRuns: 60 },
  )
})

/** What a row is sorted by, as its reader sees it; null: nothing, it stands last. */
const VALUE: Partial<Record<AccountSort, (row: AccountRow) => number | string | null>> = {
  name: r => r.name,
  // L2 before L10, as a person counts.
  number: r => Number(r.number.slice(1)),
  open: r => r.open,
  overdue: r => r.overdue,
  oldest: r => r.oldest,
  exposure: r => r.exposure,
  limit: r => r.limit,
  headroom: r => r.headroom,
  lateness: r => r.lateness,
  score: r => r.score,
  contacted: r => r.contacted?.date ?? null,
}

test.each(Object.entries(VALUE))('by %s: in order, what has none stands last', async (sort, valueOf) => {
  for (const down of [false, true]) {
    const { items } = await ask({ sort: `${down ? '-' : ''}${sort}` })
    expect(items).toHaveLength(MANY)
    const values = items.map(valueOf)
    const known = values.filter(v => v !== null)
    expect(values.slice(0, known.length)).toEqual(known)
    for (let n = 1; n < known.length; n++)
      expect(down ? known[n - 1]! >= known[n]! : known[n - 1]! <= known[n]!).toBe(true)
  }
})

test('figures are those of the account itself, and totals those of the aging', async () => {
  keepImage(books.database, imageHere(books.database))
  const { items, totals } = await ask({})
  for (const row of items) {
    const { account, holds } = await readExposure(books.database, row.number, {})
    expect([row.number, row.exposure, row.limit, row.headroom]).toEqual([
      row.number,
      account.total,
      account.limit,
      account.headroom,
    ])
    expect(row.holds).toEqual(holds.map(h => h.label))
  }
  const aging = await readAging(books.database, agingQuery.parse({ limit: 1 }), {})
  expect(totals.open).toBe(aging.totals.total)
  expect(totals.overdue).toBe(aging.totals.amounts.slice(1).reduce((a, b) => a + b, 0))
  const over = await ask({ only: 'over' })
  expect(over.items.map(r => r.number).sort()).toEqual(
    items
      .filter(r => (r.headroom ?? 0) < 0)
      .map(r => r.number)
      .sort(),
  )
  expect(over.items.length).toBeGreaterThan(0)
})

test('a cursor of another place is told as what it is', async () => {
  await expect(ask({ cursor: 'nonsense' })).rejects.toMatchObject({ title: 'Not a cursor' })
})

test('an account whose limit cannot be told for want of a rate hides no hold of the others', async () => {
  const heldOf = async () =>
    (await ask({ only: 'held' })).items.filter(r => r.holds.length).map(r => r.number)
  const before = await heldOf()
  expect(before.length).toBeGreaterThan(0)
  await books.database.run(
    `UPDATE customer SET limit_currency = 'SEK', credit_limit = 100 WHERE number = :number`,
    { number: before[0] },
  )
  expect(await heldOf()).toEqual(before)
})
