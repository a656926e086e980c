import { IMPAIRMENT_POLICY } from '../../../core/impairment'
import { readSettings, writeSetting } from '../../../server/db/settings'
import { imageHere, keepImage } from '../../../server/image'
import { perform } from '../../../server/ledger/command'
import { verifyLedger } from '../../../server/ledger/verify'
import {
  exportAllowance,
  listAllowances,
  postAllowance,
  proveAllowance,
  readAllowance,
  undoAllowance,
} from '../../../server/services/impairment/allowance'
import { addCase, endCase, listCases } from '../../../server/services/impairment/cases'
import { exposedFromTables, readExposed } from '../../../server/services/impairment/exposed'
import { readLossRates } from '../../../server/services/impairment/lossRates'
import { postRecovery } from '../../../server/services/impairment/recovery'
import { postWriteOff } from '../../../server/services/impairment/writeOff'
import { handOver } from '../../../server/services/reminders/handover'
import { disputeCommand } from '../../../server/services/disputes/open'
import { customers, documents, TODAY } from '../database'
import { agrees, books, itemId, refusal } from '../banking/bank'
import { intents, postIntent } from '../post'

const END = '2026-10-31'
const ask = (over: object = {}) => ({ date: END, factor: 10_000, reason: '', ...over })
/** Base currency, as its account says. */
const setAside = async () => {
  const [row] = await books.database.select<{ base: unknown }>(
    "SELECT -COALESCE(SUM(base_amount), 0) AS base FROM journal_line WHERE account = '1190'",
  )
  return Number(row!.base)
}
const read = (over: object = {}) => readAllowance(books.database, ask(over))
const post = (over: object = {}) => postAllowance(books.database, books.actor, ask(over))

beforeEach(async () => {
  await customers(
    books,
    `number,name,country,currency
A1,Aisling Mills,IE,EUR
A2,Barrow Feeds,IE,EUR
A3,Cove Cosmetics,GB,GBP
`,
  )
  await documents(
    books,
    `number,kind,customer,date,due_date,currency,amount,tax
A-1,invoice,A1,2026-10-05,2026-11-04,EUR,10000.00,0
A-2,invoice,A1,2026-08-01,2026-09-15,EUR,2000.00,0
A-3,invoice,A2,2026-05-10,2026-06-09,EUR,5000.00,0
A-4,credit-note,A2,2026-05-12,,EUR,900.00,0
A-5,invoice,A3,2026-09-01,2026-10-10,GBP,1000.00,0
A-6,invoice,A1,2026-11-10,2026-12-10,EUR,7000.00,0
`,
  )
  await books.database.run("UPDATE customer SET risk_class = 'E' WHERE number = 'A2'")
  await books.database.run("UPDATE customer SET insured_limit = 800000 WHERE number = 'A1'")
  await writeSetting(books.database, 1, 'signOff', { 'write-off': { EUR: 100_000_000 } })
  await writeSetting(books.database, 1, 'impairmentPolicy', {
    ...IMPAIRMENT_POLICY,
    allowance: {
      bounds: [30, 60, 90],
      matrix: { rest: [30, 160, 360, 660, 1060], byClass: { E: [100, 500, 1000, 2000, 5000] } },
    },
  })
})
afterEach(() => keepImage(books.database, null))
test('the matrix of a month end: insured parts out, credit helps none, each class by its rates', async () => {
  const { cells, byBand, totals } = await read()
  // Of the books that all these tests share: 1,210.40 of K1 in the same cell.
  const cellOf = (riskClass: string, band: number, currency = 'EUR') =>
    cells.find(c => c.riskClass === riskClass && c.band === band && c.currency === currency)
  // 8,000.00 of 12,000.00 are insured: two thirds of each claim of A1.
  const [fresh, late] = [cellOf('', 0)!, cellOf('', 2)!]
  expect(late).toMatchObject({ gross: 321_040, borne: 133_333, exposed: 187_707, rate: 360, allowance: 6757 })
  expect(fresh.borne).toBe(666_667)
  expect(cellOf('E', 4)).toMatchObject({ gross: 500_000, exposed: 500_000, rate: 5000, allowance: 250_000 })
  expect(cellOf('', 1, 'GBP')).toMatchObject({ rate: 160 })
  expect(byBand.reduce((sum, b) => sum + b.gross, 0)).toBe(totals.gross)
  expect(byBand.reduce((sum, b) => sum + b.net, 0)).toBe(totals.net)
  for (const c of cells) expect(c.gross - c.borne - c.named).toBe(c.exposed)
})

