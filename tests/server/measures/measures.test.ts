import fc from 'fast-check'
import { itemsQuery } from '../../../contract/accounts'
import { agingQuery } from '../../../contract/aging'
import { measuresQuery, partQuery } from '../../../contract/measures'
import { PARTS, type Part } from '../../../core/measures'
import { addDays, daysBetween } from '../../../core/calendar'
import { imageHere, keepImage } from '../../../server/image'
import { readItems } from '../../../server/services/accounts/items'
import { openDeductions } from '../../../server/services/disputes/deductions'
import { readAging } from '../../../server/services/aging/aging'
import { readMeasures, readPart } from '../../../server/services/measures/measures'
import { exportMeasures } from '../../../server/services/measures/export'
import { freshBooks, TODAY, type Books } from '../database'
import { intents, postIntent } from '../post'
import { ledgerOfChance } from '../aging/chance'

/** The sums behind the measures are held against agings and sums made by SQL. */
let books: Books
beforeAll(async () => {
  books = await freshBooks()
  await ledgerOfChance(books, 'measures')
})
afterEach(() => keepImage(books.database, null))
afterAll(() => books.close())

const read = (ask: object = {}) => readMeasures(books.database, measuresQuery.parse(ask), {})
const sumOf = async (sql: string, values: object) => {
  const [row] = await books.database.select<{ amount: unknown }>(sql, { ...values })
  return Number(row!.amount ?? 0)
}

test('on any day the balances are those of the aging, and the flows those of the tables', async () => {
  keepImage(books.database, imageHere(books.database))
  await fc.assert(
    fc.asyncProperty(
      fc.integer({ min: 0, max: 118 }),
      fc.integer({ min: 1, max: 4 }),
      fc.option(fc.constantFrom('food', 'garden'), { nil: undefined }),
      async (start, months, of) => {
        const asOf = addDays('2026-07-20', start)
        const { points } = await read({ asOf, months, points: 3, class: of })
        for (const { date, from, parts } of points) {
          const { totals } = await readAging(
            books.database,
            agingQuery.parse({ asOf: date, class: of, limit: 1 }),
            {},
          )
          const debits = totals.amounts.reduce((a, b) => a + b, 0)
          expect([date, parts.receivables, parts.onAccount]).toEqual([date, debits, totals.onAccount])
          expect([date, parts.current, parts.over90]).toEqual([
            date,
            totals.amounts[0],
            totals.amounts.at(-1),
          ])
          expect(parts.overdue).toBe(parts.receivables - parts.current)
          const span = { from, date, class: of ?? '' }
          const ofClass = of ? 'AND c.class = :class' : ''
          expect(parts.sales).toBe(
            await sumOf(
              `SELECT SUM(IF(i.side = 'debit', 1, -1) * i.base_amount) AS amount FROM item i
                JOIN customer c ON c.id = i.customer_id WHERE i.kind IN ('invoice', 'credit-note', 'debit-note',
                'fee', 'charge') AND i.posting_date > :from AND i.posting_date <= :date ${ofClass}`,
              span,
            ),
          )
          expect(parts.paid).toBe(
            await sumOf(
              `SELECT SUM(a.debit_base) AS amount FROM allocation a JOIN item p ON p.id = a.credit_item_id
                JOIN item i ON i.id = a.debit_item_id JOIN customer c ON c.id = i.customer_id
                WHERE p.kind IN ('receipt', 'advance') AND i.kind IN ('invoice', 'debit-note', 'fee', 'charge')
                AND a.undoes_id IS NULL AND NOT EXISTS (SELECT 1 FROM allocation u WHERE u.undoes_id = a.id)
                AND a.effective > :from AND a.effective <= :date ${ofClass}`,
              span,
            ),
          )
          expect(parts.days).toBe(daysBetween(from, date))
        }
      },
    ),
    { numRuns: 40 },
  )
})

