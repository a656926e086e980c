import { intents, postIntent, putReceiptRight, receiveSundry, voidSundry } from '../post'
import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import fc from 'fast-check'
import { acceptBody } from '../../../contract/banking/lines'
import { sundryBody } from '../../../contract/receipts'
import { creditorReference } from '../../../core/banking/matching'
import { writeCamt, type Statement, type StatementLine } from '../../../formats/statements'

import { writeSetting } from '../../../server/db/settings'
import { LedgerRefused } from '../../../server/ledger/command'
import { verifyLedger } from '../../../server/ledger/verify'
import { addBankAccount, listBankAccounts } from '../../../server/services/banking/accounts'
import { listLines, readLine } from '../../../server/services/banking/lines'
import { addRule, forget, listRules } from '../../../server/services/banking/rules'
import { ideaOfMap, listStatements, takeStatement } from '../../../server/services/banking/statements'
import { takeInbox, waitingFiles } from '../../../server/services/banking/inbox'
import { acceptClear } from '../../../server/services/banking/clear'
import { acceptLine, previewLine } from '../../../server/services/banking/accept'
import { previewUndo, undoLine } from '../../../server/services/banking/unmatch'
import { listCovered } from '../../../server/services/banking/world'
import { readTray } from '../../../server/services/banking/slips'
import { takeToBank, voidSlipById } from '../../../server/services/banking/paying'
import { cancelJob, followJob, queueJob, readJob, runNextJob } from '../../../server/services/jobs/jobs'
import { ProblemError } from '../../../server/services/common/problems'
import { listReceipts, readReceipt } from '../../../server/services/receipts/receipts'
import { readAccountOpen } from '../open'
import { CUSTOMERS, customers, DOCUMENTS, documents, freshBooks, TODAY, type Books } from '../database'

const IBAN = 'IE64IRCE92050112345678'
let books: Books
beforeEach(async () => {
  books = await freshBooks()
  await customers(books, CUSTOMERS)
  await documents(books, DOCUMENTS)
  await addBankAccount(books.database, 1, {
    name: 'Current',
    iban: IBAN,
    currency: 'EUR',
    account: '1200',
    csvMap: null,
  })
  await addRule(books.database, 1, { iban: '', words: 'bank charges', account: '6850', moneyIn: false })
})
afterEach(() => books.close())

let n = 0
/** What the bank's account stands at: each statement opens with what the one before closed with. */
let stands = 0
beforeEach(() => {
  stands = 0
})
const line = (amount: number, over: Partial<StatementLine> = {}): StatementLine => ({
  bookingDate: '2026-11-13',
  valueDate: '2026-11-13',
  amount,
  name: '',
  iban: '',
  text: '',
  reference: '',
  endToEndId: '',
  bankReference: `B${++n}`,
  code: 'PMNT-RCDT-ESCT',
  returnReason: '',
  ...over,
})
const file = (lines: StatementLine[], over: Partial<Statement> = {}) => {
  const opening = over.opening ?? stands
  return Buffer.from(
    writeCamt(
      {
        format: 'camt.053',
        id: `S-${++n}`,
        account: IBAN,
        currency: 'EUR',
        from: '2026-11-13',
        to: '2026-11-13',
        opening,
        closing: opening + lines.reduce((a, l) => a + l.amount, 0),
        lines,
        ...over,
      },
      '2026-11-13T22:00:00',
    ),
  )
}
const take = (list: StatementLine[], over: Partial<Statement> = {}) => {
  const bytes = file(list, over)
  stands = (over.opening ?? stands) + list.reduce((a, l) => a + l.amount, 0)
  return takeStatement(books.database, books.actor, bytes, { name: 'x.xml' })
}
const lines = async (state: 'open' | 'all' | 'settled' | 'automatic' | 'clear' = 'open') =>
  (await listLines(books.database, { state, limit: 100 })).items
const accept = async (id: number, body: object, actor = books.actor) =>
  acceptLine(
    books.database,
    actor,
    id,
    acceptBody.parse({ version: (await readLine(books.database, id)).version, ...body }),
  )
/** Takes the first proposal, as somebody does who sees it now. */
const acceptFirst = async (id: number) => {
  const { proposal, version } = await readLine(books.database, id)
  if (!proposal) throw new ProblemError(422, 'No proposal', 'nothing is proposed')
  return accept(id, { version, proposed: true, action: proposal.action })
}
const balance = async (account: string) =>
  Number(
    (
      await books.database.select(
        'SELECT COALESCE(SUM(amount), 0) AS n FROM journal_line WHERE account = :account',
        { account },
      )
    )[0]!.n,
  )
