import { forecastQuery, plannedBody, whatIf } from '../../../contract/forecast'
import { addDays } from '../../../core/calendar'
import { writeSetting } from '../../../server/db/settings'
import { imageHere, keepImage } from '../../../server/image'
import { facilityBody } from '../../../contract/factoring'
import { keepFacility } from '../../../server/services/factoring/facilities'
import { addBankAccount } from '../../../server/services/banking/accounts'
import { ProblemError } from '../../../server/services/common/problems'
import {
  exportForecast,
  forecastIf,
  readCustomerForecast,
  readForecast,
  readPart,
} from '../../../server/services/forecast/forecast'
import { readSelfTest } from '../../../server/services/forecast/tested'
import {
  changePlanned,
  endPlanned,
  importPlanned,
  listPlanned,
  planPayments,
} from '../../../server/services/forecast/planned'
import { customers, documents, freshBooks, TODAY, type Books } from '../database'
import { intents, postIntent } from '../post'

/*
 * A small house: A pays ten days late, B on the day, C has never paid; one item of each is open today.
 */

let books: Books
const at = (days: number) => addDays(TODAY, days)
beforeAll(async () => {
  books = await freshBooks()
  keepImage(books.database, imageHere(books.database))
  await writeSetting(books.database, 1, 'clock', TODAY)
  await addBankAccount(books.database, 1, {
    ...{ name: 'Current', iban: 'IE64IRCE92050112345678', currency: 'EUR', account: '1200', csvMap: null },
  })
  await customers(
    books,
    'number,name,class,country,language,currency,terms,credit_limit\n' +
      ['A', 'B', 'C'].map(c => `${c},Customer ${c},food,IE,en,EUR,net 30,`).join('\n') +
      '\n',
  )
  const rows = ['number,kind,customer,date,due_date,currency,amount,tax']
  for (let n = 0; n < 20; n++)
    for (const c of ['A', 'B'])
      rows.push(`${c}-${n},invoice,${c},${at(-330 + 13 * n)},${at(-300 + 13 * n)},EUR,1000.00,0`)
  for (const c of ['A', 'B', 'C']) rows.push(`${c}-open,invoice,${c},${at(-20)},${at(3)},EUR,5000.00,0`)
  await documents(books, `${rows.join('\n')}\n`)
  for (let n = 0; n < 20; n++)
    for (const [c, late] of [
      ['A', 10],
      ['B', 0],
    ] as const) {
      const [item] = await books.database.select<{ id: number }>(
        'SELECT id FROM item WHERE number = :number',
        { number: `${c}-${n}` },
      )
      await postIntent(
        books.database,
        books.actor,
        await intents.receipt(books.database, {
          ...{ customer: c, currency: 'EUR', date: at(-300 + 13 * n + late) },
          allocations: [{ itemId: item!.id, amount: 100_000 }],
          means: [{ means: 'transfer', amount: 100_000, reference: `${c} ${n}` }],
        }),
      )
    }
}, 120_000)
afterAll(() => books.close())

const query = (over: object = {}) => forecastQuery.parse({ sources: 'items', ...over })
const read = (over: object = {}) => readForecast(books.database, query(over))
const total = (weeks: readonly { mean: number }[]) => weeks.reduce((sum, w) => sum + w.mean, 0)
const plan = (over: object = {}) =>
  plannedBody.parse({ name: 'Wages', kind: 'wages', currency: 'EUR', amount: 200_000, from: at(2), ...over })
const problem = (work: Promise<unknown>) =>
  work.then(
    () => 'done',
    (error: unknown) => (error instanceof ProblemError ? `${error.status}: ${error.message}` : String(error)),
  )

test('each customer pays by its habit: who is ten days late comes ten days later', async () => {
  const f = await read({ weeks: 8 })
  expect(f).toMatchObject({ asOf: TODAY, currency: 'EUR', seed: 'bilancio' })
  expect(f.weeks).toHaveLength(8)
  expect(f.weeks[0]).toMatchObject({ from: at(1), to: at(7) })
  const of = (number: string) => f.customers.find(c => c.number === number)!
  expect(of('A').why).toMatch(/usually (9|10|11) days late/)
  expect(of('B').why).toMatch(/usually on the due day/)
  expect(of('C').why).toMatch(/paid little yet/)
  // Due in three days: B pays this week, A in the week after.
  expect(of('B').weeks[0]).toBeGreaterThan(400_000)
  expect(of('A').weeks[0]).toBeLessThan(50_000)
  // Day 13 is near the end of the second week: some of it falls into the third.
  expect(of('A').weeks[1]! + of('A').weeks[2]!).toBeGreaterThan(450_000)
  expect(await read({ weeks: 8 })).toEqual(f)
})

