import { verifyLedger } from '../../../server/ledger/verify'
import { writeSetting } from '../../../server/db/settings'
import { listCandidates, listRecoverable, listWriteOffs } from '../../../server/services/impairment/lists'
import { postRecovery } from '../../../server/services/impairment/recovery'
import { claimTax, postWriteOff, undoWriteOff } from '../../../server/services/impairment/writeOff'
import { signRequest } from '../../../server/services/signOff/signOff'
import type { WriteOffBody } from '../../../contract/impairment'
import type { Actor } from '../../../server/services/people/scope'
import { customers, documents, TODAY } from '../database'
import { agrees, balance, books, itemId, refusal } from '../banking/bank'
import { intents, postIntent } from '../post'

const BEA: Actor = { id: 2, name: 'Bea Sign', email: 'b@example.org', role: 'supervisor' }

beforeEach(async () => {
  await customers(
    books,
    `number,name,country,currency
W1,Wrack Wares,GB,EUR
W2,Weir & Co,IE,EUR
W3,Wold Foods,DE,EUR
`,
  )
  await documents(
    books,
    `number,kind,customer,date,due_date,currency,amount,tax
W-1,invoice,W1,2026-02-10,2026-03-12,EUR,1200.00,200.00
W-2,invoice,W2,2026-05-10,2026-06-09,EUR,4.20,0.79
W-3,invoice,W2,2026-06-10,2026-07-10,EUR,0.05,0
W-4,invoice,W3,2026-07-10,2026-08-09,EUR,595.00,95.00
W-5,invoice,W3,2026-11-01,2026-12-01,EUR,9.00,0
`,
  )
  await books.database.run(`INSERT INTO person (email, name, role, password_hash)
    VALUES ('b@example.org', 'Bea Sign', 'supervisor', 'x')`)
  await writeSetting(books.database, 1, 'signOff', { 'write-off': { EUR: 100_000 } })
})

const post = async (numbers: string[], over: Partial<WriteOffBody> = {}, amount?: number) =>
  postWriteOff(books.database, books.actor, {
    items: await Promise.all(
      numbers.map(async n => ({ itemId: await itemId(n), ...(amount ? { amount } : {}) })),
    ),
    ...{ reason: 'uncollectable', text: 'gone away', commission: 'kept' },
    ...over,
  })
const list = (over: object = {}) => listWriteOffs(books.database, { limit: 50, ...over })
const query = { days: 0, limit: 50 }

test('small and old balances of many customers are written off together, each by its own item', async () => {
  const small = await listCandidates(books.database, { ...query, most: 1000, days: 90 })
  expect(small.items.map(i => [i.number, i.open, i.daysLate])).toEqual([
    ['W-2', 420, 160],
    ['W-3', 5, 129],
  ])
  expect(small.totals).toEqual({ base: 'EUR', open: 425, count: 2, setAside: 0 })
  const done = await post(['W-2', 'W-3'], { reason: 'small', text: 'not worth a letter' })
  expect(done).toEqual({ numbers: ['W-00001', 'W-00002'], waiting: null })
  expect((await listCandidates(books.database, { ...query, most: 1000, days: 90 })).items).toEqual([])
  expect((await list()).byReason).toEqual([{ reason: 'small', count: 2, base: 425, recovered: 0 }])
  expect(await balance('6860')).toBe(425)
  await agrees()
  expect(await verifyLedger(books.database)).toEqual([])
})

test('above the limit a second person signs; what was paid meanwhile is refused then', async () => {
  const asked = await post(['W-1'])
  expect(asked.waiting).not.toBeNull()
  expect(await balance('6860')).toBe(0)
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      ...{ customer: 'W1', currency: 'EUR', date: TODAY },
      means: [{ means: 'transfer', amount: 120_000, reference: '' }],
      allocations: [{ itemId: await itemId('W-1'), amount: 120_000 }],
    }),
  )
  expect(await refusal(signRequest(books.database, BEA, asked.waiting!))).toBe('write-off.open')
})

test('a part is written off, the tax is claimed by the rule of the country, and all goes back', async () => {
  const tax = await balance('2200')
  await writeSetting(books.database, 1, 'signOff', { 'write-off': { EUR: 1_000_000 } })
  await post(['W-1'], {}, 60_000)
  await post(['W-4'])
  const rows = (await list()).items
  expect(rows.map(r => [r.of.number, r.amount, r.tax, r.relief])).toEqual([
    ['W-4', 59_500, 9500, 'waits'],
    ['W-1', 60_000, 10_000, 'claimed'],
  ])
  expect([await balance('6860'), await balance('2200')]).toEqual([109_500, tax + 10_000])
  expect((await list()).waiting).toEqual({ count: 1, taxBase: 9500 })
  // Age alone never gives it in Germany; the house says otherwise.
  expect(await claimTax(books.database, books.actor)).toEqual({ claimed: 0, taxBase: 0 })
  const rule = { days: 30, reminded: 0, insolvency: false }
  await writeSetting(books.database, 1, 'impairmentPolicy', { relief: { rest: rule, byCountry: {} } })
  expect(await claimTax(books.database, books.actor)).toEqual({ claimed: 1, taxBase: 9500 })
  expect(await claimTax(books.database, books.actor)).toEqual({ claimed: 0, taxBase: 0 })
  expect([await balance('6860'), await balance('2200')]).toEqual([100_000, tax + 19_500])
  for (const { id } of rows) await undoWriteOff(books.database, books.actor, id, 'found again')
  expect([await balance('6860'), await balance('2200')]).toEqual([0, tax])
  expect((await list()).items.map(r => r.undone)).toEqual([true, true])
  expect((await list()).byReason).toEqual([])
  expect(await refusal(undoWriteOff(books.database, books.actor, rows[0]!.id, 'twice'))).toBe('reverse.once')
  await agrees()
  expect(await verifyLedger(books.database)).toEqual([])
})