const refusal = async (work: Promise<unknown>): Promise<string> => {
  const error = await work.then(
    () => null,
    (e: unknown) => e,
  )
  if (error instanceof LedgerRefused) return error.refusals.map(r => r.rule).join(' ')
  if (error instanceof ProblemError) return `${error.title}: ${error.message}`
  throw error ?? new Error('nothing was refused')
}
const agrees = async () => {
  const [account] = await listBankAccounts(books.database)
  expect(account!.difference).toBe(0)
  expect(await balance('1200')).toBe(account!.settledSum)
  expect(await verifyLedger(books.database)).toEqual([])
  return account!
}
const itemId = async (number: string) =>
  Number((await books.database.select('SELECT id FROM item WHERE number = :number', { number }))[0]!.id)

test('a statement: what is clear is taken, the rest waits; the ledger’s bank account equals the statement', async () => {
  const result = await take([
    line(121_040, { name: 'HOLLIN SEDGE', text: 'Inv 26/1' }),
    line(912_000, { iban: 'IE29 AIBK 9311 5212 3456 78', reference: creditorReference('26-2') }),
    line(-2150, { text: 'BANK CHARGES WEEK 46', code: 'ACMT-MDOP-CHRG' }),
    line(4711, { name: 'Nobody Known', text: 'hello' }),
  ])
  expect(result).toMatchObject({ fresh: 4, known: 0, applied: 3, left: 1, warnings: [] })
  const open = await lines()
  expect(open).toHaveLength(1)
  expect(open[0]).toMatchObject({ amount: 4711, proposal: null, clear: false })
  const automatic = await lines('automatic')
  expect(automatic.map(l => l.match!.automatic)).toEqual([true, true, true])
  expect(automatic.find(l => l.amount === 121_040)!.match!.told).toMatch(/26-1.*exactly this amount/)
  const account = await agrees()
  expect(account).toMatchObject({
    openLines: 1,
    openSum: 4711,
    settledSum: 1_030_890,
    lastStatement: { closing: 1_035_601 },
  })
  expect(await balance('6850')).toBe(2150)
})

test('the same file, an overlapping file and two like lines: nothing twice, nothing lost', async () => {
  const [a, b] = [line(121_040, { text: '26-1' }), line(5, { text: 'tip' })]
  const first = file([a, b, { ...b }])
  await takeStatement(books.database, books.actor, first, {})
  expect(await takeStatement(books.database, books.actor, first, {})).toMatchObject({
    fresh: 0,
    known: 3,
    applied: 0,
  })
  // Days overlap: the three lines again, one of them a third time, and a new one.
  expect(await take([a, b, { ...b }, { ...b }, line(7)])).toMatchObject({ fresh: 2, known: 3 })
  expect((await lines('all')).map(l => l.amount).sort((x, y) => x - y)).toEqual([5, 5, 5, 7, 121_040])
  expect(await books.database.select('SELECT COUNT(*) AS n FROM bank_statement')).toEqual([{ n: 2 }])
})

