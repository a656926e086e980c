import { forecastQuery, plannedBody, whatIf } from '../../../contract/forecast'
import { addDays, dayNumber } from '../../../core/calendar'
import { writeSetting } from '../../../server/db/settings'
import { askForecaster, forecasterInThread, keepForecaster, Stopped } from '../../../server/forecaster'
import { imageHere, keepImage } from '../../../server/image'
import { setHold } from '../../../server/services/exposure/holds'
import { takeOrders } from '../../../server/services/exposure/orders'
import { addBankAccount } from '../../../server/services/banking/accounts'
import { ProblemError } from '../../../server/services/common/problems'
import { readCustomerForecast, readForecast, readPart } from '../../../server/services/forecast/forecast'
import { gather, NOW } from '../../../server/services/forecast/gather'
import { importPlanned, planPayments } from '../../../server/services/forecast/planned'
import { progressOf } from '../../../server/services/forecast/runs'
import { forecastSheet, shareForecast } from '../../../server/services/forecast/sheet'
import {
  forecastKeeper,
  keepRecord,
  listRecords,
  readBridge,
  weekStart,
} from '../../../server/services/forecast/tested'
import { compareWhatIfs, endWhatIf, keepWhatIf, listWhatIfs } from '../../../server/services/forecast/whatIfs'
import { MailRefused, type Mail } from '../../../server/ports/mail'
import { customers, documents, freshBooks, TODAY, type Books } from '../database'
import { textOfPdf } from '../pdf'
import { intents, postIntent } from '../post'

/* A house of two: A is prompt, B is 15 days late; both order, and something is open of both. */

let books: Books
const at = (days: number) => addDays(TODAY, days)
const problem = (work: Promise<unknown>) =>
  work.then(
    () => 'done',
    (error: unknown) => (error instanceof ProblemError ? `${error.status}: ${error.message}` : String(error)),
  )
const ask = (over: object = {}) => forecastQuery.parse(over)
const mean = (weeks: readonly { mean: number }[]) => weeks.reduce((sum, w) => sum + w.mean, 0)

async function pay(number: string, customer: string, date: string, amount = 100_000): Promise<void> {
  const [item] = await books.database.select<{ id: number }>('SELECT id FROM item WHERE number = :number', {
    number,
  })
  await postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, {
      ...{ customer, currency: 'EUR', date },
      allocations: [{ itemId: item!.id, amount }],
      means: [{ means: 'transfer', amount, reference: number }],
    }),
  )
}

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
      'A,Alder & Sons,food,IE,en,EUR,net 30,\nB,Beech Mills,food,IE,en,EUR,net 30,\n',
  )
  const rows = ['number,kind,customer,date,due_date,currency,amount,tax,order']
  for (let n = 0; n < 15; n++)
    for (const c of ['A', 'B'])
      rows.push(`${c}-${n},invoice,${c},${at(-330 + 14 * n)},${at(-300 + 14 * n)},EUR,1000.00,0,O-${c}${n}`)
  for (const c of ['A', 'B']) rows.push(`${c}-open,invoice,${c},${at(-50)},${at(-20)},EUR,5000.00,0,`)
  await documents(books, `${rows.join('\n')}\n`)
  for (let n = 0; n < 15; n++) {
    await pay(`A-${n}`, 'A', at(-300 + 14 * n))
    await pay(`B-${n}`, 'B', at(-300 + 14 * n + 15))
  }
}, 120_000)
afterAll(() => books.close())

