import { perform } from '../../../server/ledger/command'
import { NotAllowed } from '../../../server/ledger/rights'
import type { Actor } from '../../../server/services/people/scope'
import { receiveCommand } from '../../../server/services/receipts/commands'
import { intents, postIntent, proofOf } from '../post'
import fc from 'fast-check'
import { openAsOf, type StateAllocation, type StateItem } from '../../../core/ledger'
import { int } from '../../../server/db/connection'
import { LedgerRefused } from '../../../server/ledger/command'
import { verifyLedger } from '../../../server/ledger/verify'
import { agingQuery } from '../../../contract/aging'
import { readAging } from '../../../server/services/aging/aging'
import { readReceipt } from '../../../server/services/receipts/receipts'
import { CUSTOMERS, customers, DOCUMENTS, documents, freshBooks, TODAY, type Books } from '../database'

let books: Books
beforeEach(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
  await documents(books, DOCUMENTS)
})
afterEach(() => books.close())

const itemId = async (number: string) =>
  int((await books.database.select('SELECT id FROM item WHERE number = :number', { number }))[0]!.id)
const openOf = async (number: string) =>
  int(
    (
      await books.database.select(
        `SELECT COALESCE((SELECT open FROM open_item o JOIN item i ON i.id = o.item_id
          WHERE i.number = :number), 0) AS open`,
        { number },
      )
    )[0]!.open,
  )
const receipt = async (over: object = {}) => ({
  customer: 'K1',
  date: TODAY,
  text: '',
  means: [{ means: 'cheque' as const, amount: 150_000, reference: '004417' }],
  allocations: [{ itemId: await itemId('26-1'), amount: 121_040 }],
  onAccount: 28_960,
  ...over,
})
const post = async (body: Awaited<ReturnType<typeof receipt>>, key?: string) =>
  postIntent(
    books.database,
    books.actor,
    await intents.receipt(books.database, body),
    key ? { key, request: body } : undefined,
  )
const refusal = async (work: Promise<unknown>) => {
  const error = await work.then(
    () => null,
    (e: unknown) => e,
  )
  expect(error).toBeInstanceOf(LedgerRefused)
  return (error as LedgerRefused).refusals.map(r => r.rule)
}
const clean = async () => expect(await verifyLedger(books.database)).toEqual([])

test('a receipt closes the invoice, the rest lies on account, and the books verify', async () => {
  const done = await post(await receipt())
  expect(done.receipt!.number).toBe('R-000001')
  expect([await openOf('26-1'), await openOf('R-000001')]).toEqual([0, -28_960])
  await clean()
})

test('unallocate and reverse bring everything back, with the history kept', async () => {
  const before = await readAging(books.database, agingQuery.parse({}), {})
  const done = await post(await receipt())
  await postIntent(
    books.database,
    books.actor,
    await intents.unallocate(books.database, {
      customer: 'K1',
      date: TODAY,
      allocationIds: done.allocations,
      reason: 'wrong invoice',
    }),
  )
  expect([await openOf('26-1'), await openOf('R-000001')]).toEqual([121_040, -150_000])
  await postIntent(
    books.database,
    books.actor,
    await intents.allocate(books.database, {
      customer: 'K1',
      date: TODAY,
      pairs: [{ debitItemId: await itemId('26-2'), creditItemId: done.receipt!.id, amount: 100_000 }],
    }),
  )
  await postIntent(
    books.database,
    books.actor,
    await intents.reverse(books.database, done.receipt!.id, { date: TODAY, reason: 'returned cheque' }),
  )
  expect((await readAging(books.database, agingQuery.parse({}), {})).totals).toEqual(before.totals)
  expect(
    await refusal(
      postIntent(
        books.database,
        books.actor,
        await intents.reverse(books.database, done.receipt!.id, { date: TODAY, reason: 'again' }),
      ),
    ),
  ).toContain('reverse.once')
  expect(int((await books.database.select('SELECT COUNT(*) AS n FROM allocation'))[0]!.n)).toBe(5)
  await clean()
})

test('a repeated idempotency key answers with the first result; for another request it is refused', async () => {
  const body = await receipt()
  const first = await post(body, 'key-1')
  expect(await post(body, 'key-1')).toEqual(first)
  expect(
    int((await books.database.select(`SELECT COUNT(*) AS n FROM item WHERE kind = 'receipt'`))[0]!.n),
  ).toBe(1)
  expect(await refusal(post({ ...body, text: 'other' }, 'key-1'))).toEqual(['idempotency.reused'])
})

test('the same key sent many times at once posts once', async () => {
  const body = await receipt()
  const all = await Promise.all(Array.from({ length: 8 }, () => post(body, 'at-once')))
  expect(new Set(all.map(a => a.receipt!.number))).toEqual(new Set(['R-000001']))
  await clean()
})