describe('an attempt that was cut off', () => {
  const two = [
    line(121_040, { text: '26-1' }),
    line(-2150, { text: 'BANK CHARGES WEEK 46' }),
    line(4711, { text: 'hello' }),
  ]
  const cutOffAt = (bytes: Buffer, where: string) =>
    takeStatement(books.database, books.actor, bytes, {}, async step => {
      if (step === where) throw new Error('the power went')
    })
  test.each<[string, number, object]>([
    ['Comparing', 0, { fresh: 3, known: 0, applied: 2, left: 1 }],
    ['Matching', 3, { fresh: 0, known: 3, applied: 2, left: 1 }],
  ])('at %s: taking the file again finishes it, nothing is there twice', async (where, taken, again) => {
    const bytes = file(two)
    await expect(cutOffAt(bytes, where)).rejects.toThrow('the power went')
    expect(await lines('all')).toHaveLength(taken)
    expect(await balance('1200')).toBe(0)
    expect(await takeStatement(books.database, books.actor, bytes, {})).toMatchObject(again)
    expect(await lines('all')).toHaveLength(3)
    expect(await lines('automatic')).toHaveLength(2)
    await agrees()
  })
  test('while settling: what was settled stays, the rest is clear and waits for a word', async () => {
    const bytes = file(two)
    await expect(cutOffAt(bytes, 'Applying')).rejects.toThrow('the power went')
    await agrees()
    expect(await takeStatement(books.database, books.actor, bytes, {})).toMatchObject({
      fresh: 0,
      known: 3,
      applied: 0,
    })
    await acceptClear(books.database, books.actor)
    expect(await lines('settled')).toHaveLength(2)
    await agrees()
  })
  test('a job that was stopped says what is true of it', async () => {
    const statement = await queueJob(books.database, 1, 'bank-statement', {}, file(two))
    const people = await queueJob(
      books.database,
      1,
      'import-customers',
      { dryRun: false, skipExisting: false },
      Buffer.from('number,name,country\nX,Somebody,IE\n'),
    )
    await books.database.run('UPDATE job SET cancel = 1')
    await runNextJob(books.database)
    await runNextJob(books.database)
    expect(await readJob(books.database, statement)).toMatchObject({
      state: 'cancelled',
      detail: expect.stringMatching(/what was settled stays.*taking the file again goes on/),
    })
    expect(await readJob(books.database, people)).toMatchObject({
      state: 'cancelled',
      detail: 'stopped: nothing was imported',
    })
    expect(await runNextJob(books.database)).toBe(false)
  })
  test('a job that waits is stopped before it begins; one that ended stays as it ended', async () => {
    const id = await queueJob(books.database, 1, 'bank-statement', {}, file(two))
    expect(await cancelJob(books.database, id)).toMatchObject({ state: 'cancelled' })
    expect(await runNextJob(books.database)).toBe(false)
    const done = await queueJob(books.database, 1, 'bank-statement', { name: 'a.xml' }, file(two))
    await runNextJob(books.database)
    expect(await cancelJob(books.database, done)).toMatchObject({ state: 'done', result: { fresh: 3 } })
    const told: string[] = []
    expect(
      await followJob(
        books.database,
        done,
        j => {
          told.push(j.state)
        },
        () => false,
      ),
    ).toMatchObject({ state: 'done' })
    expect(told).toEqual(['done'])
    await expect(readJob(books.database, 999)).rejects.toMatchObject({
      message: expect.stringMatching(/job 999/),
    })
  })
})

test('the inbox: what the bank left is taken in one go, once; statements are listed newest first', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'bilancio-inbox-'))
  const was = process.env.BILANCIO_BANK
  process.env.BILANCIO_BANK = folder
  try {
    mkdirSync(join(folder, 'inbox'))
    expect(await waitingFiles(books.database)).toMatchObject([])
    const first = file([line(121_040, { text: '26-1' })], { from: '2026-11-12', to: '2026-11-12' })
    const second = file([line(4711, { text: 'hello' })], { opening: 121_040 })
    writeFileSync(join(folder, 'inbox', '2026-11-12.xml'), first)
    writeFileSync(join(folder, 'inbox', '2026-11-13.xml'), second)
    expect(await waitingFiles(books.database)).toMatchObject([
      { name: '2026-11-12.xml', bytes: first.length },
      { name: '2026-11-13.xml', bytes: second.length },
    ])
    expect(await takeInbox(books.database, books.actor)).toMatchObject({
      fresh: 2,
      known: 0,
      applied: 1,
      left: 1,
      statements: [{ to: '2026-11-12' }, { to: '2026-11-13' }],
      warnings: [],
    })
    expect(await waitingFiles(books.database)).toEqual([])
    expect(await takeInbox(books.database, books.actor)).toMatchObject({ fresh: 0, statements: [] })
    const page = await listStatements(books.database, { limit: 1 })
    expect(page.items).toMatchObject([
      { to: '2026-11-13', opening: 121_040, closing: 125_751, fresh: 1, by: 'Sam Over' },
    ])
    expect((await listStatements(books.database, { limit: 1, cursor: page.next! })).items).toMatchObject([
      { to: '2026-11-12' },
    ])
    await agrees()
  } finally {
    if (was === undefined) delete process.env.BILANCIO_BANK
    else process.env.BILANCIO_BANK = was
  }
})

test('a first idea of a table’s columns, and a clear word when it is none', () => {
  const idea = ideaOfMap(
    Buffer.from('Booking date;Payer;Details;Amount\n13.11.2026;Hollin;Invoice 26-1;1.210,40\n'),
  )
  expect(idea.header).toEqual(['booking date', 'payer', 'details', 'amount'])
  expect(idea.map).toMatchObject({
    date: 'booking date',
    amount: 'amount',
    name: 'payer',
    text: ['details'],
    order: 'DMY',
    decimal: ',',
  })
  expect(idea.sample).toHaveLength(1)
  expect(() => ideaOfMap(Buffer.from('"never closed'))).toThrow(ProblemError)
})