test('orders come once they are invoiced, as long after as before; what is delivered sooner', async () => {
  const order = { currency: 'EUR', amount: 600_000, delivered: 0, invoiced: 0, state: 'open' as const }
  await takeOrders(books.database, books.actor, [
    ...Array.from({ length: 15 }, (_, n) => ({
      ...{ ...order, number: `O-A${n}`, customer: 'A', date: at(-340 + 14 * n), state: 'closed' as const },
      ...{ delivered: 600_000, invoiced: 600_000 },
    })),
    { ...order, number: 'O-new', customer: 'A', date: at(-1) },
    { ...order, number: 'O-done', customer: 'B', date: at(-9), delivered: 600_000, invoiced: 100_000 },
    { ...order, number: 'O-gone', customer: 'B', date: at(-9), state: 'cancelled' },
  ])
  const f = await readForecast(books.database, ask({ sources: 'orders', weeks: 13 }))
  // 6,000.00 of one and 5,000.00 of the other, within the weeks nearly all of it.
  expect(mean(f.weeks)).toBeGreaterThan(950_000)
  expect(mean(f.weeks)).toBeLessThanOrEqual(1_100_000)
  // Ten days until the invoice, or a few; thirty of terms; then as each pays: not before the fifth week.
  expect(mean(f.weeks.slice(0, 4))).toBeLessThan(20_000)
  expect(mean(f.weeks.slice(4, 10))).toBeGreaterThan(850_000)
  const week = f.weeks.findIndex(w => w.mean > 100_000) + 1
  const part = await readPart(books.database, { ...ask({ weeks: 13 }), week, source: 'orders' })
  expect(part.items.map(i => i.number)).toContain('O-new')
  expect(part.items.every(i => i.itemId === 0 && i.source === 'orders')).toBe(true)
  // If A did not pay, the same week would be made of others.
  const never = whatIf.parse({ customers: [{ customer: 'A', never: true }] })
  const without = await readPart(books.database, { ...ask({ weeks: 13 }), week, source: 'orders' }, never)
  expect(without.items.filter(i => i.customer.number === 'A' && i.expected > 0)).toEqual([])
  // Days make weeks.
  const daily = await readForecast(books.database, ask({ sources: 'orders', weeks: 13, by: 'day' }))
  expect(daily.days).toHaveLength(91)
  expect(Math.abs(mean(daily.days) - mean(f.weeks))).toBeLessThan(60)
})

test('a transfer leaves one currency and arrives in another', async () => {
  await books.database.run(`UPDATE rate SET rate = 0.1 WHERE currency = 'NOK'`)
  const body = { name: 'To Bergen', kind: 'transfer', currency: 'EUR', amount: 100_000, from: at(3) }
  const into = { currency: 'NOK', amount: 1_000_000 }
  const plan = (over: object) =>
    planPayments(books.database, books.actor, [plannedBody.parse({ ...body, ...over })])
  expect(await problem(plan({}))).toMatch(/a transfer arrives somewhere/)
  expect(await problem(plan({ into: { ...into, currency: 'EUR' } }))).toMatch(/within one currency/)
  expect(await problem(plan({ into, kind: 'rent' }))).toMatch(/only a transfer/)
  await plan({ into })
  const of = (currency: string) =>
    readForecast(books.database, ask({ sources: 'transfers', weeks: 4, currency })).then(f => mean(f.weeks))
  expect([await of('EUR'), await of('NOK')]).toEqual([-100_000, 1_000_000])
  // Worth the same in base today; its rate wanders until then.
  const all = await readForecast(books.database, ask({ sources: 'transfers', weeks: 4 }))
  expect(Math.abs(mean(all.weeks))).toBeLessThan(2_000)
})

