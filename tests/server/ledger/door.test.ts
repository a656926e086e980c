import fc from 'fast-check'
import { openDatabase, type Isolation } from '../../../server/db/connection'
import { grantApplication } from '../../../server/db/grants'
import { LedgerRefused, perform } from '../../../server/ledger/command'
import { verifyLedger } from '../../../server/ledger/verify'
import { keepWaiting, sign, turnDown, type Signer } from '../../../server/ledger/waiting'
import { agingQuery } from '../../../contract/aging'
import { readAging } from '../../../server/services/aging/aging'
import { readAgingItems } from '../../../server/services/aging/items'
import { addBankAccount } from '../../../server/services/banking/accounts'
import { acceptLineCommand } from '../../../server/services/banking/accept'
import { takeToBank } from '../../../server/services/banking/paying'
import { takeStatement } from '../../../server/services/banking/statements'
import { commandNamed } from '../../../server/services/commands'
import {
  allocateCommand,
  receiveCommand,
  reverseCommand,
  unallocateCommand,
} from '../../../server/services/receipts/commands'
import { putRightCommand } from '../../../server/services/receipts/putRight'
import { sundryCommand } from '../../../server/services/receipts/sundry'
import { changeSettings } from '../../../server/services/setup/settings'
import { writeCamt } from '../../../formats/statements'
import { CUSTOMERS, customers, DOCUMENTS, documents, freshBooks, TODAY, type Books } from '../database'

let books: Books
const clean = async () => expect(await verifyLedger(books.database)).toEqual([])
const rules = (error: unknown) =>
  error instanceof LedgerRefused ? error.refusals.map(r => r.rule) : [String(error)]
const refusal = (work: Promise<unknown>) => work.then(() => ['nothing was refused'], rules)
const idOf = async (number: string) =>
  (await books.database.select<{ id: number }>('SELECT id FROM item WHERE number = :number', { number }))[0]!
    .id
const receive = (over: object = {}) =>
  perform(books.database, books.actor, receiveCommand, {
    customer: 'K1',
    date: '2026-11-02',
    means: [{ means: 'cheque', amount: 121_040 }],
    onAccount: 121_040,
    ...over,
  })

async function begin(isolation: Isolation): Promise<void> {
  books = await freshBooks(isolation)
  await customers(books, CUSTOMERS)
  await documents(books, DOCUMENTS)
}
afterEach(() => books.close())

