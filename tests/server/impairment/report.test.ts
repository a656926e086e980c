import { writeSetting } from '../../../server/db/settings'
import { prove } from '../../../server/services/books/proof'
import { claimPdf, fileClaim, listClaims } from '../../../server/services/impairment/claims'
import { listCandidates, listWriteOffs } from '../../../server/services/impairment/lists'
import { exportLosses, readLosses } from '../../../server/services/impairment/report'
import {
  claimTax,
  postWriteOff,
  undoWriteOff,
  writeOffCommand,
} from '../../../server/services/impairment/writeOff'
import { signRequest } from '../../../server/services/signOff/signOff'
import type { WriteOffBody } from '../../../contract/impairment'
import type { Actor } from '../../../server/services/people/scope'
import { customers, documents } from '../database'
import { textOfPdf } from '../pdf'
import { books, itemId } from '../banking/bank'

const BEA: Actor = { id: 2, name: 'Bea Sign', email: 'b@example.org', role: 'supervisor' }

beforeEach(async () => {
  await customers(
    books,
    `number,name,class,country,currency
W1,Wrack Wares,garden,GB,EUR
W2,Weir & Co,food,IE,EUR
W3,Yamase Foods,food,JP,JPY
`,
  )
  await documents(
    books,
    `number,kind,customer,date,due_date,currency,amount,tax
W-1,invoice,W1,2026-02-10,2026-03-12,EUR,1200.00,200.00
W-2,invoice,W2,2026-05-10,2026-06-09,EUR,40.00,0
W-3,credit-note,W2,2026-05-11,,EUR,10.00,0
W-4,invoice,W3,2026-05-12,2026-06-11,JPY,1500,0
W-5,invoice,W2,2026-06-10,2026-07-10,EUR,11.00,0
`,
  )
  await books.database.run(`INSERT INTO person (email, name, role, password_hash) VALUES
    ('b@example.org', 'Bea Sign', 'supervisor', 'x'), ('c@example.org', 'Cal Sold', 'sales', 'x')`)
  await books.database.run("UPDATE customer SET sales_id = 3 WHERE number = 'W1'")
  await writeSetting(books.database, 1, 'signOff', { 'write-off': { EUR: 50_000 } })
})

const body = async (numbers: string[], over: Partial<WriteOffBody> = {}): Promise<WriteOffBody> => ({
  items: await Promise.all(numbers.map(async n => ({ itemId: await itemId(n) }))),
  ...{ reason: 'uncollectable', text: 'gone away', commission: 'kept' },
  ...over,
})
const read = (by: Parameters<typeof readLosses>[1]['by']) => readLosses(books.database, { by })

test('losses by reason, class, seller, month and who signed add up to the same', async () => {
  const asked = await postWriteOff(books.database, books.actor, await body(['W-1']))
  await signRequest(books.database, BEA, asked.waiting!)
  await postWriteOff(books.database, books.actor, await body(['W-2'], { reason: 'small' }))
  const undone = await postWriteOff(books.database, books.actor, await body(['W-5'], { reason: 'small' }))
  await undoWriteOff(books.database, books.actor, await itemId(undone.numbers[0]!), 'paid after all')
  const shown = async (by: Parameters<typeof read>[0]) =>
    (await read(by)).groups.map(g => [g.name, g.count, g.lost, g.tax, g.net])
  const [large, small] = [
    [1, 120_000, 20_000, 100_000],
    [1, 4000, 0, 4000],
  ]
  expect(await shown('reason')).toEqual([
    ['Cannot be collected', ...large],
    ['Small balance', ...small],
  ])
  expect(await shown('customer')).toEqual([
    ['Wrack Wares', ...large],
    ['Weir & Co', ...small],
  ])
  expect(await shown('seller')).toEqual([
    ['Cal Sold', ...large],
    ['nobody', ...small],
  ])
  expect(await shown('signer')).toEqual([
    ['Bea Sign', ...large],
    ['one person was enough', ...small],
  ])
  expect(await shown('month')).toEqual([['2026-11', 2, 124_000, 20_000, 104_000]])
  // Of 41.00 billed to the class, less a credit note of 10.00 and with one in yen.
  const { groups, total } = await read('customer')
  expect(groups[1]).toMatchObject({ billed: 4100, rate: (100 * 4000) / 4100 })
  expect(total).toMatchObject({ count: 2, lost: 124_000, net: 104_000 })
  expect((await listWriteOffs(books.database, { limit: 9 })).items.map(w => w.signedBy)).toEqual([
    '',
    '',
    'Bea Sign',
  ])
  const file = await exportLosses(books.database, { by: 'reason', format: 'csv' })
  expect(file.bytes.toString().split('\n')[1]).toContain(
    'Cannot be collected,1,1200.00,0.00,200.00,0.00,1000.00',
  )
})