test('rules and payers that were learnt are listed, and forgotten with a trace', async () => {
  await take([line(121_040, { name: 'HOLLIN SEDGE', iban: 'IE29AIBK93115212345678', text: '26-1' })])
  const { rules, payers } = await listRules(books.database)
  expect(rules).toMatchObject([{ words: 'bank charges', account: '6850', moneyIn: false, by: 'Sam Over' }])
  expect(payers).toMatchObject([{ iban: 'IE29AIBK93115212345678', times: 1, customer: { number: 'K1' } }])
  await forget(books.database, 1, 'payer_learnt', payers[0]!.id)
  await forget(books.database, 1, 'ledger_rule', rules[0]!.id)
  expect(await listRules(books.database)).toEqual({ rules: [], payers: [] })
  await expect(forget(books.database, 1, 'ledger_rule', rules[0]!.id)).rejects.toMatchObject({
    message: expect.stringMatching(/rule/),
  })
  await expect(
    addRule(books.database, 1, { iban: '', words: '', account: '6850', moneyIn: true }),
  ).rejects.toMatchObject({ title: 'Nothing to go by' })
  await expect(
    addRule(books.database, 1, { iban: '', words: 'x', account: '9999', moneyIn: true }),
  ).rejects.toMatchObject({ title: 'No such account' })
  expect(
    await books.database.select(
      `SELECT what FROM audit WHERE what IN ('payer_learnt', 'ledger_rule') ORDER BY id`,
    ),
  ).toHaveLength(2)
})

test('a gap between statements is told', async () => {
  await take([line(100)], { from: '2026-11-11', to: '2026-11-11' })
  expect((await take([line(100)], { opening: 500, from: '2026-11-13' })).warnings[0]).toMatch(
    /one between them seems missing/,
  )
})

describe('what cannot be taken changes nothing', () => {
  test.each<[string, () => Buffer, RegExp]>([
    ['truncated', () => file([line(100)]).subarray(0, 700), /not whole XML/],
    ['unbalanced', () => file([line(100)], { closing: 999 }), /does not add up/],
    [
      'entities',
      () =>
        Buffer.from(
          file([line(100)])
            .toString()
            .replace('?>', '?><!DOCTYPE a [<!ENTITY b "c">]>'),
        ),
      /entities/,
    ],
    ['wrong encoding', () => Buffer.concat([file([line(100)]), Buffer.from([0xff])]), /bytes are not/],
    ['another bank account', () => file([line(100)], { account: 'DE89370400440532013000' }), /none of ours/],
    ['wrong currency', () => file([line(100)], { currency: 'USD' }), /in USD, Current is kept in EUR/],
    ['a line of tomorrow', () => file([line(100, { bookingDate: '2026-11-17' })]), /after today/],
    ['CSV without account', () => Buffer.from('date,amount\n2026-11-13,1\n'), /whose account/],
    ['nothing', () => Buffer.alloc(0), /empty/],
  ])('%s', async (_, make, message) => {
    expect(await refusal(takeStatement(books.database, books.actor, make(), {}))).toMatch(message)
    expect(
      await books.database.select(
        'SELECT (SELECT COUNT(*) FROM bank_line) + (SELECT COUNT(*) FROM bank_statement) AS n',
      ),
    ).toEqual([{ n: 0 }])
  })
  test('a job tells its faults', async () => {
    const id = await queueJob(books.database, 1, 'bank-statement', {}, Buffer.from('<a'))
    expect(await runNextJob(books.database)).toBe(true)
    expect(await readJob(books.database, id)).toMatchObject({
      state: 'failed',
      detail: expect.stringMatching(/not whole XML/),
      errors: [{ path: 'line 1' }],
    })
  })
})

test('CSV with the map guessed or saved', async () => {
  const csv = Buffer.from('Date,Details,Amount,Balance\n2026-11-13,Invoice 26-1,1210.40,1210.40\n')
  expect(await takeStatement(books.database, books.actor, csv, { account: 1 })).toMatchObject({
    fresh: 1,
    applied: 1,
  })
  expect((await lines('automatic'))[0]!.match!.receipts).toMatchObject([{ customer: { number: 'K1' } }])
})

