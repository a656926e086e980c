import { z } from 'zod'
import { newItem, type Posting } from '../../../core/ledger'
import { inserting } from '../../../server/db/handle'
import { cell } from '../../../server/db/rows'
import { readSettings } from '../../../server/db/settings'
import { loadChart } from '../../../server/ledger/chart'
import { takeNumbers, takeSeries } from '../../../server/ledger/series'
import { loadState } from '../../../server/ledger/load'
import { verifyLedger } from '../../../server/ledger/verify'
import { writePostings } from '../../../server/ledger/write'
import { addBankAccount } from '../../../server/services/banking/accounts'
import { customerDirectory } from '../../../server/services/banking/directory'
import { CUSTOMERS, customers, DOCUMENTS, documents, freshBooks, type Books } from '../database'

/*
 * What the server speaks to the database with: deferred statements, series, rows held against their schema,
 * and what is kept in memory until its version changes.
 */

let books: Books
beforeAll(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
  await documents(books, DOCUMENTS)
})
afterAll(() => books.close())

const noted = (about: string) =>
  inserting('audit', [{ what: 'test', about, before_value: null, after_value: null, person_id: 1 }])
const told = (about: string) =>
  books.database.select<{ about: string }>(
    `SELECT about FROM audit WHERE what = 'test' AND about LIKE :about ORDER BY id`,
    { about: `${about}%` },
  )

describe('deferred statements', () => {
  test('run in their order before the next statement, or at the end', async () => {
    await books.database.transaction(async tx => {
      tx.defer(noted('order 1'))
      tx.defer([...noted('order 2'), ...noted("order ' ; 3")])
      const seen = await tx.select<{ n: number }>(
        `SELECT COUNT(*) AS n FROM audit WHERE what = 'test' AND about LIKE 'order%'`,
      )
      expect(seen[0]!.n).toBe(3)
      tx.defer(noted('order 4'))
    })
    expect((await told('order')).map(r => r.about)).toEqual(['order 1', 'order 2', "order ' ; 3", 'order 4'])
  })
  test('are there for all who ask after them, also for several at once', async () => {
    await books.database.transaction(async tx => {
      tx.defer([...noted('several 1'), ...noted('several 2')])
      const count = () =>
        tx.select<{ n: number }>(
          `SELECT COUNT(*) AS n FROM audit WHERE what = 'test' AND about LIKE 'several%'`,
        )
      const seen = await Promise.all([count(), count(), count()])
      expect(seen.map(([row]) => row!.n)).toEqual([2, 2, 2])
    })
  })
  test('stay out with a transaction that fails after them', async () => {
    const failing = books.database.transaction(async tx => {
      tx.defer(noted('failed'))
      await tx.select('SELECT 1')
      throw new Error('somebody stumbled')
    })
    await expect(failing).rejects.toThrow('somebody stumbled')
    expect(await told('failed')).toEqual([])
  })
  test('one that fails takes the whole transaction with it, also at its very end', async () => {
    const twice = { sql: 'INSERT INTO setting (name, value) VALUES (?, ?)', values: ['clock', '1'] }
    const failing = books.database.transaction(async tx => {
      tx.defer([...noted('whole 1'), twice, ...noted('whole 2')])
    })
    await expect(failing).rejects.toMatchObject({ name: 'SequelizeUniqueConstraintError' })
    expect(await told('whole')).toEqual([])
  })
  test('there are none outside a transaction', () => {
    expect(() => books.database.defer(noted('outside'))).toThrow('inside a transaction only')
  })
})