test('a week opens down to its items, and they make its figure', async () => {
  const part = await readPart(books.database, { ...query({ weeks: 8 }), week: 2, source: 'items' })
  expect(part.items[0]).toMatchObject({ number: 'A-open', open: 500_000 })
  expect(part.expected).toBe(part.items.reduce((sum, i) => sum + i.expected, 0))
  const { items } = await readCustomerForecast(books.database, 'A', query({ weeks: 8 }))
  expect(items).toHaveLength(1)
  expect(items[0]!.p50! >= at(11) && items[0]!.p50! <= at(16)).toBe(true)
})

test('a past day knows what was known then', async () => {
  const then = await read({ asOf: at(-150), weeks: 4 })
  expect(then.asOf).toBe(at(-150))
  // Nothing of the items that are open today was written then.
  expect(then.customers.map(c => c.number).sort()).toEqual(['A', 'B'])
  expect(await problem(read({ asOf: at(1) }))).toMatch(/^422: .* is after today/)
})

test('what lies on account does not come again', async () => {
  const before = await read({ weeks: 8 })
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      ...{ customer: 'B', currency: 'EUR', date: TODAY, onAccount: 300_000 },
      means: [{ means: 'transfer', amount: 300_000, reference: 'early' }],
    }),
  )
  const after = await read({ weeks: 8 })
  expect(after.customers.find(c => c.number === 'B')!.open).toBe(200_000)
  const expected = (f: typeof after) => f.customers.reduce((sum, c) => sum + c.expected, 0)
  expect(expected(before) - expected(after)).toBeGreaterThan(280_000)
})

test('planned payments: by rule, changed, taken out, and by file; each with its faults', async () => {
  const [id] = await planPayments(books.database, books.actor, [plan({ every: 'week' })])
  const out = await readForecast(books.database, forecastQuery.parse({ sources: 'planned', weeks: 4 }))
  expect(out.weeks.map(w => w.p50)).toEqual([-200_000, -200_000, -200_000, -200_000])
  const part = await readPart(books.database, { ...query({ weeks: 4 }), week: 1, source: 'planned' })
  expect(part.planned).toEqual([{ name: 'Wages', date: at(2), amount: -200_000, currency: 'EUR', chance: 1 }])
  await changePlanned(books.database, books.actor, id!, plan({ every: 'once' }))
  const stale = changePlanned(books.database, books.actor, id!, plan())
  expect(await problem(stale)).toMatch(/^409: Wages was planned anew/)
  // What was planned today was not known yesterday.
  const before = forecastQuery.parse({ sources: 'planned', weeks: 4, asOf: at(-1) })
  expect(total((await readForecast(books.database, before)).weeks)).toBe(0)
  expect(await problem(planPayments(books.database, books.actor, [plan({ from: at(-1) })]))).toMatch(
    /^422: .* is over/,
  )
  const csv = (rows: string) => importPlanned(books.database, books.actor, `name,date,amount\n${rows}\n`)
  expect(await csv(`Rent,${at(5)},100.00\nTax,${at(6)},"200.50"`)).toEqual({ added: 2 })
  expect(await problem(csv(`Rent,${at(5)},100.00\nTax,soon,1`))).toMatch(/^422: line 3/)
  expect(await problem(importPlanned(books.database, books.actor, 'a,b\n1,2\n'))).toMatch(/no column name/)
  const listed = await listPlanned(books.database)
  expect(listed.map(p => [p.name, p.amount])).toEqual([
    ['Wages', 200_000],
    ['Rent', 10_000],
    ['Tax', 20_050],
  ])
  for (const p of listed) await endPlanned(books.database, books.actor, p.id)
  expect(await listPlanned(books.database)).toEqual([])
})

