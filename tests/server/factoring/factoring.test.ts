import { agingItemsQuery, agingQuery } from '../../../contract/aging'
import { facilityBody } from '../../../contract/factoring'
import JSZip from 'jszip'
import { XMLParser } from 'fast-xml-parser'
import { existsSync, mkdirSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { AnswerLine } from '../../../core/factoring'
import { writeAnswerFile } from '../../../formats/factoring'
import { imageHere, keepImage } from '../../../server/image'
import { verifyLedger } from '../../../server/ledger/verify'
import { noFigures } from '../../../core/today'
import { readSettings, writeSetting } from '../../../server/db/settings'
import { readAging } from '../../../server/services/aging/aging'
import { readAgingItems } from '../../../server/services/aging/items'
import { takeFactorAnswer, takeFactorFiles, waitingAnswers } from '../../../server/services/factoring/answers'
import { readProposal } from '../../../server/services/factoring/candidates'
import { scheduleCopies } from '../../../server/services/factoring/copies'
import {
  closeShort,
  listToClose,
  passOn,
  proveShort,
  undoPassOn,
} from '../../../server/services/factoring/close'
import { keepFacility, listFacilities } from '../../../server/services/factoring/facilities'
import { giveSchedules, offerInvoices, takeBackSchedule } from '../../../server/services/factoring/offer'
import { listSchedules, readSchedules, scheduleFile } from '../../../server/services/factoring/schedules'
import { postWriteOff } from '../../../server/services/impairment/writeOff'
import { ProblemError } from '../../../server/services/common/problems'
import { whatWaits } from '../../../server/services/today/waits'
import { customers, documents, TODAY } from '../database'
import { agrees, books, itemId, line as bankLine, refusal, take } from '../banking/bank'
import { intents, postIntent } from '../post'

const IBAN = 'IE12ZZZZ99000055556666'
const TERMS = facilityBody.parse({
  name: 'Tern Finance',
  iban: IBAN,
  recourse: false,
  disclosed: true,
  currencies: ['EUR'],
  advanceRate: 8000,
  commissionRate: 150,
  taxRate: 2000,
  interestRate: 600,
  interestReference: null,
  eligible: { mostAge: 365 },
  accounts: { current: '1310', commission: '6910', interest: '6930', tax: '2210' },
})
const keep = (over: object = {}, code = 'TERN') =>
  keepFacility(books.database, books.actor, code, { ...TERMS, ...over })
const balance = async (account: string): Promise<number> => {
  const [row] = await books.database.select<{ base: unknown }>(
    'SELECT COALESCE(SUM(base_amount), 0) AS base FROM journal_line WHERE account = :account',
    { account },
  )
  return Number(row!.base)
}
const openOf = async (number: string): Promise<number> => {
  const [row] = await books.database.select<{ open: number }>(
    'SELECT o.open FROM open_item o JOIN item i ON i.id = o.item_id WHERE i.number = :number',
    { number },
  )
  return row?.open ?? 0
}

beforeEach(async () => {
  process.env.BILANCIO_FACTOR = mkdtempSync(join(tmpdir(), 'bilancio-factor-'))
  await customers(
    books,
    `number,name,country,currency,language,email
F1,Fernhill Foods,IE,EUR,en,ap@fernhill.example
F2,Farn und Moos,DE,EUR,de,
`,
  )
  await documents(
    books,
    `number,kind,customer,date,due_date,currency,amount,tax
F-1,invoice,F1,2026-11-02,2026-12-02,EUR,1000.00,0
F-2,invoice,F1,2026-11-03,2026-12-03,EUR,500.00,0
F-3,invoice,F2,2026-11-04,2026-12-04,EUR,2000.00,0
F-4,invoice,F2,2025-01-04,2025-02-03,EUR,70.00,0
`,
  )
  await keep()
})
afterEach(() => {
  delete process.env.BILANCIO_FACTOR
})

const offer = async (numbers: string[], facility = 'TERN') =>
  offerInvoices(books.database, books.actor, {
    facility,
    currency: 'EUR',
    itemIds: await Promise.all(numbers.map(itemId)),
  })
const told = (lines: Partial<AnswerLine>[], schedule: string) =>
  writeAnswerFile(
    lines.map(l => ({
      ...{ kind: 'accepted', schedule, invoice: '', date: TODAY, currency: 'EUR', amount: 0 },
      ...{ settlement: '', text: '' },
      ...l,
    })),
  )
const answer = (lines: Partial<AnswerLine>[], schedule: string, facility = 'TERN') =>
  takeFactorAnswer(books.database, books.actor, { facility, name: 'a.csv', csv: told(lines, schedule) })

test('the proposal tells why each of the others is left out', async () => {
  const found = await readProposal(books.database, { facility: 'TERN', currency: 'EUR', limit: 50 })
  expect(found.chosen.map(c => c.number)).toEqual(['F-3', 'F-2', 'F-1', '26-2', '26-1'])
  expect(found.leftOut.map(l => [l.number, l.rule, l.why])).toEqual([
    ['F-4', 'age', '681 days old, at most 365'],
  ])
  expect(found.totals).toMatchObject({ count: 5, chosen: 100_000 + 50_000 + 200_000 + 912_000 + 121_040 })
})

test('an invoice is offered once: to one factor, by one of two at once; the file is given whole', async () => {
  await keep(
    {
      name: 'Skua Credit',
      iban: '',
      accounts: { ...TERMS.accounts, current: '1320', commission: '6940', interest: '6950' },
    },
    'SKUA',
  )
  const both = await Promise.allSettled([offer(['F-1', 'F-2']), offer(['F-1', 'F-3'], 'SKUA')])
  expect(both.map(b => b.status).sort()).toEqual(['fulfilled', 'rejected'])
  const won = both.find(b => b.status === 'fulfilled')!
  expect(await refusal(offer(['F-1']))).toBe('offer.sold')
  expect(await refusal(offer(['F-4']))).toBe('offer.age')
  expect(await refusal(offer(['C-1']))).toBe('offer.known')
  const { number, id } = won.value
  const [row] = (await listSchedules(books.database, {})).items
  expect(row).toMatchObject({ id, number, state: 'sent', count: 2 })
  const file = join(process.env.BILANCIO_FACTOR!, row!.facility.code, 'outbox', `${number}.csv`)
  expect(readFileSync(file, 'utf8')).toContain(
    `${number},F-1,F1,Fernhill Foods,IE,2026-11-02,2026-12-02,EUR,1000.00`,
  )
  expect((await scheduleFile(books.database, id, 'xlsx')).bytes.length).toBeGreaterThan(4000)
  // Copies in an open format (UBL 2.1), read back by the package that reads ZIP files.
  const zip = await JSZip.loadAsync((await scheduleCopies(books.database, id)).bytes)
  const copy = await zip.file('F-1.xml')!.async('string')
  const { Invoice } = new XMLParser({ removeNSPrefix: true, parseTagValue: false }).parse(copy)
  expect(Invoice).toMatchObject({
    ...{ ID: 'F-1', IssueDate: '2026-11-02', DueDate: '2026-12-02', DocumentCurrencyCode: 'EUR' },
    LegalMonetaryTotal: { PayableAmount: '1000.00' },
    AccountingCustomerParty: { Party: { PartyName: { Name: 'Fernhill Foods' } } },
  })
  // Nothing answered: it may be taken back, once, and the invoice is free again.
  await takeBackSchedule(books.database, books.actor, id, 'by mistake')
  await expect(takeBackSchedule(books.database, books.actor, id, 'x')).rejects.toThrow('taken back before')
  await offer(['F-1'], 'SKUA')
})

test('a crash before the file was given: it is given later, the same', async () => {
  await books.database.run("UPDATE factor_facility SET iban = '' WHERE code = 'TERN'")
  const { number } = await offer(['F-1'])
  await books.database.run("UPDATE factor_schedule SET state = 'made'")
  await giveSchedules(books.database)
  await giveSchedules(books.database)
  expect(existsSync(join(process.env.BILANCIO_FACTOR!, 'TERN', 'outbox', `${number}.csv`))).toBe(true)
  expect((await listSchedules(books.database, {})).items[0]!.state).toBe('sent')
})

test('debtors are told where the facility is disclosed', async () => {
  const { number } = await offer(['F-1', 'F-2', 'F-3'])
  const letters = await books.database.select<{ kind: string; number: string }>(
    "SELECT kind, number FROM sent_letter WHERE kind = 'assignment'",
  )
  expect(letters).toEqual([
    { kind: 'assignment', number },
    { kind: 'assignment', number },
  ])
})

/** Accepted, advanced, paid, settled: without recourse, with money through the bank. */
test('the life of a schedule: sold, advanced, settled; its account is square when all was paid', async () => {
  const receivables = await balance('1100')
  const { number, id } = await offer(['F-1', 'F-2'])
  await answer([{ invoice: 'F-1' }, { invoice: 'F-2' }], number)
  expect([await openOf('F-1'), await balance('1310')]).toEqual([0, 150_000])
  expect(await balance('1100')).toBe(receivables - 150_000)
  await answer([{ kind: 'advance', amount: 120_000 }], number)
  const settlement: Partial<AnswerLine>[] = [
    ...(['F-1', 'F-2'] as const).flatMap((invoice): Partial<AnswerLine>[] => {
      const amount = invoice === 'F-1' ? 100_000 : 50_000
      return [
        { kind: 'collected', invoice, amount },
        { kind: 'commission', invoice, amount: (amount * 18) / 1000 },
        { kind: 'interest', invoice, amount: amount / 200 },
        { kind: 'repaid', invoice, amount: (amount * 8) / 10 },
      ]
    }),
    { kind: 'payout', amount: 26_550 },
  ].map(l => ({ ...l, settlement: 'ST-1' }) as Partial<AnswerLine>)
  const wrong = settlement.map(l => (l.kind === 'payout' ? { ...l, amount: 26_000 } : l))
  const before = await balance('6910')
  expect(await refusal(answer(wrong, number))).toMatch(/^factor.sum( factor.sum-line){9}$/)
  expect(await balance('6910')).toBe(before)
  await answer(settlement, number)
  expect(await answer(settlement, number)).toEqual({ lines: 0, known: true })
  expect(
    await refusal(answer([{ kind: 'commission', invoice: 'F-1', amount: 1, settlement: 'ST-1' }], number)),
  ).toBe('factor.twice')
  expect([await balance('6910'), await balance('2210'), await balance('6930')]).toEqual([2250, 450, 750])
  // What it pays comes through the bank, and is proposed to its account by the rule for its IBAN.
  await take([
    bankLine(120_000, { iban: IBAN, name: 'TERN FINANCE', text: `ADVANCE ${number}`, bookingDate: TODAY }),
    bankLine(26_550, { iban: IBAN, name: 'TERN FINANCE', text: 'SETTLEMENT ST-1', bookingDate: TODAY }),
  ])
  expect(await balance('1310')).toBe(0)
  const detail = await readSchedules(books.database, id)
  expect(detail).toMatchObject({ collected: 150_000, kept: 3000, open: 0, advance: 120_000 })
  expect(detail.money).toMatchObject({
    told: 146_550,
    seen: 146_550,
    lines: [{ settled: true }, { settled: true }],
  })
  expect(detail.items.map(i => i.state)).toEqual(['collected', 'collected'])
  expect((await listFacilities(books.database)).items[0]).toMatchObject({
    ...{ used: 0, balance: 0 },
    months: [{ month: '2026-11', invoices: 2, advance: 120_000, kept: 3000, effective: null }],
  })
  await agrees()
  expect(await verifyLedger(books.database)).toEqual([])
})

test('a schedule is taken back while its answer comes: one of the two, and never a sold invoice set free', async () => {
  for (let n = 0; n < 4; n++) {
    const { number, id } = await offer(['F-1'])
    const both = await Promise.allSettled([
      takeBackSchedule(books.database, books.actor, id, 'by mistake'),
      answer([{ invoice: 'F-1' }], number),
    ])
    expect(both.map(b => b.status).sort()).toEqual(['fulfilled', 'rejected'])
    const [row] = await books.database.select<{ live: number | null; state: string }>(
      'SELECT live, state FROM factor_item ORDER BY id DESC LIMIT 1',
    )
    const isBack = both[0]!.status === 'fulfilled'
    expect([await openOf('F-1'), row]).toEqual(
      isBack ? [100_000, { live: null, state: 'sent' }] : [0, { live: 1, state: 'accepted' }],
    )
    if (!isBack) await answer([{ kind: 'recourse', invoice: 'F-1' }], number)
  }
  await agrees()
})

test('refused and given back: the invoice is open again, and may be offered anew', async () => {
  const { number } = await offer(['F-1', 'F-3'])
  await answer([{ invoice: 'F-1' }, { kind: 'refused', invoice: 'F-3', text: 'debtor unknown' }], number)
  expect(await refusal(postWriteOff(books.database, books.actor, writeOff(await itemId('F-1'))))).toBe(
    'write-off.kept',
  )
  await answer([{ kind: 'recourse', invoice: 'F-1', text: 'insolvent' }], number)
  expect([await openOf('F-1'), await balance('1310')]).toEqual([100_000, 0])
  await offer(['F-1', 'F-3'])
  await agrees()
})

const writeOff = (item: number) => ({
  items: [{ itemId: item }],
  ...{ reason: 'uncollectable' as const, text: 'gone', commission: 'kept' as const },
})

test('with recourse the invoice stays ours: it is in aging, but not written off or reminded', async () => {
  await keep({ recourse: true, version: 1 })
  const { number } = await offer(['F-1'])
  await answer([{ invoice: 'F-1' }, { kind: 'advance', amount: 80_000 }], number)
  expect([await openOf('F-1'), await balance('1310')]).toEqual([100_000, 0])
  const agedOf = async (ours: '0' | '1') => {
    const { totals } = await readAging(books.database, agingQuery.parse({ ours }), {})
    const items = await readAgingItems(books.database, agingItemsQuery.parse({ ours }), {})
    expect(items.total).toBe(totals.total)
    return totals.total
  }
  const fromTables = [await agedOf('0'), await agedOf('1')]
  keepImage(books.database, imageHere(books.database))
  const fromMemory = [await agedOf('0'), await agedOf('1')]
  keepImage(books.database, null)
  expect(fromMemory).toEqual(fromTables)
  expect(fromTables[0]! - fromTables[1]!).toBe(100_000)
  expect(await refusal(postWriteOff(books.database, books.actor, writeOff(await itemId('F-1'))))).toBe(
    'write-off.kept',
  )
  await answer([{ kind: 'collected', invoice: 'F-1', amount: 100_000 }], number)
  expect([await openOf('F-1'), await balance('1310')]).toEqual([0, 100_000])
})

/* Fact of the trade, common practice. */
test('a short payment of the factor closes three in one step; another amount is told the terms', async () => {
  await keep({ recourse: true, commissionRate: 708, commissionFloor: 7083, version: 1 })
  const { number } = await offer(['F-1'])
  await answer([{ invoice: 'F-1' }], number)
  const pay = async (amount: number) =>
    (
      await postIntent(
        books.database,
        books.actor,
        await intents.receipt(books.database, {
          ...{ customer: 'F1', currency: 'EUR', date: TODAY, onAccount: amount },
          means: [{ means: 'transfer', amount, reference: 'TERN' }],
        }),
      )
    ).receipt!.id
  const creditItemId = await pay(91_500)
  const [found] = (await listToClose(books.database)).items
  expect(found).toMatchObject({ short: { number: 'F-1', net: 7083, tax: 1417 }, facility: { code: 'TERN' } })
  const ask = { facility: 'TERN', creditItemId, itemId: await itemId('F-1') }
  expect((await proveShort(books.database, books.actor, ask)).lines.map(l => [l.account, l.amount])).toEqual([
    ['6910', 7083],
    ['2210', 1417],
    ['1100', -8500],
  ])
  const twice = await Promise.allSettled([0, 1].map(() => closeShort(books.database, books.actor, ask)))
  expect(twice.map(t => t.status).sort()).toEqual(['fulfilled', 'rejected'])
  expect([await openOf('F-1'), await balance('6910'), await balance('2210')]).toEqual([0, 7083, 1417])
  const stands = async () => {
    const [row] = await books.database.select(
      'SELECT state, collected FROM factor_item WHERE item_id = :id AND live = 1',
      { id: ask.itemId },
    )
    return row
  }
  expect(await stands()).toEqual({ state: 'collected', collected: 100_000 })
  // The receipt goes back with all of it, and the invoice is not paid any more.
  const back = await intents.reverse(books.database, creditItemId, { date: TODAY, reason: 'wrong payer' })
  await postIntent(books.database, books.actor, back)
  expect([await openOf('F-1'), await balance('6910'), await balance('2210')]).toEqual([100_000, 0, 0])
  expect(await stands()).toEqual({ state: 'accepted', collected: 0 })
  // Closed again, and this time only the link goes.
  const again = { ...ask, creditItemId: await pay(91_500) }
  await closeShort(books.database, books.actor, again)
  const [link] = await books.database.select<{ id: number }>(
    'SELECT id FROM allocation WHERE credit_item_id = :id AND undoes_id IS NULL',
    { id: again.creditItemId },
  )
  const allocationIds = [link!.id]
  const unlink = { customer: 'F1', date: TODAY, allocationIds, reason: 'of another invoice' }
  await postIntent(books.database, books.actor, await intents.unallocate(books.database, unlink))
  expect([await openOf('F-1'), await balance('6910')]).toEqual([100_000, 0])
  expect(await stands()).toEqual({ state: 'accepted', collected: 0 })
  await agrees()
  expect(await verifyLedger(books.database)).toEqual([])
})

test('a debtor pays us what is the factor’s: shown, passed on, owed', async () => {
  const { number } = await offer(['F-1'])
  await answer([{ invoice: 'F-1' }], number)
  const paid = async (date: string): Promise<number> => {
    const receipt = await intents.receipt(books.database, {
      ...{ customer: 'F1', currency: 'EUR', date, onAccount: 100_000 },
      means: [{ means: 'transfer', amount: 100_000, reference: '' }],
    })
    return (await postIntent(books.database, books.actor, receipt)).receipt!.id
  }
  // What came before the invoice was offered was never the factor's.
  await paid('2026-11-09')
  expect((await listToClose(books.database)).items).toEqual([])
  const id = await paid(TODAY)
  expect((await listToClose(books.database)).items).toMatchObject([{ credit: { id }, passOn: 100_000 }])
  await passOn(books.database, books.actor, { facility: 'TERN', creditItemId: id, amount: 100_000 })
  const { items, passed } = await listToClose(books.database)
  expect([await balance('1310'), items]).toEqual([0, []])
  expect(passed).toMatchObject([{ amount: 100_000, customer: { number: 'F1' }, factor: 'Tern Finance' }])
  await undoPassOn(books.database, books.actor, passed[0]!.id, 'it was for F-2')
  expect(await refusal(undoPassOn(books.database, books.actor, passed[0]!.id, 'x'))).toBe('reverse.once')
  expect([await balance('1310'), (await listToClose(books.database)).items.length]).toEqual([100_000, 1])
  await agrees()
  expect(await verifyLedger(books.database)).toEqual([])
})

test('files in its folder are taken once, in order; one that is wrong holds up the later, and says why', async () => {
  const { number } = await offer(['F-1'])
  const inbox = join(process.env.BILANCIO_FACTOR!, 'TERN', 'inbox')
  mkdirSync(inbox, { recursive: true })
  const put = (name: string, text: string) => writeFileSync(join(inbox, name), text)
  put('1.csv', told([{ invoice: 'F-1' }], number))
  put(
    '2.csv',
    'kind,schedule,invoice,date,currency,amount\naccepted,FS-1,F-1,16.11.2026,EUR,1.00\nsold,,,,,\n',
  )
  put('3.csv', told([{ kind: 'advance', amount: 80_000 }], number))
  const first = await takeFactorFiles(books.database, books.actor)
  expect(first).toMatchObject({ taken: 1, faults: [{ file: 'TERN/2.csv' }] })
  expect(first.faults[0]!.fault).toContain('line 2: "16.11.2026" is not a date')
  const settings = await readSettings(books.database)
  const todo = async () =>
    (await whatWaits(books.database, settings, books.actor, Promise.resolve(noFigures()))).map(w => w.why)
  expect(await waitingAnswers(books.database, books.actor)).toMatchObject([
    { facility: 'TERN', file: '2.csv', fault: expect.stringContaining('line 2') },
    { file: '3.csv', fault: 'waits for 2.csv' },
  ])
  expect(await todo()).toContainEqual(expect.stringContaining('TERN, 2.csv: line 2'))
  // A file that can be read, of an invoice that the factor never had: told before anybody tries.
  put('2.csv', told([{ kind: 'interest', invoice: 'F-9', amount: 100 }], number))
  expect((await waitingAnswers(books.database, books.actor))[0]!.fault).toMatch('F-9 is not on schedule')
  put('2.csv', told([{ kind: 'interest', invoice: 'F-1', amount: 100 }], number))
  expect(await takeFactorFiles(books.database, books.actor)).toEqual({ taken: 2, faults: [] })
  expect(await takeFactorFiles(books.database, books.actor)).toEqual({ taken: 0, faults: [] })
  expect(await waitingAnswers(books.database, books.actor)).toEqual([])
  expect((await todo()).join()).not.toContain('TERN')
})

test('terms: changed by who saw the last, accounts of each factor its own', async () => {
  await expect(keep()).rejects.toThrow('changed meanwhile')
  await expect(keep({ version: 1, accounts: { ...TERMS.accounts, current: '1330' } })).rejects.toThrow(
    'on its account already',
  )
  await expect(keep({ name: 'Skua Credit' }, 'SKUA')).rejects.toThrow("is Tern Finance's")
  await expect(
    keep({ accounts: { current: '1340', commission: '1100', interest: '6931', tax: '2210' } }, 'AUK'),
  ).rejects.toThrow('stands for something else')
  await expect(keep({ version: 1, commissionRate: 200, limit: null, concentration: 10 })).rejects.toThrow(
    ProblemError,
  )
  expect((await listFacilities(books.database)).items).toMatchObject([{ code: 'TERN', version: 1, used: 0 }])
  await writeSetting(books.database, 1, 'factoringPolicy', { overdraft: 800 })
})