test('two people allocating the same receipt at once: one wins, the other is refused', async () => {
  const done = await post(await receipt({ allocations: [], onAccount: 150_000 }))
  const allocate = async (number: string) =>
    postIntent(
      books.database,
      books.actor,
      await intents.allocate(books.database, {
        customer: 'K1',
        date: TODAY,
        pairs: [{ debitItemId: await itemId(number), creditItemId: done.receipt!.id, amount: 121_040 }],
      }),
    )
  const results = await Promise.allSettled([allocate('26-1'), allocate('26-2')])
  expect(results.filter(r => r.status === 'fulfilled')).toHaveLength(1)
  const lost = results.find((r): r is PromiseRejectedResult => r.status === 'rejected')!
    .reason as LedgerRefused
  expect(lost.refusals[0]!.rule).toBe('allocation.open')
  expect(lost.message).toMatch(/only 28960 minor units of R-000001 are open/)
  await clean()
})

test('many clients at once: numbers without gaps, nothing lost', async () => {
  const ids = { K1: await itemId('26-2'), K2: await itemId('26-3') }
  await Promise.all(
    Array.from({ length: 40 }, async (_, n) => {
      const customer = n % 2 ? 'K1' : 'K2'
      return post(
        await receipt({
          customer,
          means: [{ means: 'transfer', amount: 1000 + n, reference: '' }],
          allocations: [{ itemId: ids[customer], amount: 900 }],
          onAccount: 100 + n,
        }),
      )
    }),
  )
  const numbers = (
    await books.database.select<{ number: string }>(
      `SELECT number FROM item WHERE kind = 'receipt' ORDER BY number`,
    )
  ).map(r => r.number)
  expect(numbers).toEqual(Array.from({ length: 40 }, (_, n) => `R-${String(n + 1).padStart(6, '0')}`))
  await clean()
})

test('items of another customer stay out of reach', async () => {
  expect(
    await refusal(
      post(
        await receipt({ allocations: [{ itemId: await itemId('26-3'), amount: 100 }], onAccount: 149_900 }),
      ),
    ),
  ).toEqual(['allocation.items'])
  await clean()
})

test('verify names each difference', async () => {
  await post(await receipt())
  await books.database.run(`UPDATE open_item SET open = open + 1 WHERE item_id = ${await itemId('26-2')}`)
  await books.database.run(`UPDATE account_day SET base_amount = base_amount - 5 WHERE account = '1210'`)
  await books.database.run('UPDATE account_total SET debit = debit + 7 LIMIT 1')
  expect((await verifyLedger(books.database)).map(d => d.what).sort()).toEqual([
    'account total',
    'movement of a day',
    'open item missing or wrong',
  ])
})

test('a database killed in the middle of a posting leaves nothing half done', async () => {
  const body = await receipt()
  const dying = perform(
    books.database,
    books.actor,
    {
      ...receiveCommand,
      after: async done => {
        const [own] = await done.db.select<{ id: number }>('SELECT CONNECTION_ID() AS id')
        await books.database.apart().run(`KILL ${own!.id}`)
        await new Promise(resolve => setTimeout(resolve, 50))
        return receiveCommand.after(done)
      },
    },
    body,
  )
  await expect(dying).rejects.toThrow()
  expect(
    int((await books.database.select(`SELECT COUNT(*) AS n FROM item WHERE kind = 'receipt'`))[0]!.n),
  ).toBe(0)
  await clean()
  expect((await post(body)).receipt!.number).toBe('R-000001')
})

