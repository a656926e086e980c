import { ProblemError } from '../../../server/services/common/problems'
import { enterRate, importRates, listRates, rateOn } from '../../../server/services/rates/rates'
import { freshBooks, type Books } from '../database'

let books: Books
beforeEach(async () => {
  books = await freshBooks()
})
afterEach(() => books.close())

test('the rate in force is the last one, ten days at most; entered again it is replaced', async () => {
  await enterRate(books.database, 1, { currency: 'CHF', date: '2026-11-02', rate: '1.05' })
  const on = (date: string) => rateOn(books.database, 'EUR', 'CHF', date)
  expect([await on('2026-11-01'), await on('2026-11-02'), await on('2026-11-12')]).toEqual([
    undefined,
    '1.05',
    '1.05',
  ])
  expect(await on('2026-11-13')).toBeUndefined()
  await enterRate(books.database, 1, { currency: 'CHF', date: '2026-11-02', rate: '1.06' })
  expect(await on('2026-11-02')).toBe('1.06')
  expect(await rateOn(books.database, 'EUR', 'EUR', '2026-11-02')).toBe('1')
  const { items } = await listRates(books.database, { currency: 'CHF', limit: 10 })
  expect(items).toMatchObject([{ rate: '1.06', source: 'entered', by: 'Sam Over' }])
  await expect(
    enterRate(books.database, 1, { currency: 'EUR', date: '2026-11-02', rate: '1' }),
  ).rejects.toThrow(ProblemError)
})

test('a file of rates: all of it, or nothing and every fault by line', async () => {
  const bad = 'date;currency;rate\n2026-11-31;CHF;1.05\n2026-11-02;XXX1;1\n2026-11-02;CHF;0\n'
  const error = await importRates(books.database, 1, bad).catch((e: unknown) => e as ProblemError)
  expect((error as ProblemError).errors!.map(f => f.path)).toEqual([
    'line 2, date',
    'line 3, currency',
    'line 4, rate',
  ])
  const good = 'date,currency,rate\n2026-11-02,CHF,1.05\n2026-11-03,CHF,1.055\n'
  expect(await importRates(books.database, 1, good)).toEqual({ imported: 2 })
  expect(await rateOn(books.database, 'EUR', 'CHF', '2026-11-05')).toBe('1.055')
})