test('memory and tables agree on any day, cases among them', async () => {
  await addCase(books.database, books.actor, { customer: 'A2', kind: 'lawyer', rate: 8000, text: 'sued' })
  const one = { itemId: await itemId('A-2'), kind: 'dispute' as const, rate: 5000, text: 'price' }
  await addCase(books.database, books.actor, { customer: 'A1', ...one })
  const settings = await readSettings(books.database)
  const cases = await books.database.select<{ id: number; customerId: number; itemId: number | null }>(
    'SELECT id, customer_id AS customerId, item_id AS itemId FROM allowance_case',
  )
  const sorted = <T extends object>(list: readonly T[]) => list.map(c => JSON.stringify(c)).sort()
  for (const bounds of [[30, 60, 90], [10]])
    for (const day of [TODAY, '2026-11-12', END, '2026-09-15', '2026-06-30', '2020-01-01']) {
      const wanted = { bounds, cases }
      const tables = await exposedFromTables(books.database, settings, day, wanted)
      keepImage(books.database, imageHere(books.database))
      const memory = await readExposed(books.database, settings, day, wanted)
      keepImage(books.database, null)
      const named = (c: (typeof tables.claims)[number]) => [c.customerId, c.currency, c.band, c.gross, c.base]
      expect(memory.claims.map(named).sort()).toEqual(tables.claims.map(named).sort())
      expect(sorted(memory.cases)).toEqual(sorted(tables.cases))
    }
})

test('only the difference is posted; twice, earlier and later are refused; the last goes back on its day', async () => {
  const proof = await proveAllowance(books.database, books.actor, ask())
  const first = await post()
  const expense = proof.lines.filter(l => l.account === '6870')
  expect(expense.reduce((sum, l) => sum + l.baseAmount, 0)).toBe(first.difference)
  expect(await setAside()).toBe(first.difference)
  expect(await refusal(post())).toBe('allowance.twice')
  expect(await refusal(post({ date: '2026-09-30' }))).toBe('allowance.later')
  expect(await refusal(post({ date: '2026-12-31' }))).toBe('date.future')
  expect(await refusal(post({ date: TODAY, factor: 11_000 }))).toBe('allowance.reason')
  const then = await read({ date: TODAY, factor: 11_000, reason: 'a hard winter' })
  const second = await post({ date: TODAY, factor: 11_000, reason: 'a hard winter' })
  expect(second.difference).toBe(then.totals.allowance - first.difference)
  expect(await setAside()).toBe(then.totals.allowance)
  const { opening, closing, from, ...parts } = then.bridge
  expect([from, opening]).toEqual([END, first.difference])
  expect(opening + Object.values(parts).reduce((a, b) => a + b, 0)).toBe(closing)
  expect(await refusal(undoAllowance(books.database, books.actor, first.id, 'wrong'))).toBe('allowance.later')
  await undoAllowance(books.database, books.actor, second.id, 'the winter was mild')
  expect(await refusal(undoAllowance(books.database, books.actor, second.id, 'x'))).toBe('allowance.undone')
  expect(await setAside()).toBe(first.difference)
  expect((await listAllowances(books.database)).items.map(r => [r.date, r.undone, r.last])).toEqual([
    [TODAY, true, false],
    [END, false, true],
  ])
  // The same day may be worked out anew, and a day without a difference posts nothing.
  await post({ date: TODAY })
  await agrees()
  expect(await verifyLedger(books.database)).toEqual([])
})

test('two at once: one allowance of a day stands', async () => {
  const done = await Promise.allSettled([post(), post(), post()])
  expect(done.map(d => d.status).sort()).toEqual(['fulfilled', 'rejected', 'rejected'])
  expect((await listAllowances(books.database)).items).toHaveLength(1)
  expect(await setAside()).toBe((await listAllowances(books.database)).items[0]!.difference)
})

