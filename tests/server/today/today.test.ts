import fc from 'fast-check'
import { addDays } from '../../../core/calendar'
import { imageHere, keepImage } from '../../../server/image'
import { readFigures } from '../../../server/services/today/figures'
import { readToday } from '../../../server/services/today/today'
import { ROLES } from '../../../core/people'
import { FIRST } from '../../../core/today'
import { freshBooks, type Books } from '../database'
import { ledgerOfChance } from '../aging/chance'

/** The figures of the first screen are held against sums made by SQL. */
let books: Books
beforeAll(async () => {
  books = await freshBooks()
  await ledgerOfChance(books, 'today')
})
afterEach(() => keepImage(books.database, null))
afterAll(() => books.close())

const sumOf = async (from: string, values: object) => {
  const [row] = await books.database.select<{ n: unknown; amount: unknown }>(
    `SELECT COUNT(*) AS n, SUM(base) AS amount FROM (SELECT ${from}) told`,
    { ...values },
  )
  return { count: Number(row!.n), amount: Number(row!.amount ?? 0) }
}

const NOT_REVERSED = 'NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)'
const days = fc
  .tuple(fc.integer({ min: 1, max: 118 }), fc.integer({ min: 1, max: 12 }), fc.integer({ min: 0, max: 30 }))
  .map(([day, before, month]) => {
    const today = addDays('2026-07-21', day)
    return { today, since: addDays(today, -before), monthEnd: addDays(today, -month) }
  })

test('what came in, was billed, came back: as SQL sums it, from memory as from the tables', async () => {
  await fc.assert(
    fc.asyncProperty(days, async dates => {
      keepImage(books.database, null)
      const fromTables = await readFigures(books.database, dates, {})
      keepImage(books.database, imageHere(books.database))
      const figures = await readFigures(books.database, dates, {})
      expect(figures).toEqual(fromTables)
      expect(figures.received).toEqual(
        await sumOf(
          `i.base_amount AS base FROM item i WHERE i.kind IN ('receipt', 'advance') AND ${NOT_REVERSED}
            AND i.posting_date BETWEEN :since AND :today`,
          dates,
        ),
      )
      expect(figures.receivedThisMonth).toEqual(
        await sumOf(
          `i.base_amount AS base FROM item i WHERE i.kind IN ('receipt', 'advance') AND ${NOT_REVERSED}
            AND i.posting_date > :monthEnd AND i.posting_date <= :today`,
          dates,
        ),
      )
      expect(figures.billed).toEqual(
        await sumOf(
          `IF(i.side = 'debit', 1, -1) * i.base_amount AS base FROM item i WHERE i.kind IN ('invoice',
            'credit-note', 'debit-note', 'fee', 'charge') AND i.posting_date BETWEEN :since AND :today`,
          dates,
        ),
      )
      expect(figures.returned).toEqual(
        await sumOf(
          `i.base_amount AS base FROM item i JOIN item m ON m.id = i.reverses_item_id
            WHERE i.side = 'debit' AND m.kind IN ('receipt', 'advance') AND m.posting_date < i.posting_date
            AND i.posting_date BETWEEN :since AND :today`,
          dates,
        ),
      )
    }),
    { numRuns: 40 },
  )
})

test('today: what fell overdue and what lies unallocated, and the largest of them by name', async () => {
  const dates = { today: '2026-11-16', since: '2026-10-01', monthEnd: '2026-10-31' }
  keepImage(books.database, imageHere(books.database))
  const figures = await readFigures(books.database, dates, {})
  expect(figures.overdue).toEqual(
    await sumOf(
      'base_open AS base FROM open_item WHERE open > 0 AND due_date >= :since AND due_date < :today',
      dates,
    ),
  )
  expect(figures.unallocated).toEqual(
    await sumOf(
      `-o.base_open AS base FROM open_item o JOIN item i ON i.id = o.item_id WHERE o.open < 0
        AND i.kind IN ('receipt', 'advance')`,
      dates,
    ),
  )
  expect(figures.overdue.count).toBeGreaterThan(0)
  expect(figures.unallocated.count).toBeGreaterThan(0)
  const amounts = figures.newlyOverdue.map(i => i.amount)
  expect(amounts).toEqual([...amounts].sort((a, b) => b - a))
})

test.each(ROLES)('a %s is told only what belongs to the role, in its order', async role => {
  const { moved, todo } = await readToday(books.database, { ...books.actor, role })
  const order = (kinds: readonly string[], lines: readonly { kind: string }[]) =>
    lines.map(l => kinds.indexOf(l.kind))
  for (const [kinds, lines] of [
    [FIRST[role].moved, moved],
    [FIRST[role].waits, todo],
  ] as const) {
    const places = order(kinds, lines)
    expect(places).not.toContain(-1)
    expect(places).toEqual([...places].sort((a, b) => a - b))
  }
})