test('what-ifs are kept by name, held side by side, and ended; two of one name are refused', async () => {
  const reminded = whatIf.parse({ campaign: true })
  expect(await problem(keepWhatIf(books.database, books.actor, { name: 'None', whatIf: NOW }))).toMatch(
    /^422: this is the forecast as it is/,
  )
  const { id } = await keepWhatIf(books.database, books.actor, { name: 'Remind', whatIf: reminded })
  const again = keepWhatIf(books.database, books.actor, { name: 'remind', whatIf: reminded })
  expect(await problem(again)).toMatch(/^409: a what-if named remind is kept already/)
  const [payment] = await books.database.select<{ id: number }>('SELECT id FROM planned_payment')
  const held = whatIf.parse({
    payments: [{ id: payment!.id, days: 9 }],
    customers: [{ customer: 'B', never: true }],
  })
  await keepWhatIf(books.database, books.actor, { name: 'Worst', whatIf: held })
  await setHold(books.database, books.actor, { customer: 'A', reason: 'Asked for' }, {})
  await keepWhatIf(books.database, books.actor, {
    name: 'Ship none',
    whatIf: whatIf.parse({ stopHeld: true }),
  })
  const { items } = await compareWhatIfs(books.database, ask({ weeks: 8 }))
  expect(items.map(i => i.name)).toEqual(['As it is', 'Remind', 'Worst', 'Ship none'])
  expect(items[2]!.words).toEqual(['Beech Mills does not pay', 'To Bergen is held for 9 days'])
  const [base, remind, worst, none] = items.map(i => i.net[1]!)
  expect(remind!).toBeGreaterThanOrEqual(base!)
  expect(worst!).toBeLessThan(base! - 400_000)
  expect(none!).toBeLessThan(base!)
  // A payment that is planned no more: it says so, the others are tried all the same.
  await books.database.run('UPDATE planned_payment SET ended_on = :today', { today: TODAY })
  const later = await compareWhatIfs(books.database, ask({ weeks: 8 }))
  expect(later.items[2]).toMatchObject({
    trouble: expect.stringMatching(/is not planned/) as string,
    net: [],
  })
  expect(later.items[3]!.net).toHaveLength(2)
  await endWhatIf(books.database, books.actor, id)
  expect(await problem(endWhatIf(books.database, books.actor, id))).toMatch(/^404/)
  expect((await listWhatIfs(books.database)).items.map(i => i.name)).toEqual(['Worst', 'Ship none'])
})

test('each week is kept once, as it was told; the bridge leads from it to what came', async () => {
  const then = at(-28)
  await keepRecord(books.database, then)
  const told = await listRecords(books.database)
  expect(told.items.map(r => r.asOf)).toEqual([then])
  // Two weeks before today A pays 3,000.00 of what was open, and 500.00 of B are credited.
  await pay('A-open', 'A', at(-14), 300_000)
  await documents(
    books,
    `number,kind,customer,date,due_date,currency,amount,tax\nA-late,invoice,A,${at(-20)},${at(-10)},EUR,70.00,0\n`,
  )
  await pay('A-late', 'A', at(-9), 7_000)
  const b = await readBridge(books.database, { asOf: then, weeks: 4 })
  expect(b).toMatchObject({ asOf: then, until: TODAY, ofOpen: 300_000, ofNew: 7_000, came: 307_000 })
  expect(b.expected - b.late - b.lost + b.early).toBe(b.ofOpen)
  expect(b.foreseenNew).not.toBeNull()
  expect(b.weeks.map(w => w.ofOpen)).toEqual([0, 300_000, 0, 0])
  expect(b.customers.map(c => c.number)).toContain('B')
  // What is kept stays as it was told, though more is known of that day now.
  await keepRecord(books.database, then)
  expect((await listRecords(books.database)).items).toEqual(told.items)
  expect(await problem(readBridge(books.database, { asOf: TODAY, weeks: 4 }))).toMatch(/nothing has come yet/)
  // The keeper keeps today's, once, whatever day of the week it is.
  const keep = forecastKeeper(books.database)
  await Promise.all([keep(), forecastKeeper(books.database)()])
  await keep()
  expect((await listRecords(books.database)).items.map(r => r.asOf)).toEqual([TODAY, then])
  expect(['2026-11-16', '2026-11-19', '2026-11-22'].map(weekStart)).toEqual(Array(3).fill('2026-11-16'))
})

test('a customer is told item by item: what is past its habit, and by how many days', async () => {
  const told = await readCustomerForecast(books.database, 'A', ask())
  // A pays on the day; what was due twenty days ago is that far past it.
  expect(told.why).toMatch(/^usually on the due day, .*; A-open is (19|20|21) days past that$/)
  expect(told.items.find(i => i.number === 'A-open')!.past).toBeGreaterThan(18)
  expect(told.items.filter(i => i.source === 'orders').every(i => i.past === 0)).toBe(true)
})