test('what is lost against the allowance uses it up, once, and the bridge says so', async () => {
  const { difference } = await post()
  const lose = (number: string, amount: number) =>
    itemId(number).then(id =>
      postWriteOff(books.database, books.actor, {
        items: [{ itemId: id, amount }],
        ...{ reason: 'uncollectable', text: 'gone', against: 'allowance', commission: 'kept' },
      }),
    )
  const half = Math.floor(difference / 2) + 1
  const both = await Promise.allSettled([lose('A-1', half), lose('A-3', half)])
  expect(both.map(b => b.status).sort()).toEqual(['fulfilled', 'rejected'])
  expect(await setAside()).toBe(difference - half)
  const { bridge, differences } = await read({ date: TODAY })
  expect(bridge.used).toBe(-half)
  const moved = differences.reduce((sum, d) => sum + d.differenceBase, 0)
  expect(moved).toBe(bridge.closing - bridge.opening - bridge.used)
  await agrees()
})

test('cases are suggested, judged once, ended; the matrix is without them meanwhile', async () => {
  await handOver(books.database, books.actor, {
    ...{ customer: 'A2', agency: 'Quay Collections', reason: 'no answer' },
  })
  const invoice = await itemId('A-1')
  await perform(books.database, books.actor, disputeCommand, {
    ...{ customer: 'A1', reason: 'price', text: 'too dear', items: [{ itemId: invoice, amount: 100_000 }] },
  })
  const { suggestions } = await listCases(books.database)
  expect(suggestions.map(s => [s.customer.number, s.kind, s.open])).toEqual([
    ['A1', 'dispute', 1_000_000],
    ['A2', 'lawyer', 500_000],
  ])
  const judged = { customer: 'A2', kind: 'lawyer' as const, rate: 8000, text: 'sued' }
  const { id } = await addCase(books.database, books.actor, judged)
  await expect(addCase(books.database, books.actor, judged)).rejects.toThrow('judged by name already')
  await expect(
    addCase(books.database, books.actor, { ...judged, customer: 'A1', itemId: await itemId('A-4') }),
  ).rejects.toThrow('no open claim')
  expect((await listCases(books.database)).suggestions.map(s => s.customer.number)).toEqual(['A1'])
  const now = await read({ date: TODAY })
  expect(now.named).toMatchObject([{ gross: 500_000, allowance: 400_000, kind: 'lawyer' }])
  expect(now.cells.find(c => c.riskClass === 'E')).toMatchObject({ named: 500_000, exposed: 0, allowance: 0 })
  // It was not judged yet on the month end.
  expect((await read()).named).toEqual([])
  const csv = (
    await exportAllowance(books.database, { ...ask({ date: TODAY }), format: 'csv' })
  ).bytes.toString()
  expect(csv).toContain('named,"A2 Barrow Feeds, with a lawyer or agency",EUR,,5000.00,0.00,5000.00')
  await endCase(books.database, books.actor, id, 'settled')
  await expect(endCase(books.database, books.actor, id, 'again')).rejects.toThrow('ended on')
  expect((await read({ date: TODAY })).named).toEqual([])
})

test('rates from the past: what stood on month ends, what of it was lost, less what came back', async () => {
  const row = await postWriteOff(books.database, books.actor, {
    items: [{ itemId: await itemId('A-3') }],
    ...{ reason: 'uncollectable', text: 'gone', commission: 'kept' },
  })
  expect(row.waiting).toBeNull()
  const rates = async () => readLossRates(books.database, { months: 3 })
  const lostOf = (r: Awaited<ReturnType<typeof rates>>, band: number) => r.days.map(d => d.lost[band])
  const before = await rates()
  expect(before.days.map(d => d.date)).toEqual(['2026-08-31', '2026-09-30', END])
  // A-3 was 83 days late at the end of August, then over 90.
  expect([lostOf(before, 3), lostOf(before, 4)]).toEqual([
    [500_000, 0, 0],
    [0, 500_000, 500_000],
  ])
  keepImage(books.database, imageHere(books.database))
  expect(await rates()).toEqual(before)
  keepImage(books.database, null)
  const receipt = await intents.receipt(books.database, {
    ...{ customer: 'A2', currency: 'EUR', date: TODAY, onAccount: 200_000 },
    means: [{ means: 'transfer', amount: 200_000, reference: '' }],
  })
  const { id } = (await postIntent(books.database, books.actor, receipt)).receipt!
  const parts = [{ writeOffId: await itemId(row.numbers[0]!), amount: 200_000 }]
  await postRecovery(books.database, books.actor, { creditItemId: id, parts })
  const after = await rates()
  expect(lostOf(after, 3)).toEqual([300_000, 0, 0])
  expect(before.roll.lost - after.roll.lost).toBe(200_000)
})
