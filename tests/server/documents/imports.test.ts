import { agingItemsQuery, agingQuery } from '../../../contract/aging'
import { age, bucketsOf } from '../../../core/aging'
import { int } from '../../../server/db/connection'
import { verifyLedger } from '../../../server/ledger/verify'
import { exportAging } from '../../../server/services/aging/export'
import { readAging } from '../../../server/services/aging/aging'
import { readAgingItems } from '../../../server/services/aging/items'
import { importDocuments } from '../../../server/services/documents/imports'
import { queueJob, readJob, runNextJob } from '../../../server/services/jobs/jobs'
import type { ProblemError } from '../../../server/services/common/problems'
import { readCsv } from '../../../formats/csv'
import ExcelJS from 'exceljs'
import { CUSTOMERS, customers, DOCUMENTS, documents, freshBooks, TODAY, type Books } from '../database'

let books: Books
beforeAll(async () => {
  books = await freshBooks()
})
afterAll(() => books.close())

const faults = async (work: Promise<unknown>) => {
  const error = await work.then(
    () => {
      throw new Error('was accepted')
    },
    (e: ProblemError) => e,
  )
  return error.errors.map(e => `${e.line} ${e.column}: ${e.message}`)
}
const count = async (table: string) =>
  int((await books.database.select(`SELECT COUNT(*) AS n FROM ${table}`))[0]!.n)

describe('customers', () => {
  test('a dry run imports nothing and tells what it would', async () => {
    expect(await customers(books, CUSTOMERS, { dryRun: true })).toMatchObject({
      dryRun: true,
      rows: 3,
      imported: 3,
      unknownColumns: [],
    })
    expect(await count('customer')).toBe(0)
  })
  test('every bad row is told by line and column, nothing is imported', async () => {
    const bad = `number,name,country,currency,terms,email,iban,credit_limit,parent,shoe_size
A,,IE,EUR,net 30,,,,,
A,Twice,XX,EUX,whenever,not-an-address,IE29AIBK93115212345679,12.345,,
C,Own parent,IE,,,,,-5,C,
D,Stranger,IE,,,,,,Z9,
`
    expect(await faults(customers(books, bad))).toEqual([
      '2 name: the name is missing: fill it in',
      '3 number: A stands on line 2 already',
      expect.stringMatching(/^3 credit_limit: .*EUR has 2/),
      expect.stringMatching(/^3 country: "XX" is not a country/),
      expect.stringMatching(/^3 currency: "EUX" is not a currency/),
      expect.stringMatching(/^3 terms: "whenever"/),
      expect.stringMatching(/^3 email/),
      expect.stringMatching(/^3 iban: .*not a valid IBAN/),
      expect.stringMatching(/^4 credit_limit: a limit cannot be less than zero/),
      '4 parent: a customer cannot be its own parent',
      '5 parent: customer Z9 is neither here nor in this file',
    ])
    expect(await count('customer')).toBe(0)
  })
  test('then they are there, with the parent; the same again is refused or skipped', async () => {
    expect(await customers(books, CUSTOMERS)).toMatchObject({ imported: 3, skipped: 0 })
    expect(
      (
        await books.database.select(
          `SELECT p.number FROM customer c JOIN customer p ON p.id = c.parent_id WHERE c.number = 'K3'`,
        )
      )[0],
    ).toEqual({ number: 'K1' })
    expect(await faults(customers(books, CUSTOMERS))).toHaveLength(3)
    expect(await customers(books, CUSTOMERS, { skipExisting: true })).toMatchObject({
      imported: 0,
      skipped: 3,
    })
  })
  test('names may hold quotes, angle brackets and any script', async () => {
    await customers(books, 'number,name,country\nX1,"O\'Hara ""<b>"" & Søn; 海苔",JP\n')
    expect((await books.database.select(`SELECT name FROM customer WHERE number = 'X1'`))[0]).toEqual({
      name: 'O\'Hara "<b>" & Søn; 海苔',
    })
  })
  test('IBANs: valid passes, one digit changed does not', async () => {
    // Source: ISO 13616, the registry's examples for GB and DE.
    await customers(
      books,
      'number,name,country,iban\nI1,a,GB,GB82 WEST 1234 5698 7654 32\nI2,b,DE,DE89370400440532013000\n',
      {},
    )
    expect(
      await faults(customers(books, 'number,name,country,iban\nI3,a,GB,GB82WEST12345698765433\n')),
    ).toHaveLength(1)
  })
})