test('ten thousand planned payments are taken in, told, and taken out again', async () => {
  const rows = Array.from({ length: 10_000 }, (_, n) => `Supplier ${n},${at(1 + (n % 80))},1.25`)
  const { added } = await importPlanned(books.database, books.actor, `name,date,amount\n${rows.join('\n')}\n`)
  expect(added).toBe(10_000)
  const f = await readForecast(books.database, ask({ sources: 'planned', weeks: 13 }))
  expect(mean(f.weeks)).toBe(-1_250_000)
  const part = await readPart(books.database, { ...ask({ weeks: 13 }), day: 3, source: 'planned' })
  expect(part.planned).toHaveLength(125)
  await books.database.run('UPDATE planned_payment SET ended_on = :today', { today: TODAY })
  const after = await readForecast(books.database, ask({ sources: 'planned', weeks: 13 }))
  expect(mean(after.weeks)).toBe(0)
})

test('one page for the meeting, and sent: to each once, and whoever got it is named when one fails', async () => {
  const { pdf } = await forecastSheet(books.database, ask())
  const text = textOfPdf(pdf)
  expect(text).toContain('Cash forecast')
  expect(text).toContain('Open items')
  expect(text).toMatch(/at the bank on/)
  const pages = (file: Buffer): number => file.toString('latin1').match(/\/Type \/Page\b(?!s)/g)!.length
  const twenty = await forecastSheet(books.database, ask({ weeks: 26 }))
  expect([pages(pdf), pages(twenty.pdf)]).toEqual([1, 1])
  expect(textOfPdf(twenty.pdf)).toContain('On average')
  const sent: Mail[] = []
  const mail = {
    send: async (m: Mail) => {
      if (m.to.startsWith('away')) throw new Error('450 mailbox busy')
      if (m.to.startsWith('nobody')) throw new MailRefused('550 no such mailbox')
      sent.push(m)
      return '250 taken'
    },
  }
  const share = (to: string[], port: typeof mail | null = mail) =>
    shareForecast(books.database, port, books.actor, { to, note: 'For Monday', query: ask() })
  expect(await share(['cfo@kelp.example', 'CFO@kelp.example'])).toEqual({ sent: ['cfo@kelp.example'] })
  expect(sent[0]).toMatchObject({ to: 'cfo@kelp.example', attachments: [{ contentType: 'application/pdf' }] })
  expect(sent[0]!.text).toMatch(/^For Monday\n\n/)
  expect(await problem(share(['cfo@kelp.example', 'away@kelp.example']))).toMatch(
    /^503: away@kelp.example: 450 mailbox busy; cfo@kelp.example have it/,
  )
  expect(await problem(share(['nobody@kelp.example']))).toMatch(/^422: nobody@kelp.example: 550/)
  expect(await problem(share(['cfo@kelp.example'], null))).toMatch(/^409: no mail server is set up/)
})

test('in a thread of its own the figures are the same; from the tables too; who is gone stops it', async () => {
  const here = await readForecast(books.database, ask())
  const thread = forecasterInThread()
  keepForecaster(books.database, thread)
  try {
    const shares: number[] = []
    const { ask: asked } = await gather(books.database, ask(), NOW)
    const on = { asOf: dayNumber(TODAY) }
    const run = { tell: (share: number) => shares.push(share) }
    await askForecaster(books.database, on, 'forecast', asked, run)
    expect(await readForecast(books.database, ask({ run: 'mine' }))).toEqual(here)
    expect(progressOf('mine')).toEqual({ share: null })
    const gone = AbortSignal.abort()
    const stopped = askForecaster(
      books.database,
      on,
      'forecast',
      { ...asked, seed: 'other' },
      { signal: gone },
    )
    await expect(stopped).rejects.toBeInstanceOf(Stopped)
    expect(await problem(readForecast(books.database, ask({ seed: 'x' }), gone))).toMatch(
      /^409: nobody waited/,
    )
    // A ledger that does not fit into memory is read bit by bit: the same to the last cent.
    keepImage(books.database, null)
    await writeSetting(books.database, 1, 'customers', 99)
    expect(await readForecast(books.database, ask())).toEqual(here)
  } finally {
    await thread.close()
  }
}, 60_000)