test('by hand: another customer, part amounts, the rest on account; who paid is learnt', async () => {
  await take([
    line(200_000, { name: 'Aunt Agnes', iban: 'DE89370400440532013000', text: 'for the shop' }),
    line(12_345, { name: 'Aunt Agnes', iban: 'DE89370400440532013000', text: 'more' }),
  ])
  const [first, second] = await lines()
  expect(second!.proposal).toBeNull()
  const action = {
    kind: 'receipt' as const,
    parts: [
      {
        customer: 'K1',
        allocations: [{ itemId: await itemId('26-1'), amount: 100_000 }],
        onAccount: 100_000,
      },
    ],
  }
  expect(
    await refusal(
      accept(first!.id, { action: { ...action, parts: [{ ...action.parts[0]!, onAccount: 1 }] } }),
    ),
  ).toBe('payment.assigned')
  expect(
    await refusal(
      accept(first!.id, {
        action: {
          ...action,
          parts: [
            {
              ...action.parts[0]!,
              allocations: [{ itemId: await itemId('26-1'), amount: 200_000 }],
              onAccount: 0,
            },
          ],
        },
      }),
    ),
  ).toBe('allocation.open')
  const proof = await previewLine(books.database, books.actor, first!.id, {
    version: 1,
    learn: true,
    action: {
      ...action,
      lateDiscount: false,
      parts: [
        {
          ...action.parts[0]!,
          credits: [],
          allocations: [{ ...action.parts[0]!.allocations[0]!, discount: 0, difference: 0 }],
        },
      ],
    },
  })
  expect(proof.lines.map(l => [l.account, l.note, l.amount])).toEqual([
    ['1200', '', 200_000],
    ['1100', '', -100_000],
    ['1100', 'on account', -100_000],
  ])
  const done = await accept(first!.id, { action })
  expect(done).toMatchObject({ state: 'settled', match: { receipts: [{ customer: { number: 'K1' } }] } })
  // Learnt: the second line of the same payer now has a proposal.
  expect((await lines())[0]).toMatchObject({
    proposal: {
      customer: { number: 'K1' },
      reasons: [expect.stringMatching(/paid for Hollin & Sedge before/), expect.anything()],
    },
  })
  expect((await listRules(books.database)).payers).toMatchObject([
    { iban: 'DE89370400440532013000', customer: { number: 'K1' } },
  ])
  expect(await readReceipt(books.database, done.match!.receipts[0]!.id)).toMatchObject({
    state: 'settled',
    unallocated: 100_000,
    bankLines: [{ direct: true }],
  })
  await agrees()
})

test('unmatching brings back the items, the credits and the line; what was learnt is forgotten', async () => {
  const before = await readAccountOpen(books.database)
  await take([line(110_990, { iban: 'NO9386011117947', name: 'Hollin & Sedge', text: '26-1' })])
  const [l] = await lines('all')
  if (l!.state === 'open') await acceptFirst(l!.id)
  const settled = await readLine(books.database, l!.id)
  expect(settled.state).toBe('settled')
  const proof = await previewUndo(books.database, books.actor, l!.id, 'wrong')
  expect(proof.ok).toBe(true)
  const open = await undoLine(books.database, books.actor, l!.id, {
    version: settled.version,
    reason: 'wrong customer',
  })
  expect(open).toMatchObject({
    state: 'open',
    held: 'unmatched by hand',
    history: [{ undone: { reason: 'wrong customer' } }],
  })
  expect(await readAccountOpen(books.database)).toEqual(before)
  expect(await balance('1200')).toBe(0)
  expect((await listRules(books.database)).payers).toEqual([])
  expect(
    await refusal(undoLine(books.database, books.actor, l!.id, { version: open.version, reason: 'again' })),
  ).toBe('bank.matched')
  // What somebody unmatched is not taken again with the clear ones.
  expect(await acceptClear(books.database, books.actor)).toEqual({ applied: 0, held: 0 })
  expect((await lines())[0]).toMatchObject({ clear: false, held: 'unmatched by hand' })
  await agrees()
})

test('two people on one line: one is told, nothing is posted twice', async () => {
  await take([line(55_555, { name: 'Stranger' })])
  const [l] = await lines()
  const body = {
    version: l!.version,
    learn: true,
    action: { kind: 'ledger' as const, account: '4900', words: '', rememberPayer: false },
  }
  const results = await Promise.allSettled(
    Array.from({ length: 6 }, () => acceptLine(books.database, books.actor, l!.id, body)),
  )
  expect(results.filter(r => r.status === 'fulfilled')).toHaveLength(1)
  expect(
    results.filter(r => r.status === 'rejected').map(r => (r.reason as LedgerRefused).refusals[0]!.rule),
  ).toEqual(Array(results.length - 1).fill('bank.done'))
  expect(await balance('4900')).toBe(-55_555)
  await agrees()
})

test('a repeated key answers again and posts once', async () => {
  await take([line(55_555, { name: 'Stranger' })])
  const [l] = await lines()
  const body = {
    version: l!.version,
    learn: true,
    action: { kind: 'ledger' as const, account: '4900', words: '', rememberPayer: false },
  }
  const key = { key: 'k1', request: { id: l!.id } }
  await acceptLine(books.database, books.actor, l!.id, body, key)
  expect(await acceptLine(books.database, books.actor, l!.id, body, key)).toMatchObject({ state: 'settled' })
  expect(await balance('4900')).toBe(-55_555)
})

