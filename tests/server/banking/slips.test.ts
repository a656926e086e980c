import { intents, postIntent, previewSlip, previewVoid } from '../post'
import { textOfPdf } from '../pdf'
import { int } from '../../../server/db/connection'
import { LedgerRefused } from '../../../server/ledger/command'
import { verifyLedger } from '../../../server/ledger/verify'
import { readTray, slipAsPdf } from '../../../server/services/banking/slips'
import { takeToBank, voidSlipById } from '../../../server/services/banking/paying'
import { CUSTOMERS, customers, freshBooks, TODAY, type Books } from '../database'

let books: Books
beforeEach(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
})
afterEach(() => books.close())

type Means = { means: 'cash' | 'cheque' | 'transfer'; amount: number; reference: string }
async function receive(customer: string, means: Means[], over: object = {}) {
  const total = means.reduce((a, m) => a + m.amount, 0)
  return (
    await postIntent(
      books.database,
      books.actor,
      await intents.receipt(books.database, { customer, date: TODAY, means, onAccount: total, ...over }),
    )
  ).receipt!.id
}
const balance = async (account: string) =>
  int(
    (
      await books.database.select('SELECT SUM(base_amount) AS n FROM journal_line WHERE account = :account', {
        account,
      })
    )[0]!.n,
  )
const ids = async () => (await readTray(books.database, {})).items.map(i => i.id)
const take = (means: number[], cashKept = 0) =>
  takeToBank(books.database, books.actor, { date: TODAY, means, cashKept })
const refused = async (work: Promise<unknown>) => {
  const error = await work.then(
    () => null,
    (e: unknown) => e,
  )
  expect(error).toBeInstanceOf(LedgerRefused)
  return (error as LedgerRefused).refusals.map(r => r.rule)
}

test('cheques and cash wait in the tray, transfers do not; a slip takes them to the bank with cash kept back', async () => {
  await receive('K1', [
    { means: 'cheque', amount: 50_000, reference: '004417' },
    { means: 'cash', amount: 20_000, reference: '' },
    { means: 'transfer', amount: 1000, reference: '' },
  ])
  await receive('K2', [{ means: 'cheque', amount: 30_000, reference: '77' }], { currency: 'EUR' })
  const tray = await readTray(books.database, {})
  expect(tray.totals).toEqual([{ currency: 'EUR', cash: 20_000, cheques: 80_000, count: 3 }])
  const body = { date: TODAY, means: tray.items.map(i => i.id), cashKept: 5000 }
  expect((await previewSlip(books.database, body)).lines.map(l => [l.account, l.amount])).toEqual([
    ['1220', 95_000],
    ['1000', 5000],
    ['1210', -100_000],
  ])
  const slip = await take(body.means, 5000)
  expect(slip).toMatchObject({ number: 'P-00001', total: 100_000, banked: 95_000, count: 3, voided: false })
  expect([await balance('1210'), await balance('1220'), await balance('1000')]).toEqual([0, 96_000, 5000])
  expect(await ids()).toEqual([])
  expect(await refused(take(body.means))).toContain('slip.once')
  expect(await verifyLedger(books.database)).toEqual([])
  const text = textOfPdf((await slipAsPdf(books.database, slip.id)).pdf)
  for (const part of [
    'Paying-in slip P-00001',
    '004417',
    'Hollin & Sedge',
    '2 cheques',
    'EUR 800.00',
    'To the bank',
    'EUR 950.00',
  ])
    expect(text).toContain(part)
})

test('a slip is voided once, and everything lies in the tray again', async () => {
  await receive('K1', [{ means: 'cheque', amount: 50_000, reference: '1' }])
  const slip = await take(await ids())
  expect((await previewVoid(books.database, slip.id, TODAY)).lines.map(l => [l.account, l.amount])).toEqual([
    ['1220', -50_000],
    ['1210', 50_000],
  ])
  expect(
    await voidSlipById(books.database, books.actor, slip.id, { date: TODAY, reason: 'wrong bank' }),
  ).toMatchObject({ voided: true, voidReason: 'wrong bank' })
  expect([await balance('1210'), await balance('1220'), (await ids()).length]).toEqual([50_000, 0, 1])
  expect(
    await refused(voidSlipById(books.database, books.actor, slip.id, { date: TODAY, reason: 'again' })),
  ).toEqual(['slip.void-once'])
  expect((await take(await ids())).number).toBe('P-00002')
  expect(await verifyLedger(books.database)).toEqual([])
})

test('a cheque returned after it went to the bank comes back from there, not from the tray', async () => {
  const id = await receive('K2', [{ means: 'cheque', amount: 50_000, reference: '1' }], { currency: 'GBP' })
  const slip = await take(await ids())
  await postIntent(
    books.database,
    books.actor,
    await intents.reverse(books.database, id, { date: TODAY, reason: 'returned unpaid' }),
  )
  expect([await balance('1210'), await balance('1220'), (await ids()).length]).toEqual([0, 0, 0])
  expect(
    await refused(voidSlipById(books.database, books.actor, slip.id, { date: TODAY, reason: 'x' })),
  ).toEqual(['slip.void-reversed'])
  expect(await verifyLedger(books.database)).toEqual([])
})

test('what cannot be right is refused', async () => {
  const reversed = await receive('K1', [{ means: 'cheque', amount: 100, reference: '1' }])
  const all = await ids()
  await postIntent(
    books.database,
    books.actor,
    await intents.reverse(books.database, reversed, { date: TODAY, reason: 'x' }),
  )
  expect(await ids()).toEqual([])
  expect(await refused(take(all))).toEqual(['slip.reversed'])
  await receive('K1', [{ means: 'cash', amount: 900, reference: '' }])
  await receive('K2', [{ means: 'cash', amount: 900, reference: '' }], { currency: 'NOK' })
  const both = await ids()
  expect(await refused(take(both))).toEqual(['slip.currency'])
  expect(await refused(take(both.slice(0, 1), 901))).toEqual(['slip.kept'])
  expect(await refused(take(both.slice(0, 1), 900))).toEqual(['slip.kept'])
  expect(await refused(take([999_999]))).toContain('slip.known')
})

test('two people with the same tray: one slip', async () => {
  await receive('K1', [{ means: 'cheque', amount: 100, reference: '1' }])
  const all = await ids()
  const results = await Promise.allSettled([take(all), take(all)])
  expect(results.filter(r => r.status === 'fulfilled')).toHaveLength(1)
  expect(await verifyLedger(books.database)).toEqual([])
})
