import fc from 'fast-check'
import { agingQuery, compareItemsQuery, compareQuery } from '../../../contract/aging'
import { addDays } from '../../../core/calendar'
import { imageHere, keepImage } from '../../../server/image'
import { readAging } from '../../../server/services/aging/aging'
import { compareAging, compareItems } from '../../../server/services/aging/compare'
import { freshBooks, type Books } from '../database'
import { ledgerOfChance } from './chance'

/** The bridge is held against two agings made by SQL, column by column. */
let books: Books
beforeAll(async () => {
  books = await freshBooks()
  await ledgerOfChance(books, 'compare')
})
afterAll(() => books.close())

const compare = (ask: object) => compareAging(books.database, compareQuery.parse(ask), {})

const spans = fc
  .tuple(fc.integer({ min: 0, max: 118 }), fc.integer({ min: 1, max: 118 }))
  .map(([start, length]) => {
    const from = addDays('2026-07-19', start)
    return { from, to: addDays(from, length) }
  })
const asks = fc.record({
  basis: fc.constantFrom('due' as const, 'document' as const),
  class: fc.option(fc.constantFrom('food', 'garden'), { nil: undefined }),
})

test('from any day to any later one the parts add up, and both ends are the agings of those days', async () => {
  const seen = new Map<string, number>()
  await fc.assert(
    fc.asyncProperty(spans, asks, async (span, ask) => {
      const bridge = await compare({ ...span, ...ask })
      for (const [asOf, end] of [
        [span.from, bridge.opening],
        [span.to, bridge.closing],
      ] as const) {
        const { totals } = await readAging(books.database, agingQuery.parse({ asOf, ...ask, limit: 1 }), {})
        expect([asOf, end]).toEqual([
          asOf,
          { amounts: totals.amounts, onAccount: totals.onAccount, total: totals.total },
        ])
      }
      const columns = (row: { amounts: number[]; onAccount: number }) => [...row.amounts, row.onAccount]
      const sums = columns(bridge.opening).map((amount, i) =>
        bridge.parts.reduce((sum, part) => sum + columns(part)[i]!, amount),
      )
      expect(sums).toEqual(columns(bridge.closing))
      // What becomes older leaves one bucket for another.
      expect(bridge.parts.find(p => p.part === 'older')!.total).toBe(0)
      for (const p of bridge.parts)
        if (columns(p).some(Boolean)) seen.set(p.part, (seen.get(p.part) ?? 0) + 1)
    }),
    { numRuns: 60 },
  )
  expect([...seen.keys()].sort()).toEqual(['billed', 'credited', 'older', 'paid', 'rates', 'reversed'])
})

test('memory and slices of the tables answer alike, and every part is made of items', async () => {
  const span = { from: '2026-08-31', to: '2026-10-31' }
  const fromTables = await compare(span)
  keepImage(books.database, imageHere(books.database))
  const fromMemory = await compare(span)
  expect(fromMemory).toEqual(fromTables)
  for (const { part, amounts, onAccount } of fromMemory.parts)
    for (const [column, figure] of [
      ...amounts.map((a, i) => [String(i), a] as const),
      ['onAccount', onAccount] as const,
    ]) {
      const q = compareItemsQuery.parse({ ...span, part, column, limit: 500 })
      const items = await compareItems(books.database, q, {})
      expect([part, column, items.total]).toEqual([part, column, figure])
      expect(items.items.reduce((sum, i) => sum + i.amount, 0)).toBe(figure)
    }
  keepImage(books.database, null)
  const q = compareItemsQuery.parse({ ...span, part: 'paid', limit: 3 })
  const slices = await compareItems(books.database, q, {})
  keepImage(books.database, imageHere(books.database))
  expect(await compareItems(books.database, q, {})).toEqual(slices)
  keepImage(books.database, null)
})

test('a comparison goes forward', async () => {
  await expect(compare({ from: '2026-10-01', to: '2026-10-01' })).rejects.toThrow(/does not lie before/)
})