describe('documents', () => {
  test.each([
    ['customer', 'n1,invoice,NOPE,2026-10-01,,EUR,10,0,,', 'there is no customer NOPE'],
    ['date', 'n1,invoice,K1,2026-02-30,,EUR,10,0,,', 'not a date'],
    ['date', 'n1,invoice,K1,,,EUR,10,0,,', 'the date is missing'],
    ['date', 'n1,invoice,K1,2062-10-01,,EUR,10,0,,', 'check the year'],
    ['due_date', 'n1,invoice,K1,2026-10-01,2026-09-01,EUR,10,0,,', 'before the document date'],
    ['amount', 'n1,invoice,K1,2026-10-01,,EUR,-10,0,,', 'use the kind credit-note'],
    ['amount', 'n1,invoice,K1,2026-10-01,,EUR,0,0,,', 'more than zero'],
    ['amount', 'n1,invoice,K1,2026-10-01,,EUR,99999999999999,0,,', 'too large'],
    ['amount', 'n1,invoice,K1,2026-10-01,,EUR,"1,000.00",0,,', 'decimal point'],
    ['amount', 'n1,invoice,K1,2026-10-01,,JPY,10.5,0,,', 'JPY has 0'],
    ['currency', 'n1,invoice,K1,2026-10-01,,ABC,10,0,,', 'not a currency'],
    ['currency', 'n1,invoice,K1,2026-10-01,,MXN,10,0,,', 'no exchange rate'],
    ['tax', 'n1,invoice,K1,2026-10-01,,EUR,10,10,,', 'less than the amount'],
    ['kind', 'n1,receipt,K1,2026-10-01,,EUR,10,0,,', 'use invoice, credit-note or debit-note'],
    ['number', ',invoice,K1,2026-10-01,,EUR,10,0,,', 'the number is missing'],
  ])('%s: %s', async (column, row, why) => {
    const [first] = await faults(
      documents(books, `number,kind,customer,date,due_date,currency,amount,tax,order,text\n${row}\n`),
    )
    expect(first).toMatch(new RegExp(`^2 ${column}: .*${why}`))
  })
  test('discounts need both columns and must make sense', async () => {
    const head = 'number,customer,date,amount,discount_date,discount_amount\n'
    expect(await faults(documents(books, `${head}n1,K1,2026-10-01,10,2026-10-11,\n`))).toEqual([
      expect.stringContaining('2 discount_amount'),
    ])
    expect(await faults(documents(books, `${head}n1,K1,2026-10-01,10,2026-09-11,1\n`))).toEqual([
      expect.stringContaining('2 discount_date'),
    ])
  })
  test('one bad row in many: nothing is imported', async () => {
    await faults(documents(books, `${DOCUMENTS}26-9,invoice,NOPE,2026-10-01,,EUR,10,0,,\n`))
    expect(await count('item')).toBe(0)
  })
  test('due dates and discounts come from the terms; the journal balances', async () => {
    expect(await documents(books, DOCUMENTS)).toMatchObject({
      imported: 5,
      totals: [
        { currency: 'EUR', debit: 1_033_040, credit: 11_040 },
        { currency: 'GBP', debit: 221_010 },
        { currency: 'NOK', debit: 5_000_000 },
      ],
    })
    const rows = await books.database.select(
      `SELECT number, due_date AS due, discount_date AS d, discount_amount AS a FROM item ORDER BY number`,
    )
    expect(rows).toEqual([
      { number: '26-1', due: '2026-09-13', d: '2026-08-24', a: 2421 },
      { number: '26-2', due: '2026-11-23', d: '2026-11-03', a: 18_240 },
      { number: '26-3', due: '2026-10-16', d: null, a: null },
      { number: '26-4', due: '2026-11-30', d: null, a: null },
      { number: 'C-1', due: '2026-10-30', d: null, a: null },
    ])
    expect(await verifyLedger(books.database)).toEqual([])
  })
  test('the same number again is refused or skipped', async () => {
    expect((await faults(documents(books, DOCUMENTS)))[0]).toContain('document 26-1 is there already')
    expect(await documents(books, DOCUMENTS, { skipExisting: true })).toMatchObject({
      imported: 0,
      skipped: 5,
    })
  })
  test('instalments become one item each, adding up', async () => {
    await customers(books, 'number,name,country,terms\nP1,Parts,IE,50% net 30 / 50% net 60\n')
    await documents(books, 'number,customer,date,amount,tax\nPP-1,P1,2026-11-01,100.01,18.70\n')
    expect(
      await books.database.select(
        `SELECT part, amount, due_date AS due FROM item WHERE number = 'PP-1' ORDER BY part`,
      ),
    ).toEqual([
      { part: 1, amount: 5001, due: '2026-12-01' },
      { part: 2, amount: 5000, due: '2026-12-31' },
    ])
    expect(await verifyLedger(books.database)).toEqual([])
  })
})