describe('series', () => {
  test('ten at once leave no gap and take none twice; what fails gives its number back', async () => {
    const first = await books.database.transaction(tx => takeNumbers(tx, 'receipt', 1))
    const start = Number(first(0).slice(2))
    const taken = await Promise.all(
      Array.from({ length: 10 }, (_, n) =>
        books.database
          .transaction(async tx => {
            const take = await takeNumbers(tx, 'receipt', 2)
            if (n % 5 === 0) throw new Error('given back')
            return [take(0), take(1)]
          })
          .catch(() => []),
      ),
    )
    const numbers = taken.flat().map(text => Number(text.slice(2)))
    expect(numbers.sort((a, b) => a - b)).toEqual(Array.from({ length: 16 }, (_, i) => start + 1 + i))
  })
  test('one that does not exist is named, and is not made', async () => {
    const taking = books.database.transaction(tx => takeSeries(tx, new Map([['nobody', 1]])))
    await expect(taking).rejects.toThrow('number series nobody does not exist')
    expect(await books.database.select(`SELECT name FROM series WHERE name = 'nobody'`)).toEqual([])
  })
  test('ids that a series would give again are found by verify', async () => {
    expect(await verifyLedger(books.database)).not.toContainEqual(
      expect.objectContaining({ what: 'series of ids' }),
    )
    await books.database.run(`UPDATE series SET next = next - 1 WHERE name = 'item-id'`)
    expect(await verifyLedger(books.database)).toContainEqual(
      expect.objectContaining({ what: 'series of ids', row: 'item' }),
    )
    await books.database.run(`UPDATE series SET next = next + 1 WHERE name = 'item-id'`)
  })
})

test('a posting that names what is not in it is not written', async () => {
  const [customer] = await books.database.select<{ id: number }>(
    `SELECT id FROM customer WHERE number = 'K1'`,
  )
  const of = { customerId: customer!.id, currency: 'EUR', amount: 100, baseAmount: 100 }
  const said = { ...of, id: -1, kind: 'discount' as const, postingDate: '2026-11-16' }
  const posting: Posting = {
    kind: 'receipt',
    date: '2026-11-16',
    text: '',
    items: [newItem({ ...said, bornOfItemId: -7 })],
    allocations: [],
    lines: [],
  }
  const writing = books.database.transaction(async tx => {
    const settings = await readSettings(tx)
    const state = await loadState(tx, { customerIds: [customer!.id] }, settings)
    await writePostings(tx, 1, state, [posting])
  })
  await expect(writing).rejects.toThrow('a posting names -7, which is not in it')
})

describe('rows', () => {
  const row = z.object({ id: cell.whole, at: cell.instant, day: cell.day, sum: cell.sum })
  test('are what their schema says: instants as text in UTC, sums exact', async () => {
    const sql = `SELECT 1 AS id, TIMESTAMP('2026-11-16 08:05:09.25') AS at, DATE('2026-11-16') AS day,
      SUM(9007199254740991) AS sum`
    expect(await books.database.rows(row, sql)).toEqual([
      {
        id: 1,
        at: expect.stringMatching(/^2026-11-16T08:05:09\.25/),
        day: '2026-11-16',
        sum: '9007199254740991',
      },
    ])
  })
  test('one that is not is named with what is wrong', async () => {
    const sql = `SELECT 'one' AS id, NOW() AS at, CURDATE() AS day, 0 AS sum`
    await expect(books.database.rows(row, sql)).rejects.toThrow(/not what its schema says.*number.*id/s)
  })
})

describe('kept in memory until it changes', () => {
  test('the chart: an account that was added is there at once', async () => {
    const chart = async () => loadChart(books.database, (await readSettings(books.database)).versions.chart)
    expect((await chart()).accounts.get('1299')).toBeUndefined()
    const once = await chart()
    expect(await chart()).toBe(once)
    await addBankAccount(books.database, 1, {
      name: 'Another',
      iban: 'IE29AIBK93115212345678',
      currency: 'EUR',
      account: '1299',
      csvMap: null,
    })
    expect((await chart()).accounts.get('1299')).toBe('kept')
  })
  test('the customers for the matching: one that was imported is found at once', async () => {
    const directory = async () =>
      customerDirectory(books.database, (await readSettings(books.database)).versions.customers)
    const before = await directory()
    expect(await directory()).toBe(before)
    await customers(books, 'number,name,country,currency\nN1,Quillhaven Preserves,IE,EUR\n')
    const [found] = (await directory()).names.find('QUILLHAVEN PRESERVES')
    expect((await directory()).byId.get(found!.customerId)?.number).toBe('N1')
  })
})