test('against the allowance only what is set aside; what is on its way to be collected is not lost', async () => {
  expect(await refusal(post(['W-4'], { against: 'allowance' }))).toBe('write-off.allowance')
  expect(await refusal(post(['W-4', 'W-4']))).toBe('write-off.twice')
  expect(await refusal(post(['W-4'], {}, 59_501))).toBe('write-off.open')
})

test('money that comes after all finds what was written off, and owes its tax again', async () => {
  const tax = await balance('2200')
  await writeSetting(books.database, 1, 'signOff', { 'write-off': { EUR: 1_000_000 } })
  await post(['W-1'], { reason: 'insolvency' })
  const [row] = (await list()).items
  expect(await books.database.select('SELECT cause, reason FROM hold WHERE ended_at IS NULL')).toEqual([
    { cause: 'hand', reason: 'Insolvent: gone away' },
  ])
  const receive = async (amount: number) =>
    (
      await postIntent(
        books.database,
        books.actor,
        await intents.receipt(books.database, {
          ...{ customer: 'W1', currency: 'EUR', date: TODAY, onAccount: amount },
          means: [{ means: 'transfer', amount, reference: 'dividend' }],
        }),
      )
    ).receipt!.id
  expect(await listRecoverable(books.database, {})).toEqual([])
  const creditItemId = await receive(12_000)
  expect(await listRecoverable(books.database, { customer: 'W1' })).toMatchObject([
    { credit: { id: creditItemId, open: 12_000 }, owes: 0, writeOffs: [{ id: row!.id, left: 120_000 }] },
  ])
  const recover = (amount: number) =>
    postRecovery(books.database, books.actor, { creditItemId, parts: [{ writeOffId: row!.id, amount }] })
  expect(await refusal(recover(12_001))).toBe('recovery.open')
  const twice = await Promise.allSettled([recover(12_000), recover(12_000)])
  expect(twice.map(t => t.status).sort()).toEqual(['fulfilled', 'rejected'])
  expect([await balance('4920'), await balance('2200')]).toEqual([-10_000, tax + 20_000 - 2000])
  expect((await list()).items[0]).toMatchObject({ recovered: 12_000, undone: false })
  expect((await list()).byReason).toMatchObject([{ reason: 'insolvency', recovered: 12_000 }])
  expect(await refusal(undoWriteOff(books.database, books.actor, row!.id, 'no'))).toBe('write-off.recovered')
  const [recovery] = (await list()).items[0]!.recoveries
  expect(recovery).toMatchObject({ amount: 12_000 })
  // Neither lies open by itself: their links go back only with them, and the money stays while they stand.
  const linkOf = async (column: 'debit_item_id' | 'credit_item_id', item: number) => {
    const [link] = await books.database.select<{ id: number }>(
      `SELECT id FROM allocation WHERE ${column} = :item AND undoes_id IS NULL`,
      { item },
    )
    return link!.id
  }
  const unlink = async (allocation: number) =>
    postIntent(
      books.database,
      books.actor,
      await intents.unallocate(books.database, {
        ...{ customer: 'W1', date: TODAY, allocationIds: [allocation], reason: 'by mistake' },
      }),
    )
  expect(await refusal(unlink(await linkOf('debit_item_id', recovery!.id)))).toBe('unallocate.whole')
  expect(await refusal(unlink(await linkOf('credit_item_id', row!.id)))).toBe('unallocate.whole')
  const bounced = await intents.reverse(books.database, creditItemId, { date: TODAY, reason: 'bounced' })
  expect(await refusal(postIntent(books.database, books.actor, bounced))).toBe('unallocate.whole')
  // A recovery by mistake goes back first: its money is on account again, then the write-off goes back too.
  await undoWriteOff(books.database, books.actor, recovery!.id, 'another debt was meant')
  expect([await balance('4920'), await balance('2200')]).toEqual([0, tax + 20_000])
  expect(await listRecoverable(books.database, {})).toMatchObject([{ credit: { open: 12_000 } }])
  await undoWriteOff(books.database, books.actor, row!.id, 'found again')
  expect([await balance('6860'), await balance('2200')]).toEqual([0, tax])
  await agrees()
  expect(await verifyLedger(books.database)).toEqual([])
})