describe.each(['READ COMMITTED', 'REPEATABLE READ'] as Isolation[])(
  'several at once, under %s',
  isolation => {
    beforeEach(() => begin(isolation))

    test('a cheque of nobody’s account goes on one slip when people bank at once', async () => {
      const sundry = { date: TODAY, currency: 'EUR', amount: 30_000, means: 'cheque' as const }
      await perform(books.database, books.actor, sundryCommand, {
        ...sundry,
        payer: 'Insurer',
        account: '4900',
      })
      const [means] = await books.database.select<{ id: number }>('SELECT id FROM receipt_means')
      const bank = () =>
        takeToBank(books.database, books.actor, { date: TODAY, means: [means!.id], cashKept: 0 })
      const results = await Promise.allSettled([bank(), bank(), bank(), bank(), bank()])
      expect(results.filter(r => r.status === 'fulfilled')).toHaveLength(1)
      for (const r of results) if (r.status === 'rejected') expect(rules(r.reason)).toEqual(['slip.once'])
      await clean()
    })

    test('one slip is settled by one bank line', async () => {
      await addBankAccount(books.database, 1, {
        name: 'Current',
        iban: 'IE64IRCE92050112345678',
        currency: 'EUR',
        account: '1200',
        csvMap: null,
      })
      const done = await receive({ date: TODAY })
      const [means] = await books.database.select<{ id: number }>(
        'SELECT id FROM receipt_means WHERE item_id = :id',
        { id: done.receipt!.id },
      )
      const slip = await takeToBank(books.database, books.actor, { date: TODAY, means: [means!.id] })
      const line = (n: number) => ({
        bookingDate: TODAY,
        valueDate: TODAY,
        amount: 121_040,
        name: '',
        iban: '',
        text: `LODGEMENT ${n}`,
        reference: '',
        endToEndId: '',
        bankReference: `B${n}`,
        code: 'PMNT-CNTR-CDPT',
        returnReason: '',
      })
      const statement = {
        format: 'camt.053' as const,
        id: 'S-1',
        account: 'IE64IRCE92050112345678',
        currency: 'EUR',
        from: TODAY,
        to: TODAY,
        opening: 0,
        closing: 5 * 121_040,
        lines: [1, 2, 3, 4, 5].map(line),
      }
      const bytes = Buffer.from(writeCamt(statement, `${TODAY}T22:00:00`))
      await takeStatement(books.database, books.actor, bytes, { propose: false })
      const lines = await books.database.select<{ id: number; version: number }>(
        'SELECT id, version FROM bank_line',
      )
      const results = await Promise.allSettled(
        lines.map(l =>
          perform(books.database, books.actor, acceptLineCommand, {
            ...l,
            action: { kind: 'covered', targets: [{ kind: 'slip', id: slip.id }] },
            told: 'by hand',
            confidence: null,
          }),
        ),
      )
      expect(results.filter(r => r.status === 'fulfilled')).toHaveLength(1)
      await clean()
    })

    test('ten people put one receipt right at once: one does, nobody waits for ever', async () => {
      const { receipt } = await receive()
      const started = Date.now()
      const results = await Promise.allSettled(
        Array.from({ length: 10 }, () =>
          perform(books.database, books.actor, putRightCommand, {
            itemId: receipt!.id,
            reason: 'wrong',
            customer: 'K3',
          }),
        ),
      )
      expect(results.filter(r => r.status === 'fulfilled')).toHaveLength(1)
      expect(Date.now() - started).toBeLessThan(20_000)
      await clean()
    })

    test('a period that closes while receipts are posted has none of them dated in it after', async () => {
      const posts = Array.from({ length: 8 }, () => receive().then(() => 'posted', rules))
      const closing = changeSettings(books.database, books.actor, { closedUntil: '2026-11-10' })
      const results = await Promise.all([...posts, closing.then(() => 'closed')])
      const [after] = await books.database.select<{ n: number }>(
        `SELECT COUNT(*) AS n FROM item WHERE kind = 'receipt' AND posting_date <= '2026-11-10'`,
      )
      expect(after!.n).toBe(results.filter(r => r === 'posted').length)
      expect(await refusal(receive())).toEqual(['period.closed'])
      await clean()
    })
  },
)