test('a small balance is small in base currency; commission is told with what either answer does', async () => {
  const found = await listCandidates(books.database, { most: 1200, days: 90, limit: 20 })
  expect(found.items.map(i => i.number)).toEqual(['W-4', 'W-5'])
  const warnings = async (over: Partial<WriteOffBody>) =>
    (await prove(books.database, books.actor, writeOffCommand, await body(['W-1', 'W-2'], over))).warnings
  expect(await warnings({})).toEqual([
    'Cal Sold keeps the commission on 1000.00 EUR of sales; taken back, it would go down by theirs',
  ])
  const half = [{ itemId: await itemId('W-1'), amount: 60_000 }]
  expect(await warnings({ items: half, commission: 'taken-back' })).toEqual([
    'the commission of Cal Sold on 500.00 EUR of sales is taken back; kept, it would stay',
  ])
})

test('an insolvency that comes after the write-off makes the tax claimable, once its claim is filed', async () => {
  // In Germany nothing but an insolvency gives the tax back.
  await books.database.run("UPDATE customer SET country = 'DE' WHERE number = 'W1'")
  await writeSetting(books.database, 1, 'signOff', { 'write-off': { EUR: 1_000_000 } })
  await postWriteOff(books.database, books.actor, await body(['W-1']))
  expect(await claimTax(books.database, books.actor)).toEqual({ claimed: 0, taxBase: 0 })
  await documents(
    books,
    `number,kind,customer,date,due_date,currency,amount,tax
W-6,invoice,W1,2026-11-02,2026-12-02,EUR,50.00,0
`,
  )
  const ask = { customer: 'W1', administrator: 'Quill & Reed', address: '', reference: '', dividend: 0 }
  await fileClaim(books.database, books.actor, { ...ask, openedOn: '2026-11-12' })
  expect(await claimTax(books.database, books.actor)).toEqual({ claimed: 1, taxBase: 20_000 })
})

test('a claim in an insolvency lists what is open and what was written off for it, and is kept as filed', async () => {
  await postWriteOff(books.database, books.actor, await body(['W-5'], { reason: 'insolvency' }))
  const ask = {
    customer: 'W2',
    administrator: 'Quill & Reed',
    address: '1 Quay St, Cork',
    reference: '2026/77',
  }
  const { id } = await fileClaim(books.database, books.actor, {
    ...ask,
    openedOn: '2026-11-12',
    dividend: 500,
  })
  const [claim] = (await listClaims(books.database)).items
  // 40.00 still open and 11.00 written off; a credit note is no claim.
  expect(claim).toMatchObject({
    id,
    amount: 5100,
    expected: 255,
    recovered: 0,
    administrator: 'Quill & Reed',
  })
  const { pdf } = await claimPdf(books.database, id)
  const text = textOfPdf(pdf)
  for (const words of ['Proof of debt', 'Quill & Reed', 'Weir & Co', 'W-2', 'W-5', '51.00'])
    expect(text).toContain(words)
  await expect(
    fileClaim(books.database, books.actor, { ...ask, customer: 'K3', openedOn: '2027-01-01', dividend: 0 }),
  ).rejects.toThrow('after today')
  await expect(claimPdf(books.database, 99)).rejects.toThrow('claim 99')
})