describe('aging of what was imported', () => {
  const q = (over: object = {}) => agingQuery.parse(over)
  test('equals an independent count by the core, ties to the control account, credit in its own column', async () => {
    const aging = await readAging(books.database, q({ sort: 'name' }), {})
    const items = await books.database.select<{
      open: number
      date: string
      name: string
    }>(`SELECT o.base_open AS open, o.due_date AS date, c.name FROM open_item o
        JOIN customer c ON c.id = o.customer_id`)
    const total = age(items, TODAY, bucketsOf())
    expect(aging.totals).toMatchObject({
      amounts: total.amounts,
      onAccount: total.onAccount,
      total: total.total,
    })
    for (const row of aging.items)
      expect(row).toMatchObject(
        age(
          items.filter(i => i.name === row.customer.name),
          TODAY,
          bucketsOf(),
        ),
      )
    expect(aging.control).toMatchObject({ account: '1100', ties: true, balance: total.total })
    expect(aging.items.find(r => r.customer.number === 'K1')).toMatchObject({
      amounts: [912_000, 0, 0, 121_040, 0],
      onAccount: -11_040,
    })
  })
  test("every figure's parts sum to it", async () => {
    const aging = await readAging(books.database, q(), {})
    for (const [i, amount] of aging.totals.amounts.entries())
      expect(
        (await readAgingItems(books.database, agingItemsQuery.parse({ bucket: String(i) }), {})).total,
      ).toBe(amount)
    const parts = await readAgingItems(books.database, agingItemsQuery.parse({ key: 'K1' }), {})
    expect(parts.items.reduce((a, i) => a + i.open, 0)).toBe(
      aging.items.find(r => r.customer.number === 'K1')!.total,
    )
  })
  test('pages by cursor give every row once, in order, for every sort', async () => {
    for (const sort of ['name', '-name', 'total', '-total', '-oldest', 'overdue', '-b1', 'onAccount']) {
      const whole = await readAging(books.database, q({ sort }), {})
      const seen: string[] = []
      let cursor: string | undefined
      do {
        const page = await readAging(books.database, q({ sort, limit: 1, cursor }), {})
        seen.push(...page.items.map(i => i.customer.number))
        cursor = page.next ?? undefined
      } while (cursor)
      expect(seen).toEqual(whole.items.map(i => i.customer.number))
    }
  })
  test('groups, currencies, past dates, filters, setting off', async () => {
    expect(
      (await readAging(books.database, q({ by: 'group', search: 'Hollin' }), {})).items[0]!.customer.number,
    ).toBe('K1')
    expect((await readAging(books.database, q({ currency: 'NOK' }), {})).totals).toMatchObject({
      currency: 'NOK',
      total: 5_000_000,
    })
    expect(
      (await readAging(books.database, q({ asOf: '2026-09-01', currency: 'EUR' }), {})).totals,
    ).toMatchObject({ amounts: [121_040, 0, 0, 0, 0], total: 121_040 })
    expect((await readAging(books.database, q({ search: '%' }), {})).items).toEqual([])
    const net = await readAging(books.database, q({ net: '1' }), {})
    expect(net.items.find(r => r.customer.number === 'K1')).toMatchObject({
      amounts: [912_000, 0, 0, 110_000, 0],
      onAccount: 0,
    })
    expect(net.totals.amounts.reduce((a, b) => a + b, net.totals.onAccount)).toBe(net.totals.total)
    expect(
      (await readAging(books.database, q({ basis: 'document', currency: 'EUR' }), {})).totals.amounts[4],
    ).toBe(121_040)
  })
  test('a sales contact sees own customers only', async () => {
    await books.database.run(`UPDATE customer SET sales_id = 77 WHERE number = 'K2'`)
    expect((await readAging(books.database, q(), { salesId: 77 })).items.map(r => r.customer.number)).toEqual(
      ['K2'],
    )
    expect((await readAgingItems(books.database, agingItemsQuery.parse({}), { salesId: 77 })).count).toBe(1)
  })
  test('exports are read by an independent reader and add up', async () => {
    const aging = await readAging(books.database, q(), {})
    const csv = readCsv(
      (await exportAging(books.database, { ...q(), format: 'csv' }, {})).bytes.toString('utf8'),
    )
    expect(Math.round(csv.rows.reduce((a, r) => a + Number(r.cells.total), 0) * 100)).toBe(aging.totals.total)
    const book = new ExcelJS.Workbook()
    await book.xlsx.load(
      (await exportAging(books.database, { ...q(), format: 'xlsx' }, {})).bytes as unknown as ArrayBuffer,
    )
    const sheet = book.worksheets[0]!
    expect(Math.round(Number(sheet.lastRow!.getCell(sheet.columnCount).value) * 100)).toBe(aging.totals.total)
  })
})

