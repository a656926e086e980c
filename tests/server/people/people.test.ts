import { ABILITIES, can, ROLES, rolesThatCan, type Ability } from '../../../core/people'

import { advanceClock } from '../../../server/services/setup/clock'
import { changeSettings } from '../../../server/services/setup/settings'
import { jump } from '../../../server/services/today/jump'
import { readHistory } from '../../../server/services/today/history'
import { readToday } from '../../../server/services/today/today'
import { agingQuery } from '../../../contract/aging'
import { readAging } from '../../../server/services/aging/aging'
import { intents, postIntent } from '../post'
import { CUSTOMERS, customers, DOCUMENTS, documents, freshBooks, type Books } from '../database'

let books: Books
beforeAll(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
  await documents(books, DOCUMENTS)
})
afterAll(() => books.close())
const status = (work: Promise<unknown>) =>
  work.then(
    () => 'accepted',
    (e: { status?: number }) => e.status,
  )

test('the table of rights', () => {
  for (const ability of Object.keys(ABILITIES) as Ability[])
    expect(rolesThatCan(ability).length).toBeGreaterThan(0)
  for (const role of ROLES) expect(can(role, 'read')).toBe(true)
  for (const ability of Object.keys(ABILITIES).filter(a => !a.includes('read')) as Ability[])
    expect(can('auditor', ability)).toBe(false)
  expect(
    ['treasurer', 'sales'].some(
      r => can(r as 'sales', 'receipts.post') || can(r as 'sales', 'reminders.run'),
    ),
  ).toBe(false)
})

test('Today: overdue, change since month end, newly overdue, what to do, and its history', async () => {
  const today = await readToday(books.database, books.actor)
  expect(today.overdue).toBe(today.amounts.slice(1).reduce((a, b) => a + b, 0))
  expect(today).toMatchObject({ today: '2026-11-16', monthEnd: { date: '2026-10-31' } })
  expect(today.todo.find(t => t.kind === 'reminders')).toMatchObject({ count: 2, to: '/reminders' })
  const { points } = await readHistory(books.database, {})
  expect(points).toHaveLength(13)
  expect(points.at(-1)).toMatchObject({ date: '2026-11-16', amounts: today.amounts })
  expect(points.find(p => p.date === '2026-10-31')!.overdue).toBe(today.monthEnd.overdue)
  // Each point is the aging of its day; also after more was posted, some of it dated back, and for a part.
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      customer: 'K1',
      date: '2026-10-29',
      means: [{ means: 'transfer', amount: 50_000 }],
      allocations: [{ itemId: 1, amount: 50_000 }],
    }),
  )
  await documents(books, 'number,customer,date,amount\n26-9,K2,2026-07-15,812.00\n')
  await books.database.run(`UPDATE customer SET sales_id = 1 WHERE number = 'K2'`)
  for (const scope of [{}, { salesId: 1 }, {}])
    for (const point of (await readHistory(books.database, scope)).points) {
      const query = agingQuery.parse({ asOf: point.date, limit: 1 })
      const { totals } = await readAging(books.database, query, scope)
      expect([point.date, point.amounts]).toEqual([point.date, totals.amounts])
    }
})

test('Jump finds names, numbers, amounts and IBANs', async () => {
  const titles = async (q: string) => (await jump(books.database, q, books.actor)).items.map(i => i.title)
  expect(await titles('holl')).toEqual(['Hollin & Sedge'])
  expect(await titles('26-4')).toEqual(['26-4'])
  expect(await titles('1,210.40')).toEqual(['26-1 for 1210.40 EUR'])
  expect(await titles('IE29 AIBK')).toEqual(['Hollin & Sedge'])
  expect(await titles('%')).toEqual([])
})

test('settings are checked and audited; only a demo has a Clock', async () => {
  expect(await status(changeSettings(books.database, books.actor, { bounds: [30, 20] }))).toBe(422)
  expect(await status(changeSettings(books.database, books.actor, { closedUntil: '2026-11-16' }))).toBe(422)
  expect(await changeSettings(books.database, books.actor, { bounds: [15, 45] })).toMatchObject({
    buckets: [{ label: 'Not due' }, { label: '1–15' }, { label: '16–45' }, { label: '46+' }],
  })
  expect(
    (await books.database.select(`SELECT after_value AS v FROM audit WHERE about = 'bounds'`))[0],
  ).toEqual({ v: '[15,45]' })
  expect(await advanceClock(books.database, books.actor)).toEqual({ today: '2026-11-17', delivered: [] })
  await books.database.run(`DELETE FROM setting WHERE name = 'clock'`)
  expect(await status(advanceClock(books.database, books.actor))).toBe(409)
})
