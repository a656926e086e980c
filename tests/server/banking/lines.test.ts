import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { creditorReference } from '../../../core/banking/matching'

import { addRule, forget, listRules } from '../../../server/services/banking/rules'
import { ideaOfMap, listStatements, takeStatement } from '../../../server/services/banking/statements'
import { takeInbox, waitingFiles } from '../../../server/services/banking/inbox'
import { acceptClear } from '../../../server/services/banking/clear'
import { cancelJob, followJob, queueJob, readJob, runNextJob } from '../../../server/services/jobs/jobs'
import { ProblemError } from '../../../server/services/common/problems'
import { books, line, file, take, lines, balance, refusal, agrees } from './bank'

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
    expect(await readJob(books.database, statement, books.actor)).toMatchObject({
      state: 'cancelled',
      detail: expect.stringMatching(/what was settled stays.*taking the file again goes on/),
    })
    expect(await readJob(books.database, people, books.actor)).toMatchObject({
      state: 'cancelled',
      detail: 'stopped: nothing was imported',
    })
    expect(await runNextJob(books.database)).toBe(false)
  })
  test('a job that waits is stopped before it begins; one that ended stays as it ended', async () => {
    const id = await queueJob(books.database, 1, 'bank-statement', {}, file(two))
    expect(await cancelJob(books.database, id, books.actor)).toMatchObject({ state: 'cancelled' })
    expect(await runNextJob(books.database)).toBe(false)
    const done = await queueJob(books.database, 1, 'bank-statement', { name: 'a.xml' }, file(two))
    await runNextJob(books.database)
    expect(await cancelJob(books.database, done, books.actor)).toMatchObject({
      state: 'done',
      result: { fresh: 3 },
    })
    const told: string[] = []
    expect(
      await followJob(
        books.database,
        done,
        books.actor,
        j => {
          told.push(j.state)
        },
        () => false,
      ),
    ).toMatchObject({ state: 'done' })
    expect(told).toEqual(['done'])
    await expect(readJob(books.database, 999, books.actor)).rejects.toMatchObject({
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

test('a first idea of a table’s columns, and a clear word when it is none', async () => {
  const idea = await ideaOfMap(
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
  await expect(ideaOfMap(Buffer.from('"never closed'))).rejects.toThrow(ProblemError)
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
    expect(await readJob(books.database, id, books.actor)).toMatchObject({
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