describe('as people have them', () => {
  const faultsOf = (csv: string) =>
    documents(books, csv, { dryRun: true }).then(
      () => [] as (string | undefined)[],
      (e: ProblemError) => e.errors.map(f => `${f.line} ${f.column ?? ''} ${f.message}`),
    )
  test('numbers that differ by an accent or capitals only are told, by both their lines', async () => {
    expect(
      await faultsOf(
        'number,customer,date,amount\nRÉ-1,K1,2026-11-02,1\nRE-1,K1,2026-11-02,1\nre-1,K1,2026-11-02,1\n',
      ),
    ).toEqual([
      '3 number RE-1 is the same number as RÉ-1 on line 2',
      '4 number re-1 is the same number as RÉ-1 on line 2',
    ])
  })
  test('faults come in the order of lines; zero is told as zero; a column by its other name counts', async () => {
    expect(
      await faultsOf(
        'Number;Customer;Date;Due Date;Amount\nA-1;K1;2026-11-02;nonsense;1\nA-2;K1;2026-11-02;;0\n;K1;2026-11-02;;1\n',
      ),
    ).toEqual([
      '2 due_date "nonsense" is not a date: write YYYY-MM-DD, a day that exists',
      '3 amount the amount must be more than zero: write what the document is over',
      '4 number the number is missing',
    ])
  })
  test('a debit note falls due by the terms of its customer, a credit note at once', async () => {
    await documents(
      books,
      'number,kind,customer,date,amount\nDN-1,debit-note,K2,2026-11-02,10\nCN-9,credit-note,K2,2026-11-02,10\n',
    )
    const rows = await books.database.select<{ number: string; due: string }>(
      `SELECT number, due_date AS due FROM item WHERE number IN ('DN-1', 'CN-9') ORDER BY number`,
    )
    expect(rows).toEqual([
      { number: 'CN-9', due: '2026-11-02' },
      { number: 'DN-1', due: '2026-12-17' },
    ])
  })
})