test('the floor: told with the day and the chance, and what if a customer paid later', async () => {
  const start = (await read()).start!
  await writeSetting(books.database, 1, 'forecastPolicy', { floor: start, alert: 20 })
  const [id] = await planPayments(books.database, books.actor, [plan({ amount: 300_000, from: at(9) })])
  const ask = forecastQuery.parse({ sources: 'items,planned', weeks: 8 })
  const f = await readForecast(books.database, ask)
  expect(f.balance).toHaveLength(56)
  // B alone has paid its 2,000.00 before 3,000.00 go out.
  expect(f.crossing).toMatchObject({ date: at(9) })
  expect(f.crossing!.chance).toBeGreaterThan(0.2)
  const held = whatIf.parse({ payments: [{ id, days: 20 }] })
  const later = await forecastIf(books.database, ask, held)
  expect(later.balance.at(-1)!.below).toBeLessThan(f.balance.at(-1)!.below)
  const never = whatIf.parse({ customers: [{ customer: 'A', never: true }] })
  const without = await forecastIf(books.database, ask, never)
  expect(total(f.weeks) - total(without.weeks)).toBeGreaterThanOrEqual(300_000)
  const unknown = whatIf.parse({ customers: [{ customer: 'Z9', days: 1 }] })
  expect(await problem(forecastIf(books.database, ask, unknown))).toMatch(/no customer Z9/)
  const notThere = whatIf.parse({ payments: [{ id: 999, days: 1 }] })
  expect(await problem(forecastIf(books.database, ask, notThere))).toMatch(/payment 999 is not planned/)
  const odd = whatIf.parse({ rates: [{ currency: 'CHF', perCent: 5 }] })
  expect(await problem(forecastIf(books.database, ask, odd))).toMatch(/open or planned in CHF/)
  await endPlanned(books.database, books.actor, id!)
})

test('what if an invoice is given to a factor: its advance comes in two days, the debtor pays the factor', async () => {
  await keepFacility(
    books.database,
    books.actor,
    'TERN',
    facilityBody.parse({
      ...{ name: 'Tern Finance', recourse: true, disclosed: false, currencies: ['EUR'] },
      ...{ advanceRate: 8000, commissionRate: 100, taxRate: 2000, interestRate: 600, eligible: {} },
      accounts: { current: '1310', commission: '6911', interest: '6931', tax: '2210' },
    }),
  )
  const [item] = await books.database.select<{ id: number }>("SELECT id FROM item WHERE number = 'A-open'")
  const ask = forecastQuery.parse({ sources: 'items,factor', weeks: 4 })
  const sell = { facility: 'TERN', itemIds: [item!.id] }
  const sold = await forecastIf(books.database, ask, whatIf.parse({ sell }))
  const factor = sold.bySource.find(s => s.source === 'factor')!.weeks
  // 5,000.00: 80 % at once; the rest less 50.00 of commission and its tax is nearly sure when it is due.
  expect(factor.map(w => w.p50)).toEqual([400_000 + 94_000, 0, 0, 0])
  expect(sold.customers.map(c => c.number)).not.toContain('A')
  const nobody = whatIf.parse({ sell: { ...sell, facility: 'NONE' } })
  expect(await problem(forecastIf(books.database, ask, nobody))).toMatch(/^422: there is no factor NONE/)
})

test('a currency without a rate is left out and named; one alone is told in its own', async () => {
  await customers(
    books,
    'number,name,class,country,language,currency,terms,credit_limit\nN,Norsk,fish,NO,en,NOK,net 30,\n',
  )
  await books.database.run(`UPDATE rate SET rate = 0.1 WHERE currency = 'NOK'`)
  await documents(
    books,
    `number,kind,customer,date,due_date,currency,amount,tax\nN-1,invoice,N,${at(-20)},${at(-2)},NOK,5000.00,0\n`,
  )
  const alone = await read({ currency: 'NOK' })
  expect(alone.customers).toMatchObject([{ number: 'N', open: 500_000 }])
  expect((await read()).customers.find(c => c.number === 'N')!.open).toBe(50_000)
  await books.database.run('DELETE FROM rate')
  expect((await read()).learnt.withoutRate).toEqual(['NOK'])
  expect(await problem(read({ currency: 'JPY' }))).toMatch(/nothing is open or planned in JPY/)
})

test('past month ends beside what came, and the file', async () => {
  const { weeks, summary } = await readSelfTest(books.database, { months: 3, weeks: 8 })
  expect(new Set(weeks.map(w => w.asOf)).size).toBe(3)
  expect(summary.at(-1)!.week).toBe(0)
  // Habits as steady as these are found: better than that all pay on the day.
  expect(summary.at(-1)!.error).toBeLessThan(summary.at(-1)!.plain.due)
  const csv = await exportForecast(books.database, { ...query({ weeks: 4 }), format: 'csv' })
  expect(csv.bytes.toString()).toMatch(/Open items/)
})