test('memory and slices of the tables answer alike, group by group, and groups add up to all', async () => {
  const fromTables = await read({ by: 'class', points: 4 })
  keepImage(books.database, imageHere(books.database))
  const fromMemory = await read({ by: 'class', points: 4 })
  const byKey = (a: { key: string }, b: { key: string }) => (a.key < b.key ? -1 : 1)
  fromTables.groups.sort(byKey)
  fromMemory.groups.sort(byKey)
  expect(fromMemory).toEqual(fromTables)
  expect(fromMemory.groups.length).toBeGreaterThan(1)
  fromMemory.points.forEach((point, n) => {
    for (const part of ['receivables', 'overdue', 'sales', 'paid', 'opening'] as const)
      expect(point.parts[part]).toBe(fromMemory.groups.reduce((sum, g) => sum + g.points[n]!.parts[part], 0))
  })
})

test('every part of every day is made of items that add up to it, from memory and from tables', async () => {
  keepImage(books.database, imageHere(books.database))
  const { points } = await read({ points: 3 })
  for (const { date, parts } of points)
    for (const part of Object.keys(PARTS) as Part[]) {
      const q = partQuery.parse({ part, date, limit: 500 })
      const made = await readPart(books.database, q, {})
      expect([part, date, made.total]).toEqual([part, date, parts[part]])
      expect(made.items.reduce((sum, i) => sum + i.amount, 0)).toBe(made.total)
      if (part === 'over90') for (const item of made.items) expect(item.daysLate).toBeGreaterThan(90)
    }
  const q = partQuery.parse({ part: 'paid', date: TODAY, limit: 3 })
  const fromMemory = await readPart(books.database, q, {})
  keepImage(books.database, null)
  expect(await readPart(books.database, q, {})).toEqual(fromMemory)
})

test('a deduction is disputed while its payment stands and its item is open', async () => {
  const open = await readItems(books.database, 'K1', itemsQuery.parse({ state: 'open', limit: 100 }), {})
  const item = open.items.find(i => i.open > 1000 && i.currency === 'EUR')!
  const intent = await intents.receipt(books.database, {
    customer: 'K1',
    currency: 'EUR',
    date: TODAY,
    means: [{ means: 'transfer', amount: item.open - 500 }],
    allocations: [{ itemId: item.id, amount: item.open - 500 }],
  })
  const { receipt } = await postIntent(books.database, books.actor, intent)
  const deduction = (amount: number) =>
    openDeductions(books.database, books.actor.id, [
      {
        itemId: item.id,
        receiptItemId: receipt!.id,
        currency: 'EUR',
        amount,
        reason: 'quality',
        note: '',
      },
    ])
  await deduction(200)
  const disputed = async () => (await read({ points: 1 })).points.at(-1)!.parts.disputed
  expect(await disputed()).toBe(200)
  // No more is disputed than is open.
  await deduction(99_999_999)
  expect(await disputed()).toBe(500)
  keepImage(books.database, imageHere(books.database))
  expect(await disputed()).toBe(500)
})

test('a sales contact measures their own customers only, and without the target of the house', async () => {
  const { points, targets } = await readMeasures(books.database, measuresQuery.parse({}), { salesId: 99_999 })
  expect(points.at(-1)!.parts.receivables).toBe(0)
  expect(targets).toEqual({})
})

test('the file has a row a day and group, in major units', async () => {
  const file = await exportMeasures(
    books.database,
    { ...measuresQuery.parse({ points: 2, by: 'class' }), format: 'csv' },
    {},
  )
  const lines = file.bytes.toString('utf8').trim().split(/\r?\n/)
  expect(lines[0]).toContain('Days sales outstanding')
  expect(lines.length).toBeGreaterThan(4)
  const overdue = (await read({ points: 2 })).points[0]!.figures.overdue!
  expect(Number(lines[1]!.split(',')[3])).toBe(overdue / 100)
})