describe('what is there already', () => {
  test('customers are changed where the file says otherwise, and the trail tells from what', async () => {
    const csv =
      'number,name,street,city,credit_limit,email\n' +
      'k1,Hollin & Sedge,4 Ferry Lane,Dublin,,new@hollin.example\nK2,,,,,\nK99,,,,,\n'
    expect(await faults(customers(books, csv, { update: true }))).toEqual([
      '4 name: the name is missing: fill it in',
      expect.stringMatching(/^4 country/),
    ])
    const mended = csv.replace('K99,,,,,\n', '')
    const preview = await customers(books, mended, { update: true, dryRun: true })
    expect(preview).toMatchObject({ imported: 0, updated: 1, skipped: 1 })
    expect(preview.changes).toEqual([
      { number: 'K1', field: 'street', before: '', after: '4 Ferry Lane' },
      { number: 'K1', field: 'city', before: '', after: 'Dublin' },
      { number: 'K1', field: 'email', before: 'maud@hollin.example', after: 'new@hollin.example' },
    ])
    const read = () =>
      books.database.select(`SELECT street, email, credit_limit AS lim FROM customer WHERE number = 'K1'`)
    expect(await read()).toEqual([{ street: '', email: 'maud@hollin.example', lim: 6_000_000 }])
    await customers(books, mended, { update: true })
    // What the file leaves empty stays.
    expect(await read()).toEqual([{ street: '4 Ferry Lane', email: 'new@hollin.example', lim: 6_000_000 }])
    expect(
      await books.database.select(
        `SELECT before_value AS b, after_value AS a FROM audit WHERE what = 'customer' AND about = 'K1'`,
      ),
    ).toEqual([
      {
        b: JSON.stringify({ 'Street and number': '', Town: '', 'E-mail': 'maud@hollin.example' }),
        a: JSON.stringify({
          version: 2,
          reason: 'import',
          'Street and number': '4 Ferry Lane',
          Town: 'Dublin',
          'E-mail': 'new@hollin.example',
        }),
      },
    ])
    expect(await customers(books, mended, { update: true })).toMatchObject({ updated: 0, skipped: 2 })
    expect(await faults(customers(books, 'number,currency\nK1,USD\n', { update: true }))).toEqual([
      '2 currency: the account is kept in EUR: that stays as it is',
    ])
  })
  test('documents that were open before are posted against opening balances, tax and all', async () => {
    const revenue = async (account: string) =>
      int(
        (
          await books.database.select(
            'SELECT COALESCE(SUM(base_amount), 0) AS n FROM journal_line WHERE account = :account',
            { account },
          )
        )[0]!.n,
      )
    const before = [await revenue('4000'), await revenue('2200')]
    await importDocuments(
      books.database,
      books.actor,
      'number,kind,customer,date,amount,tax\nOP-1,invoice,K1,2026-09-01,121.00,21.00\nOP-2,credit-note,K1,2026-09-02,12.10,2.10\n',
      { dryRun: false, skipExisting: false, opening: true },
      async () => {},
    )
    expect(await revenue('3900')).toBe(-12_100 + 1210)
    expect([await revenue('4000'), await revenue('2200')]).toEqual(before)
    expect(await verifyLedger(books.database)).toEqual([])
  })
})

describe('jobs', () => {
  test('a job runs once, with progress and result; a failed one tells its rows', async () => {
    const id = await queueJob(
      books.database,
      1,
      'import-documents',
      { dryRun: false, skipExisting: false },
      Buffer.from('number,customer,date,amount\nJ-1,K1,2026-11-01,5.00\n'),
    )
    expect([await runNextJob(books.database), await runNextJob(books.database)]).toEqual([true, false])
    expect(await readJob(books.database, id, books.actor)).toMatchObject({
      state: 'done',
      result: { imported: 1 },
    })
    const bad = await queueJob(
      books.database,
      1,
      'import-documents',
      { dryRun: false, skipExisting: false },
      Buffer.from('number,customer,date,amount\nJ-2,K9,2026-11-01,5.00\n'),
    )
    await runNextJob(books.database)
    expect(await readJob(books.database, bad, books.actor)).toMatchObject({
      state: 'failed',
      errors: [{ line: 2, column: 'customer' }],
    })
  })
  test("stopped in the middle, nothing of it stays; a dead worker's job is taken again", async () => {
    const before = await count('item')
    const csv =
      'number,customer,date,amount\n' +
      Array.from({ length: 5000 }, (_, i) => `M-${i},K1,2026-11-01,1.00`).join('\n')
    const stop = async (step: string, done: number) => {
      if (step === 'Importing' && done >= 2000) throw new Error('pulled the plug')
    }
    await expect(
      importDocuments(books.database, books.actor, csv, { dryRun: false, skipExisting: false }, stop),
    ).rejects.toThrow('pulled the plug')
    expect(await count('item')).toBe(before)
    const id = await queueJob(
      books.database,
      1,
      'import-documents',
      { dryRun: false, skipExisting: false },
      Buffer.from(csv),
    )
    await books.database.run(
      `UPDATE job SET state = 'running', heartbeat = UTC_TIMESTAMP(3) - INTERVAL 1 MINUTE WHERE id = ${id}`,
    )
    expect(await runNextJob(books.database)).toBe(true)
    expect(await readJob(books.database, id, books.actor)).toMatchObject({
      state: 'done',
      result: { imported: 5000 },
    })
    expect(await verifyLedger(books.database)).toEqual([])
  })
})