test('sundry money: remembered by its words and by its bank account', async () => {
  await take([
    line(9638, { name: 'BALLYNORE CARTONS', iban: 'IE12ZZZZ99000011112222', text: 'REFUND INV 322' }),
  ])
  await accept((await lines())[0]!.id, {
    action: { kind: 'ledger', account: '4900', words: '', rememberPayer: true },
  })
  expect(
    await take([line(777, { name: 'BALLYNORE', iban: 'IE12ZZZZ99000011112222', text: 'REFUND INV 401' })]),
  ).toMatchObject({ applied: 1 })
  expect(
    await refusal(
      (async () => {
        await take([line(5)])
        await accept((await lines())[0]!.id, { action: { kind: 'ledger', account: '1100' } })
      })(),
    ),
  ).toBe('account.kept')
  await agrees()
})

describe('covered and settled', () => {
  const receive = async (
    means: 'cheque' | 'transfer' | 'cash',
    amount: number,
    reference = '',
    customer = 'K1',
  ) =>
    (
      await postIntent(
        books.database,
        books.actor,
        await intents.receipt(books.database, {
          customer,
          currency: 'EUR',
          date: TODAY,
          means: [{ means, amount, reference }],
          onAccount: amount,
        }),
      )
    ).receipt!.id
  const on = { bookingDate: TODAY, valueDate: TODAY }
  test('a transfer keyed before is met, a slip opens into its cheques; clearing is empty then', async () => {
    const transfer = await receive('transfer', 30_000, 'adv 9')
    const cheque = await receive('cheque', 50_000, '004417')
    await receive('cash', 20_000)
    expect([
      (await readReceipt(books.database, transfer)).state,
      (await readReceipt(books.database, cheque)).state,
    ]).toEqual(['covered', 'tray'])
    const slip = await takeToBank(books.database, books.actor, {
      date: TODAY,
      means: (await readTray(books.database, {})).items.map(i => i.id),
      cashKept: 5000,
    })
    expect((await listCovered(books.database, {})).totals).toEqual([
      { currency: 'EUR', amount: 95_000, count: 2 },
    ])
    const result = await take(
      [
        line(30_000, { ...on, iban: 'IE29AIBK93115212345678' }),
        line(65_000, { ...on, text: `LODGEMENT ${slip.number}`, code: 'PMNT-CNTR-CDPT' }),
      ],
      { from: TODAY, to: TODAY },
    )
    expect(result).toMatchObject({ applied: 2 })
    expect([await balance('1220'), await balance('1200')]).toEqual([0, 95_000])
    expect(
      await refusal(voidSlipById(books.database, books.actor, slip.id, { date: TODAY, reason: 'x' })),
    ).toBe('slip.settled')
    expect([
      (await readReceipt(books.database, transfer)).state,
      (await readReceipt(books.database, cheque)).state,
    ]).toEqual(['settled', 'settled'])
    await agrees()
  })
  test('card money less the bank’s commission', async () => {
    const first = await receive('transfer', 30_000)
    await receive('transfer', 20_000)
    await take([line(49_400, { ...on, text: 'CARD SETTLEMENT' })], { from: TODAY, to: TODAY })
    const [l] = await lines()
    const targets = (await listCovered(books.database, {})).items.map(i => ({ kind: i.kind, id: i.id }))
    expect(await refusal(accept(l!.id, { action: { kind: 'covered', targets } }))).toBe('bank.rest')
    await accept(l!.id, { action: { kind: 'covered', targets, restAccount: '6850' } })
    expect(await balance('6850')).toBe(600)
    // Unmatched, both wait in clearing again.
    const settled = await readLine(books.database, l!.id)
    await undoLine(books.database, books.actor, l!.id, { version: settled.version, reason: 'another day' })
    expect([
      await balance('1220'),
      await balance('6850'),
      (await readReceipt(books.database, first)).state,
    ]).toEqual([50_000, 0, 'covered'])
    await agrees()
  })
  test('two lines cannot settle the same money', async () => {
    await receive('transfer', 30_000, 'ADV-77')
    await take([line(30_000, { ...on, text: 'ADV-77' }), line(30_000, { ...on, text: 'again ADV-77' })], {
      from: TODAY,
      to: TODAY,
    })
    expect(await lines('settled')).toHaveLength(1)
    const [left] = await lines()
    const [settled] = await lines('settled')
    const targets = [
      {
        kind: 'means' as const,
        id: Number((await books.database.select('SELECT id FROM receipt_means'))[0]!.id),
      },
    ]
    expect(await refusal(accept(left!.id, { action: { kind: 'covered', targets } }))).toBe('bank.settled')
    expect(settled!.match!.told).toContain('R-000001')
    await agrees()
  })
  test('a cheque comes back: reversed from the bank with a fee, or met when it was reversed before', async () => {
    const a = await receive('cheque', 50_000, '005059')
    const b = await receive('cheque', 60_000, '005060')
    await takeToBank(books.database, books.actor, {
      date: TODAY,
      means: (await readTray(books.database, {})).items.map(i => i.id),
      cashKept: 0,
    })
    await take([line(110_000, { ...on, text: 'LODGEMENT P-00001' })], { from: TODAY, to: TODAY })
    await postIntent(
      books.database,
      books.actor,
      await intents.reverse(books.database, b, { date: TODAY, reason: 'told by phone' }),
    )
    expect(await balance('1220')).toBe(-60_000)
    expect(
      await take(
        [
          line(-60_000, { ...on, text: 'UNPAID CHEQUE 005060', returnReason: 'AM04' }),
          line(-50_000, { ...on, text: 'UNPAID CHEQUE 005059', returnReason: 'AM04' }),
        ],
        { from: TODAY, to: TODAY },
      ),
    ).toMatchObject({ applied: 1, left: 1 })
    const [l] = await lines()
    expect(l!.proposal).toMatchObject({ action: { kind: 'return', itemId: a }, confidence: 0.94 })
    await accept(l!.id, { action: { kind: 'return', itemId: a, reason: 'Returned, AM04', fee: 1500 } })
    expect(await readReceipt(books.database, a)).toMatchObject({
      state: 'reversed',
      reversal: { reason: 'Returned, AM04' },
    })
    expect([await balance('1220'), await balance('1200'), await balance('4820')]).toEqual([0, 0, -1500])
    expect(
      await refusal(
        (async () =>
          undoLine(books.database, books.actor, l!.id, {
            version: (await readLine(books.database, l!.id)).version,
            reason: 'x',
          }))(),
      ),
    ).toBe('bank.return')
    await agrees()
  })
})