describe('one door', () => {
  beforeEach(() => begin('READ COMMITTED'))

  test('money is not used twice in the past: an effect needs enough open on every later day', async () => {
    const invoice = await idOf('26-1')
    const paid = await receive({ allocations: [{ itemId: invoice, amount: 121_040 }], onAccount: 0 })
    await perform(books.database, books.actor, unallocateCommand, {
      customer: 'K1',
      date: TODAY,
      allocationIds: paid.allocations,
    })
    const pair = { debitItemId: await idOf('26-2'), creditItemId: paid.receipt!.id, amount: 100_000 }
    const again = (date: string) =>
      perform(books.database, books.actor, allocateCommand, { customer: 'K1', date, pairs: [pair] })
    const error = await again('2026-11-10').then(
      () => null,
      (e: unknown) => e as LedgerRefused,
    )
    expect(error!.refusals).toMatchObject([{ rule: 'allocation.past', satisfy: `use ${TODAY} or later` }])
    const reverse = (date: string) =>
      perform(books.database, books.actor, reverseCommand, { itemId: paid.receipt!.id, date, reason: 'x' })
    expect(await refusal(reverse('2026-11-10'))).toEqual(['allocation.past'])
    await again(TODAY)
    await clean()
  })

  test('on any day the aging equals its make-up, whatever was dated back and taken back', async () => {
    const days = ['2026-11-02', '2026-11-05', '2026-11-09', '2026-11-12', TODAY]
    const step = fc.record({ what: fc.nat(3), day: fc.nat(4), a: fc.nat(20), b: fc.nat(20) })
    await fc.assert(
      fc.asyncProperty(fc.array(step, { minLength: 6, maxLength: 12 }), async steps => {
        for (const s of steps) {
          const date = days[s.day]!
          const one = async (sql: string, n: number) => {
            const rows = await books.database.select<{ id: number }>(sql)
            return rows[n % Math.max(1, rows.length)]?.id ?? 999_999
          }
          const debit = await one(
            'SELECT item_id AS id FROM open_item WHERE customer_id = 1 AND open > 0 ORDER BY 1',
            s.a,
          )
          const credit = await one(
            'SELECT item_id AS id FROM open_item WHERE customer_id = 1 AND open < 0 ORDER BY 1',
            s.b,
          )
          const link = await one('SELECT id FROM allocation ORDER BY id', s.a)
          const receipt = await one(`SELECT id FROM item WHERE kind = 'receipt' ORDER BY id`, s.b)
          const { database, actor } = books
          const acts = [
            () => receive({ date, allocations: [{ itemId: debit, amount: 5000 }], onAccount: 116_040 }),
            () =>
              perform(database, actor, allocateCommand, {
                customer: 'K1',
                date,
                pairs: [{ debitItemId: debit, creditItemId: credit, amount: 3000 + s.a }],
              }),
            () =>
              perform(database, actor, unallocateCommand, { customer: 'K1', date, allocationIds: [link] }),
            () => perform(database, actor, reverseCommand, { itemId: receipt, date, reason: 'x' }),
          ]
          await acts[s.what]!().catch((e: unknown) => {
            if (!(e instanceof LedgerRefused) && (e as { status?: number }).status === undefined) throw e
          })
        }
        await clean()
        for (const asOf of days) {
          const aging = await readAging(books.database, agingQuery.parse({ asOf, currency: 'EUR' }), {})
          const items = await readAgingItems(
            books.database,
            { ...agingQuery.parse({ asOf, currency: 'EUR', limit: 500 }), bucket: 'all' } as never,
            {},
          )
          expect([items.total, aging.control!.ties]).toEqual([aging.totals.total, true])
        }
      }),
      { numRuns: 8, endOnFailure: true },
    )
  }, 120_000)

  test('last month’s report again, to the cent, after a correction dated back', async () => {
    const asOf = '2026-11-10'
    const before = await readAging(books.database, agingQuery.parse({ asOf }), {})
    await receive({ allocations: [{ itemId: await idOf('26-1'), amount: 121_040 }], onAccount: 0 })
    const now = await readAging(books.database, agingQuery.parse({ asOf }), {})
    expect(now.totals.total).toBe(before.totals.total - 121_040)
    const then = await readAging(
      books.database,
      agingQuery.parse({ asOf, known: String(before.known.entry) }),
      {},
    )
    expect(then.totals).toEqual(before.totals)
    expect(then.control).toEqual(before.control)
    expect(then.items).toEqual(before.items)
    // From everything known, the postings alone say the same as the projection.
    const all = agingQuery.parse({ asOf, known: String(now.known.entry) })
    expect((await readAging(books.database, all, {})).totals).toEqual(now.totals)
  })

  test('the rest of a settled line goes to an account that exists and keeps no register', async () => {
    for (const [restAccount, rule] of [
      ['1100', 'account.kept'],
      ['9999', 'account.known'],
    ]) {
      const { settle } = await import('../../../core/banking')
      const { loadState } = await import('../../../server/ledger/load')
      const { readSettings } = await import('../../../server/db/settings')
      const ledger = await loadState(books.database, { customerIds: [] }, await readSettings(books.database))
      const movement = { date: TODAY, currency: 'EUR', amount: 900, account: '1200', text: '', reference: '' }
      const awaited = [
        { label: 'R-1', account: '1220', amount: 1000, baseAmount: 1000, date: TODAY, settled: false },
      ]
      const done = settle(ledger, { ...movement, rate: '1' }, awaited, restAccount!)
      expect(done.ok ? [] : done.refusals.map(r => r.rule)).toEqual([rule])
    }
  })

  test('without a rate nothing is posted, and none is invented', async () => {
    const swiss = { customer: 'K1', currency: 'CHF', means: [{ means: 'cheque' as const, amount: 5000 }] }
    expect(await refusal(receive({ ...swiss, onAccount: 5000 }))).toEqual(['rate.missing'])
    await books.database.run(`INSERT INTO rate (currency, date, rate) VALUES ('CHF', '2026-10-30', 1.05)`)
    await receive({ ...swiss, onAccount: 5000 })
    // A rate of eleven days ago is out of date.
    expect(await refusal(receive({ ...swiss, onAccount: 5000, date: TODAY }))).toEqual(['rate.missing'])
    const done = await receive({ date: TODAY })
    await books.database.run(`DELETE FROM rate WHERE currency = 'GBP'`)
    const fee = { itemId: done.receipt!.id, date: TODAY, reason: 'returned', fee: 500 }
    await perform(books.database, books.actor, reverseCommand, fee)
    await clean()
  })

  test('settings are saved together or not at all', async () => {
    const work = changeSettings(books.database, books.actor, { company: 'Other', closedUntil: TODAY })
    await expect(work).rejects.toMatchObject({ status: 422 })
    expect(await books.database.select(`SELECT value FROM setting WHERE name = 'company'`)).toEqual([])
  })

  test('a query outside the transaction is impossible inside one', async () => {
    await expect(
      books.database.transaction(async () => books.database.select('SELECT 1 AS x')),
    ).rejects.toThrow(/outside the transaction/)
    await expect(
      books.database.transaction(async () => books.database.transaction(async () => 1)),
    ).rejects.toThrow(/inside a transaction/)
  })

  test('the application’s user may add to the ledger, not change or delete', async () => {
    await grantApplication(books.database, `'bilancio'@'127.0.0.1'`)
    const [{ name }] = (await books.database.select<{ name: string }>('SELECT DATABASE() AS name')) as [
      { name: string },
    ]
    const url = process.env.TEST_APPLICATION_URL!.replace(/\/bilancio$/, `/${name}`)
    const application = openDatabase(url, 2)
    try {
      await perform(application, books.actor, receiveCommand, {
        customer: 'K1',
        date: TODAY,
        means: [{ means: 'cash', amount: 100 }],
        onAccount: 100,
      })
      for (const table of ['entry', 'item', 'allocation', 'journal_line', 'audit'])
        for (const sql of [`UPDATE ${table} SET id = id`, `DELETE FROM ${table}`])
          await expect(application.run(sql)).rejects.toThrow(/denied/)
    } finally {
      await application.close()
    }
    await clean()
  })

  test('a Command waits for a second person and is decided again when it is signed', async () => {
    await books.database.run(
      `INSERT INTO person (email, name, role, password_hash)
        VALUES ('b@example.org', 'Bea', 'supervisor', 'x')`,
    )
    const bea: Signer = { id: 2, name: 'Bea', role: 'supervisor', standsInFor: [] }
    const own: Signer = { ...books.actor, standsInFor: [] }
    const author = async () => books.actor
    const ask = {
      customer: 'K1',
      date: TODAY,
      means: [{ means: 'transfer', amount: 121_040 }],
      allocations: [{ itemId: await idOf('26-1'), amount: 121_040 }],
    }
    const keep = () => keepWaiting(books.database, books.actor, receiveCommand, ask)
    const [first, second] = [await keep(), await keep()]
    const signed = (by: Signer, id: number) => sign(books.database, by, author, commandNamed, id)
    expect(await refusal(signed(own, first.id))).toEqual(['waiting.own'])
    expect(await refusal(signed({ ...bea, role: 'auditor' }, first.id))).toEqual(['waiting.ability'])
    const both = await Promise.allSettled([signed(bea, first.id), signed(bea, first.id)])
    expect(both.filter(r => r.status === 'fulfilled')).toHaveLength(1)
    // The invoice is paid: what was kept no longer holds.
    expect(await refusal(signed(bea, second.id))).toEqual(['allocation.open'])
    await turnDown(books.database, bea, second.id, 'declined', 'paid meanwhile')
    expect(await refusal(signed(bea, second.id))).toEqual(['waiting.once'])
    const [by] = await books.database.select<{ n: number }>(
      `SELECT COUNT(*) AS n FROM item WHERE kind = 'receipt' AND person_id = 1`,
    )
    expect(by!.n).toBe(1)
    await clean()
  })
})
