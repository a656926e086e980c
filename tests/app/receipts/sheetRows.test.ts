import fc from 'fast-check'
import type { OpenItem } from '../../../contract/receipts'
import { sheetRows, type SheetView } from '../../../app/composables/receipts/sheetRows'

const item = (over: Partial<OpenItem>): OpenItem => ({
  id: 1,
  number: '26-1',
  kind: 'invoice',
  customer: 'K1',
  name: 'Hollin & Sedge',
  group: '',
  text: '',
  order: '',
  documentDate: '2026-10-01',
  dueDate: '2026-10-31',
  daysLate: 16,
  amount: 1000,
  open: 1000,
  baseOpen: 1000,
  discount: null,
  offered: 0,
  disputed: false,
  ...over,
})
const view = (over: Partial<SheetView> = {}): SheetView => ({
  find: '',
  group: '',
  only: 'all',
  order: 'customer',
  isTicked: () => false,
  ...over,
})
const ids = (rows: readonly OpenItem[]) => rows.map(r => r.id)

const LIST = [
  item({ id: 1, number: '26-1', customer: 'K2', name: 'Brae & Barrow', open: 121_040 }),
  item({ id: 2, number: '26-2', customer: 'K1', dueDate: '2026-12-01', daysLate: -15, order: 'SO-77' }),
  item({
    id: 3,
    number: 'C-9',
    customer: 'K1',
    dueDate: '2026-10-02',
    daysLate: 45,
    open: -5000,
    group: 'K2',
  }),
  item({ id: 4, number: '26-4', customer: 'K3', discount: { amount: 20, until: '2026-11-20' }, daysLate: 0 }),
]

test.each<[string, Partial<SheetView>, number[]]>([
  ['all of them by customer, the oldest first', {}, [3, 2, 1, 4]],
  ['by due date', { order: 'due' }, [3, 1, 4, 2]],
  ['the largest first', { order: 'amount' }, [1, 2, 4, 3]],
  ['what is due, today included', { only: 'due' }, [3, 1, 4]],
  ['with a discount', { only: 'discount' }, [4]],
  ['what is ticked', { only: 'ticked', isTicked: id => id === 2 }, [2]],
  ['one group, its head included', { group: 'K2' }, [3, 1]],
  ['a word of the name, in any case', { find: 'brae' }, [1]],
  ['two words, both of them', { find: 'hollin 26-2' }, [2]],
  ['an order', { find: 'so-77' }, [2]],
  ['the first digits of an amount, as one writes it', { find: '1,210.40' }, [1]],
  ['two digits are a word, not an amount', { find: '12' }, []],
])('%s', (_, over, expected) => {
  expect(ids(sheetRows(LIST, view(over)))).toEqual(expected)
})

test('whatever is asked: no item twice, none invented, the list itself untouched', () => {
  const some = fc.array(
    fc.record({
      id: fc.nat(),
      customer: fc.constantFrom('K1', 'K2', 'K3'),
      open: fc.integer({ min: -9999, max: 9999 }),
      daysLate: fc.integer({ min: -40, max: 40 }),
      dueDate: fc.constantFrom('2026-10-02', '2026-11-16', '2026-12-01'),
    }),
    { maxLength: 40 },
  )
  fc.assert(
    fc.property(
      some,
      fc.constantFrom('customer' as const, 'due' as const, 'amount' as const),
      fc.constantFrom('all' as const, 'due' as const),
      (list, order, only) => {
        const items = list.map(x => item(x))
        const before = [...items]
        const rows = sheetRows(items, view({ order, only }))
        expect(items).toEqual(before)
        expect(new Set(rows).size).toBe(rows.length)
        expect(rows.length).toBe(only === 'all' ? items.length : items.filter(i => i.daysLate >= 0).length)
        if (order === 'amount')
          for (const [n, row] of rows.entries())
            if (n) expect(rows[n - 1]!.open).toBeGreaterThanOrEqual(row.open)
      },
    ),
  )
})