describe('any sequence against the real database', () => {
  test("projections equal recomputation, and the aging of a past date equals the core's and never changes", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(
          fc.record({
            what: fc.nat(3),
            a: fc.nat(30),
            b: fc.nat(30),
            amount: fc.integer({ min: 1, max: 90_000 }),
          }),
          { minLength: 8, maxLength: 14 },
        ),
        async steps => {
          const days = ['2026-11-02', '2026-11-06', '2026-11-10', '2026-11-16']
          const seen = new Map<string, number>()
          for (const [n, s] of steps.entries()) {
            const date = days[Math.min(days.length - 1, Math.floor(n / 4))]!
            await step(s, date).catch((error: unknown) => {
              if (!(error instanceof LedgerRefused)) throw error
            })
            if (n % 4 === 3 && date !== TODAY)
              seen.set(
                date,
                (await readAging(books.database, agingQuery.parse({ asOf: date }), {})).totals.total,
              )
          }
          await clean()
          const { items, allocations } = await whole()
          for (const [date, total] of seen) {
            const aging = await readAging(
              books.database,
              agingQuery.parse({ asOf: date, currency: 'EUR' }),
              {},
            )
            expect(aging.totals.total).toBe(
              items
                .filter(i => i.currency === 'EUR')
                .reduce((a, i) => a + (i.side === 'debit' ? 1 : -1) * openAsOf(i, allocations, date), 0),
            )
            const again = await readAging(books.database, agingQuery.parse({ asOf: date }), {})
            expect([again.totals.total, again.control!.ties]).toEqual([total, true])
          }
        },
      ),
      { numRuns: 6, endOnFailure: true },
    )
  }, 120_000)

  async function whole() {
    const items = await books.database.select<StateItem>(
      'SELECT id, currency, side, amount, posting_date AS postingDate FROM item',
    )
    const allocations = await books.database.select<StateAllocation>(
      `SELECT debit_item_id AS debitItemId, credit_item_id AS creditItemId, amount, effective FROM
        allocation`,
    )
    return { items, allocations }
  }

  async function step(
    s: { what: number; a: number; b: number; amount: number },
    date: string,
  ): Promise<unknown> {
    const rows = async (sql: string) => books.database.select<{ id: number; open: number }>(sql)
    const pick = <T>(list: T[], n: number) => list[n % Math.max(1, list.length)]
    const debits = await rows(
      `SELECT o.item_id AS id, o.open FROM open_item o WHERE customer_id = 1 AND open > 0`,
    )
    const credits = await rows(
      `SELECT o.item_id AS id, -o.open AS open FROM open_item o WHERE customer_id = 1 AND open < 0`,
    )
    const d = pick(debits, s.a)
    const c = pick(credits, s.b)
    if (s.what === 0) {
      const part = d ? Math.min(d.open, s.amount) : 0
      return post(
        await receipt({
          date,
          means: [{ means: 'transfer', amount: s.amount, reference: '' }],
          allocations: d ? [{ itemId: d.id, amount: part }] : [],
          onAccount: s.amount - part,
        }),
      )
    }
    if (s.what === 1 && d && c)
      return postIntent(
        books.database,
        books.actor,
        await intents.allocate(books.database, {
          customer: 'K1',
          date,
          pairs: [{ debitItemId: d.id, creditItemId: c.id, amount: Math.min(d.open, int(c.open)) }],
        }),
      )
    const links = await rows('SELECT id, 0 AS open FROM allocation ORDER BY id')
    if (s.what === 2 && links.length)
      return postIntent(
        books.database,
        books.actor,
        await intents.unallocate(books.database, {
          customer: 'K1',
          date,
          allocationIds: [pick(links, s.a)!.id],
          reason: '',
        }),
      )
    const receipts = await rows(`SELECT id, 0 AS open FROM item WHERE kind = 'receipt' AND customer_id = 1`)
    return receipts.length
      ? postIntent(
          books.database,
          books.actor,
          await intents.reverse(books.database, pick(receipts, s.b)!.id, { date, reason: 'x' }),
        )
      : undefined
  }
})

describe('discounts and small differences', () => {
  test('are posted, shown and taken back with their payment', async () => {
    await documents(books, 'number,customer,date,amount,tax\nD-1,K1,2026-11-10,1190.00,190.00\n')
    const id = await itemId('D-1')
    const body = await receipt({
      means: [{ means: 'transfer', amount: 116_600, reference: '' }],
      allocations: [{ itemId: id, amount: 116_600, discount: 2380, difference: 20 }],
      onAccount: 0,
    })
    const proof = await proofOf(books.database, await intents.receipt(books.database, body))
    expect(proof.lines.map(l => [l.account, l.amount])).toEqual([
      ['1220', 116_600],
      ['1100', -119_000],
      ['4700', 2000],
      ['2200', 380],
      ['6800', 20],
    ])
    const done = await post(body)
    expect(await openOf('D-1')).toBe(0)
    await clean()
    const detail = await readReceipt(books.database, done.receipt!.id)
    expect(detail.links.map(l => [l.creditKind, l.amount])).toEqual([
      ['receipt', 116_600],
      ['discount', 2380],
      ['difference', 20],
    ])
    await postIntent(
      books.database,
      books.actor,
      await intents.reverse(books.database, done.receipt!.id, { date: TODAY, reason: 'returned' }),
    )
    expect([await openOf('D-1'), await openOf('A-000001'), await openOf('A-000002')]).toEqual([119_000, 0, 0])
    expect(
      int(
        (
          await books.database.select(
            `SELECT SUM(base_amount) AS n FROM journal_line WHERE account IN ('4700', '6800', '1220')`,
          )
        )[0]!.n,
      ),
    ).toBe(0)
    await clean()
  })
  test('a late discount needs authority', async () => {
    const late = await receipt({
      means: [{ means: 'transfer', amount: 893_760, reference: '' }],
      allocations: [{ itemId: await itemId('26-2'), amount: 893_760, discount: 18_240 }],
      onAccount: 0,
    })
    expect(await refusal(post(late))).toEqual(['discount.earned'])
    const granted = await intents.receipt(books.database, { ...late, lateDiscount: true })
    const cash: Actor = { ...books.actor, role: 'cash' }
    await expect(postIntent(books.database, cash, granted)).rejects.toThrow(NotAllowed)
    await postIntent(books.database, books.actor, granted)
    expect(await openOf('26-2')).toBe(0)
    await clean()
  })
})