describe('sundry money that is not at the bank yet', () => {
  const receive = (over: object = {}) =>
    receiveSundry(
      books.database,
      books.actor,
      sundryBody.parse({
        date: TODAY,
        currency: 'EUR',
        amount: 30_000,
        means: 'cheque',
        reference: '771',
        payer: 'Fire Insurer',
        account: '4900',
        ...over,
      }),
    )
  test('a cheque lies in the Tray, goes on a slip, and is settled with it', async () => {
    const one = await receive()
    expect(one).toMatchObject({ number: 'S-00001', voided: false, accountName: 'Sundry income' })
    expect((await readTray(books.database, { search: 'Fire' })).items).toMatchObject([
      { receipt: 'S-00001', customer: { number: '', name: 'Fire Insurer' }, amount: 30_000 },
    ])
    const slip = await takeToBank(books.database, books.actor, {
      date: TODAY,
      means: (await readTray(books.database, {})).items.map(i => i.id),
      cashKept: 0,
    })
    expect(slip.means).toMatchObject([{ receipt: 'S-00001' }])
    expect(await refusal(voidSundry(books.database, books.actor, one.id, 'x'))).toBe('sundry.away')
    expect(
      await take([line(30_000, { bookingDate: TODAY, valueDate: TODAY, text: 'LODGEMENT P-00001' })], {
        from: TODAY,
        to: TODAY,
      }),
    ).toMatchObject({ applied: 1 })
    expect([
      await balance('1210'),
      await balance('1220'),
      await balance('1200'),
      await balance('4900'),
    ]).toEqual([0, 0, 30_000, -30_000])
    await agrees()
  })
  test(
    'a transfer waits in clearing for its bank line; taken back once, never to an account with its own ' +
      'register',
    async () => {
      const one = await receive({ means: 'transfer' })
      expect((await listCovered(books.database, {})).items).toMatchObject([
        { label: 'S-00001', amount: 30_000 },
      ])
      expect(await voidSundry(books.database, books.actor, one.id, 'keyed twice')).toMatchObject({
        voided: true,
      })
      expect(await refusal(voidSundry(books.database, books.actor, one.id, 'again'))).toBe('sundry.once')
      expect((await listCovered(books.database, {})).items).toEqual([])
      expect(await refusal(receive({ account: '1100' }))).toBe('account.kept')
      expect(await refusal(receive({ account: '7777' }))).toBe('account.known')
      expect(await balance('4900')).toBe(0)
      await agrees()
    },
  )
})

