import { verifyLedger } from '../../../server/ledger/verify'
import { acceptClear } from '../../../server/services/banking/clear'
import { customers, documents } from '../database'
import { books, line, take } from './bank'

test('each discount step still earned, one with cents beside it, and a late one', async () => {
  await customers(
    books,
    'number,name,country,currency,terms\nS1,Steps of Stone,IE,EUR,"3% 10, 2% 20, net 30"\n',
  )
  await documents(
    books,
    'number,customer,date,amount\n' +
      [1, 2, 3, 4].map(n => `ST-${n},S1,2026-11-05,${n}000.00`).join('\n') +
      '\nST-5,S1,2026-09-01,100.00\n',
  )
  const paid = (number: string, amount: number) => line(amount, { name: 'Steps of Stone', text: number })
  await take([
    paid('ST-1', 97_000),
    paid('ST-2', 196_000),
    paid('ST-3', 290_958),
    paid('ST-4', 400_000),
    paid('ST-5', 9800),
  ])
  await acceptClear(books.database, books.actor)
  const open = await books.database.select<{ number: string; open: number }>(
    `SELECT i.number, o.open FROM open_item o JOIN item i ON i.id = o.item_id WHERE i.number LIKE 'ST-%'
      ORDER BY i.number`,
  )
  // The late discount was not granted: its line waits for somebody to look at it.
  expect(open).toEqual([{ number: 'ST-5', open: 10_000 }])
  const born = await books.database.select<{ kind: string; amount: number }>(
    `SELECT kind, amount FROM item WHERE kind IN ('discount', 'difference') ORDER BY amount`,
  )
  expect(born).toEqual([
    { kind: 'difference', amount: 42 },
    { kind: 'discount', amount: 3000 },
    { kind: 'discount', amount: 4000 },
    { kind: 'discount', amount: 9000 },
  ])
  expect(await verifyLedger(books.database)).toEqual([])
})