describe('clear lines', () => {
  test('with automatic off they wait for a word; one that cannot be posted is held and says why', async () => {
    await writeSetting(books.database, 1, 'matching', { automatic: false, threshold: 0.95 })
    await take(
      [
        line(121_040, { text: '26-1' }),
        line(912_000, { text: '26-2', bookingDate: '2026-10-28', valueDate: '2026-10-28' }),
      ],
      { from: '2026-10-28' },
    )
    await writeSetting(books.database, 1, 'closedUntil', '2026-10-31')
    expect(await acceptClear(books.database, books.actor)).toEqual({ applied: 1, held: 1 })
    expect((await lines())[0]!.held).toMatch(/closed up to 2026-10-31/)
    await agrees()
  })
})

test('a receipt of a bank line moved to the right customer keeps its bank line', async () => {
  await take([line(121_040, { text: '26-1' })])
  const [receipt] = (await listReceipts(books.database, { state: 'all', limit: 10 })).items
  const moved = await putReceiptRight(books.database, books.actor, receipt!.id, {
    reason: 'paid by K3',
    customer: 'K3',
  })
  expect(await readReceipt(books.database, moved.receipt!.id)).toMatchObject({
    customer: { number: 'K3' },
    state: 'settled',
    unallocated: 121_040,
    bankLines: [{ direct: true }],
    was: { number: receipt!.number },
  })
  expect(await readReceipt(books.database, receipt!.id)).toMatchObject({
    state: 'reversed',
    became: { number: moved.receipt!.number },
  })
  expect(await balance('1200')).toBe(121_040)
  const [l] = await lines('settled')
  await undoLine(books.database, books.actor, l!.id, { version: l!.version, reason: 'after all not' })
  expect(await balance('1200')).toBe(0)
  await agrees()
})

test(
  'random statements, acceptances and corrections: undoing everything brings all back, and the books ' +
    'agree at every step',
  async () => {
    const before = await readAccountOpen(books.database)
    const step = fc.record({
      what: fc.constantFrom('first', 'account', 'ledger', 'undo', 'move'),
      pick: fc.nat(),
    })
    const money = fc.record({
      amount: fc.constantFrom(121_040, 912_000, 110_990, 60_000, 4711),
      text: fc.constantFrom('26-1', '26-2', 'no reference', '26-1 26-2'),
    })
    await fc.assert(
      fc.asyncProperty(
        fc.array(money, { minLength: 1, maxLength: 3 }),
        fc.array(step, { minLength: 1, maxLength: 6 }),
        async (list, steps) => {
          stands = 0
          await take(list.map(m => line(m.amount, { text: m.text, iban: 'IE29AIBK93115212345678' })))
          const quiet = (work: Promise<unknown>) =>
            work.catch((error: unknown) => {
              if (!(error instanceof LedgerRefused) && !(error instanceof ProblemError)) throw error
            })
          const undo = async (id: number) =>
            undoLine(books.database, books.actor, id, {
              version: (await readLine(books.database, id)).version,
              reason: 'back',
            })
          for (const s of steps) {
            const open = await lines()
            const done = await lines('settled')
            const o = open[s.pick % Math.max(1, open.length)]
            const d = done[s.pick % Math.max(1, done.length)]
            if (s.what === 'undo') {
              if (d) await quiet(undo(d.id))
            } else if (s.what === 'move') {
              const r = d?.match?.receipts[0]
              if (r)
                await quiet(
                  putReceiptRight(books.database, books.actor, r.id, { reason: 'moved', customer: 'K3' }),
                )
            } else if (o)
              await quiet(
                s.what === 'first'
                  ? acceptFirst(o.id)
                  : accept(o.id, {
                      action:
                        s.what === 'ledger'
                          ? { kind: 'ledger', account: '4900' }
                          : { kind: 'receipt', parts: [{ customer: 'K1', onAccount: o.amount }] },
                    }),
              )
          }
          await agrees()
          for (const l of await lines('settled')) await undo(l.id)
          expect(await readAccountOpen(books.database)).toEqual(before)
          expect(await balance('1200')).toBe(0)
          // The lines leave the stage, so that the next run begins anew.
          for (const table of ['bank_match_target', 'bank_match', 'bank_line'])
            await books.database.run(`DELETE FROM ${table}`)
          await books.database.run(`DELETE FROM bank_statement`)
        },
      ),
      { numRuns: 12 },
    )
    await agrees()
  },
)
