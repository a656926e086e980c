import { existsSync, mkdtempSync, readFileSync, readdirSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readPain, writePain002 } from '../../../formats/payments'
import type { BankAnswer } from '../../../core/payments'
import { writeSetting } from '../../../server/db/settings'
import { verifyLedger } from '../../../server/ledger/verify'
import { listSignOff, signRequest } from '../../../server/services/signOff/signOff'
import { deliverFiles, readFile } from '../../../server/services/payments/files'
import { sendFile, takeFileBack } from '../../../server/services/payments/send'
import { takeAnswer } from '../../../server/services/payments/answers'
import { listCredits } from '../../../server/services/refunds/credits'
import { payByCard } from '../../../server/services/refunds/cards'
import { makeTransferFile } from '../../../server/services/refunds/files'
import { listCheques, printCheque, voidCheque, writeCheque } from '../../../server/services/refunds/cheques'
import { postLapse } from '../../../server/services/refunds/lapse'
import { postRefunds } from '../../../server/services/refunds/post'
import { listRefunds, readRefund } from '../../../server/services/refunds/refunds'
import { undoRefund } from '../../../server/services/refunds/undo'
import type { CardRefund, CardTerminal } from '../../../server/ports/cardTerminal'
import type { Actor } from '../../../server/services/people/scope'
import { simulatedTerminal } from '../../../simulators/cardTerminal'
import { customers, documents, TODAY } from '../database'
import { acceptFirst, agrees, balance, books, itemId, line, lines, refusal, take } from '../banking/bank'
import { intents, postIntent } from '../post'

/** Somebody else, who signs. */
const BEA: Actor = { id: 2, name: 'Bea Sign', email: 'b@example.org', role: 'supervisor' }

let folder = ''
beforeEach(async () => {
  folder = mkdtempSync(join(tmpdir(), 'bilancio-bank-'))
  process.env.BILANCIO_BANK = folder
  await customers(
    books,
    `number,name,country,currency,class,language,email,iban
P1,Pier & Söhne,DE,EUR,food,de,p1@pier.example,DE89370400440532013000
P2,Port Quay,IE,EUR,food,en,,IE29AIBK93115212345678
P3,Harbour,GB,GBP,food,en,h@harbour.example,GB82WEST12345698765432
`,
  )
  await documents(
    books,
    `number,kind,customer,date,due_date,currency,amount
CN-1,credit-note,P1,2026-10-01,,EUR,120.00
CN-2,credit-note,P1,2026-10-20,,EUR,80.50
CN-3,credit-note,P2,2026-11-02,,EUR,45.00
CN-4,credit-note,P3,2026-11-02,,GBP,60.00
`,
  )
  await books.database.run(`INSERT INTO person (email, name, role, password_hash)
    VALUES ('b@example.org', 'Bea Sign', 'supervisor', 'x')`)
  await writeSetting(books.database, 1, 'signOff', {
    refund: { EUR: 100_000, GBP: 100_000 },
    lapse: { EUR: 0 },
  })
})
afterEach(() => {
  delete process.env.BILANCIO_BANK
})

const query = { only: 'all' as const, limit: 50 }
const credits = async (customer?: string) => (await listCredits(books.database, { ...query, customer })).items
const part = async (number: string, amount: number) => ({ itemId: await itemId(number), amount })
const refunds = async () =>
  (await listRefunds(books.database, { state: 'all', limit: 50 })).items.map(r => [r.number, r.state, r.told])
const post = (refunds: object[], actor = books.actor) =>
  postRefunds(books.database, actor, { refunds: refunds as never })
const outbox = () => (existsSync(join(folder, 'outbox')) ? readdirSync(join(folder, 'outbox')) : [])
const answerTo = (fileId: string, over: Partial<BankAnswer>): Buffer =>
  Buffer.from(
    writePain002({
      answer: {
        id: `A-${fileId}`,
        fileId,
        status: '',
        code: '',
        text: '',
        blocks: [],
        payments: [],
        ...over,
      },
      of: 'pain.001.001.09',
      createdAt: `${TODAY}T18:00:00`,
      bank: { name: 'Bank', bic: '' },
      blockOf: () => `${fileId}-1`,
    }),
  )

test('credits that can be refunded, the oldest first, each with why it arose', async () => {
  const found = (await credits()).filter(c => c.customer.number.startsWith('P'))
  expect(found.map(c => [c.number, c.open, c.origin, c.method, c.owes, c.stop])).toEqual([
    ['CN-1', 12_000, 'credit-note', 'transfer', 0, ''],
    ['CN-2', 8050, 'credit-note', 'transfer', 0, ''],
    ['CN-3', 4500, 'credit-note', 'transfer', 0, ''],
    ['CN-4', 6000, 'credit-note', 'transfer', 0, ''],
  ])
  // K1 owes more than its credit: allocating comes first.
  expect((await credits('K1'))[0]).toMatchObject({ number: 'C-1', owes: 1_033_040 })
})

test('several credits into one refund, posted once; a file, the bank line, and every euro in one place', async () => {
  const { numbers, waiting } = await post([
    { customer: 'P1', method: 'transfer', credits: [await part('CN-1', 12_000), await part('CN-2', 5000)] },
    { customer: 'P2', method: 'transfer', credits: [await part('CN-3', 4500)] },
  ])
  expect([numbers, waiting]).toEqual([['RF-00001', 'RF-00002'], null])
  expect([await balance('1230'), await balance('1200')]).toEqual([-21_500, 0])
  // A part of CN-2 is left.
  expect((await credits('P1')).map(c => [c.number, c.open])).toEqual([['CN-2', 3050]])
  const made = await makeTransferFile(books.database, books.actor, { currency: 'EUR' })
  expect(made).toMatchObject({ number: 'PF-00001', payments: 2, total: 21_500, state: 'made' })
  expect(made.told).toEqual(['Pier & Söhne is written Pier + Soehne'])
  expect(outbox()).toEqual([])
  expect((await sendFile(books.database, books.actor, made.id)).state).toBe('sent')
  expect(outbox()).toEqual(['PF-00001.xml'])
  const read = readPain(readFileSync(join(folder, 'outbox/PF-00001.xml'), 'utf8'))
  expect(read.blocks[0]!.payments.map(p => [p.endToEndId, p.amount, p.iban])).toEqual([
    ['RF-00001', 17_000, 'DE89370400440532013000'],
    ['RF-00002', 4500, 'IE29AIBK93115212345678'],
  ])
  // The advice went to who has an address.
  const letters = await books.database.select<{ n: string }>(
    `SELECT number AS n FROM sent_letter WHERE kind = 'refund'`,
  )
  expect(letters.map(l => l.n)).toEqual(['RF-00001'])
  // One sum on the statement settles both.
  await take([line(-21_500, { text: 'SAMMELUEBERWEISUNG PF-00001', code: 'PMNT-ICDT-ESCT' })])
  const settled = (await lines('all')).filter(l => l.amount === -21_500)
  expect(settled.map(l => l.state)).toEqual(['settled'])
  expect(await balance('1230')).toBe(0)
  expect((await refunds()).map(r => r[1])).toEqual(['settled', 'settled'])
  await agrees()
})

test('one by one by their end-to-end ids, and one comes back: its credit is open again', async () => {
  await post([
    { customer: 'P1', method: 'transfer', credits: [await part('CN-1', 12_000)] },
    { customer: 'P2', method: 'transfer', credits: [await part('CN-3', 4500)] },
  ])
  const made = await makeTransferFile(books.database, books.actor, { currency: 'EUR' })
  await sendFile(books.database, books.actor, made.id)
  await take([
    line(-12_000, { endToEndId: 'RF-00001', name: 'Pier', iban: 'DE89370400440532013000' }),
    line(-4500, { endToEndId: 'RF-00002', name: 'Port Quay', iban: 'IE29AIBK93115212345678' }),
  ])
  expect((await refunds()).map(r => r[1])).toEqual(['settled', 'settled'])
  const on = { bookingDate: TODAY, valueDate: TODAY }
  await take([line(4500, { ...on, endToEndId: 'RF-00002', returnReason: 'AC04', text: 'RETURN RF-00002' })], {
    from: TODAY,
    to: TODAY,
  })
  // Taken by itself, or proposed and accepted: it is known for what it is.
  const [back] = (await lines('all')).filter(l => l.amount === 4500)
  if (back!.state === 'open') await acceptFirst(back!.id)
  expect((await credits('P2')).map(c => [c.number, c.open])).toEqual([['CN-3', 4500]])
  expect((await refunds()).find(r => r[0] === 'RF-00002')![1]).toBe('refused')
  await agrees()
})

test('the bank refuses one (pain.002): told once, the credit open again, a task for who made it', async () => {
  await post([
    { customer: 'P1', method: 'transfer', credits: [await part('CN-1', 12_000)] },
    { customer: 'P2', method: 'transfer', credits: [await part('CN-3', 4500)] },
  ])
  const made = await makeTransferFile(books.database, books.actor, { currency: 'EUR' })
  await sendFile(books.database, books.actor, made.id)
  const answer = answerTo('PF-00001', {
    status: 'PART',
    payments: [{ endToEndId: 'RF-00002', status: 'RJCT', code: 'AC01', text: 'no such account' }],
  })
  expect(await takeAnswer(books.database, books.actor, answer, 'a.xml')).toMatchObject({ refused: 1 })
  expect(await takeAnswer(books.database, books.actor, answer, 'a.xml')).toMatchObject({ known: true })
  expect((await readFile(books.database, made.id)).state).toBe('partly')
  expect((await refunds())[0]).toEqual(['RF-00002', 'refused', 'not paid: account number is wrong'])
  expect((await credits('P2')).map(c => c.open)).toEqual([4500])
  expect(await balance('1230')).toBe(-12_000)
  const tasks = await books.database.select<{ text: string }>('SELECT text FROM message')
  expect(tasks.map(t => t.text)).toEqual([
    'Refund RF-00002 was not paid: account number is wrong. Its credit is open again.',
  ])
  expect(await verifyLedger(books.database)).toEqual([])
})

test('a file that is refused or lost is taken back whole; it cannot be sent twice', async () => {
  await post([{ customer: 'P1', method: 'transfer', credits: [await part('CN-1', 12_000)] }])
  const first = await makeTransferFile(books.database, books.actor, { currency: 'EUR' })
  expect(await refusal(makeTransferFile(books.database, books.actor, { currency: 'EUR' }))).toMatch(
    /^Nothing waits/,
  )
  const sent = await Promise.allSettled([
    sendFile(books.database, books.actor, first.id),
    sendFile(books.database, BEA, first.id),
  ])
  expect(sent.map(s => s.status).sort()).toEqual(['fulfilled', 'rejected'])
  expect(outbox()).toEqual(['PF-00001.xml'])
  expect(await deliverFiles(books.database)).toBe(0)
  // Refused whole: the refund waits again, and goes with another file of another number.
  await takeAnswer(
    books.database,
    books.actor,
    answerTo('PF-00001', { status: 'RJCT', code: 'FF01', text: 'schema' }),
    'r.xml',
  )
  expect((await refunds())[0]![2]).toBe('waits for a file')
  const second = await makeTransferFile(books.database, books.actor, { currency: 'EUR' })
  await sendFile(books.database, books.actor, second.id)
  await takeFileBack(books.database, books.actor, second.id, 'the bank never had it')
  const third = await makeTransferFile(books.database, books.actor, { currency: 'EUR' })
  expect([second.number, third.number]).toEqual(['PF-00002', 'PF-00003'])
  expect(await verifyLedger(books.database)).toEqual([])
})

test('answers that are somebody else’s, or of what was never sent, are refused', async () => {
  await post([{ customer: 'P1', method: 'transfer', credits: [await part('CN-1', 12_000)] }])
  const made = await makeTransferFile(books.database, books.actor, { currency: 'EUR' })
  const take = (fileId: string, over: Partial<BankAnswer>) =>
    refusal(takeAnswer(books.database, books.actor, answerTo(fileId, over), 'x.xml'))
  expect(await take('PF-99999', { status: 'RJCT' })).toMatch(/^Not ours/)
  expect(await take(made.number, { status: 'RJCT' })).toMatch(/^Never sent/)
  await sendFile(books.database, books.actor, made.id)
  const stranger = { endToEndId: 'RF-77777', status: 'RJCT', code: 'AC01', text: '' }
  expect(await take(made.number, { payments: [stranger] })).toMatch(/^Not ours/)
  expect(await refusal(takeAnswer(books.database, books.actor, Buffer.from('<a/>'), 'x.xml'))).toMatch(
    /^Not an answer/,
  )
  expect((await readFile(books.database, made.id)).state).toBe('sent')
})

test('above the limit a second person signs, and what moved on meanwhile is refused', async () => {
  await writeSetting(books.database, 1, 'signOff', { refund: { EUR: 5000 } })
  const asked = await post([{ customer: 'P1', method: 'transfer', credits: [await part('CN-1', 12_000)] }])
  expect([asked.numbers, asked.waiting === null]).toEqual([[], false])
  expect((await credits('P1'))[0]).toMatchObject({ number: 'CN-1', waiting: asked.waiting })
  expect(await refusal(signRequest(books.database, books.actor, asked.waiting!))).toBe('waiting.own')
  const [row] = (await listSignOff(books.database, BEA, { state: 'waiting' })).items
  expect(row!.changes).toEqual([
    {
      field: 'Pier & Söhne',
      before: 'CN-1',
      after: '120.00 EUR to DE89370400440532013000 of Pier & Söhne',
    },
  ])
  // The credit is used meanwhile.
  await documents(
    books,
    `number,customer,date,due_date,currency,amount\nP-9,P1,2026-11-01,2026-11-30,EUR,100.00\n`,
  )
  await postIntent(
    books.database,
    books.actor,
    await intents.allocate(books.database, {
      customer: 'P1',
      date: TODAY,
      pairs: [{ debitItemId: await itemId('P-9'), creditItemId: await itemId('CN-1'), amount: 10_000 }],
    }),
  )
  expect(await refusal(signRequest(books.database, BEA, asked.waiting!))).toBe('allocation.open')
  const again = await post([{ customer: 'P1', method: 'transfer', credits: [await part('CN-2', 8050)] }])
  await signRequest(books.database, BEA, again.waiting!)
  expect((await refunds())[0]![0]).toBe('RF-00001')
  expect(await verifyLedger(books.database)).toEqual([])
})

test('bad input: above the credit, twice, another account, not allowed, bank details not confirmed', async () => {
  const one = await part('CN-1', 12_000)
  const ask = (over: object) =>
    refusal(post([{ customer: 'P1', method: 'transfer', credits: [one], ...over }]))
  expect(await ask({ credits: [{ ...one, amount: 12_001 }] })).toBe('allocation.open')
  expect(await ask({ credits: [one, one] })).toBe('refund.twice')
  expect(await ask({ credits: [one, await part('CN-3', 100)] })).toBe('refund.credit')
  expect(await ask({ customer: 'P2' })).toContain('refund.credit')
  expect(await ask({ method: 'card' })).toBe('refund.card')
  expect(await ask({ customer: 'P9' })).toBe('refund.customer')
  await books.database.run(`UPDATE customer SET refunds = 'no' WHERE number = 'P1'`)
  expect(await ask({})).toBe('refund.allowed')
  await books.database.run(`UPDATE customer SET refunds = '', bank_changed_by = 1 WHERE number = 'P1'`)
  expect(await ask({})).toBe('refund.bank-changed')
  await books.database.run(`UPDATE customer SET iban = '', bank_changed_by = NULL WHERE number = 'P1'`)
  expect(await ask({})).toBe('refund.account')
  expect(await balance('1230')).toBe(0)
})

test('back to the card: given to the terminal once, what it refuses is open again with a task', async () => {
  const card = async (reference: string, amount: number) =>
    (
      await postIntent(
        books.database,
        books.actor,
        await intents.receipt(books.database, {
          ...{ customer: 'P2', currency: 'EUR', date: TODAY, onAccount: amount },
          means: [{ means: 'card', amount, reference }],
        }),
      )
    ).receipt!.id
  const [paid, dead, lost] = [await card('C-1', 2500), await card('C-2', 3100), await card('C-3', 900)]
  const back = (itemId: number, amount: number) => ({
    ...{ customer: 'P2', method: 'card', credits: [{ itemId, amount }] },
  })
  const both = { ...back(paid, 2500), credits: [paid, dead].map(itemId => ({ itemId, amount: 100 })) }
  expect(await refusal(post([both]))).toBe('refund.card-one')
  await post([back(paid, 2500), back(dead, 3100), back(lost, 900)])
  const asked: CardRefund[] = []
  let reached = true
  const terminal: CardTerminal = {
    refund: async ask => {
      asked.push(ask)
      if (!reached) throw new Error('the line is down')
      return ask.reference === 'C-2'
        ? { taken: false, code: 'AC06', text: 'the card is blocked' }
        : { taken: true, slip: `T-${ask.key}` }
    },
  }
  const pay = () => payByCard(books.database, books.actor, terminal)
  reached = false
  await expect(pay()).rejects.toThrow('the line is down')
  const first = (await listRefunds(books.database, { state: 'all', limit: 9 })).items.at(-1)!
  // Whether the terminal paid is not known: nobody takes it back by hand.
  expect(first).toMatchObject({ state: 'waits', told: expect.stringContaining('was lost') as unknown })
  expect(await refusal(undoRefund(books.database, books.actor, first.id, 'no'))).toBe('refund.card-asked')
  reached = true
  const [one, two] = await Promise.all([pay(), pay()])
  expect(one.paid + two.paid).toBe(2)
  expect([...one.refused, ...two.refused]).toEqual([
    { number: 'RF-00002', why: 'Account is blocked: the card is blocked' },
  ])
  expect(new Set(asked.map(a => `${a.key} ${a.reference} ${a.amount}`)).size).toBe(3)
  expect((await refunds()).map(r => r[1])).toEqual(['sent', 'refused', 'sent'])
  const tasks = await books.database.select<{ text: string }>(
    `SELECT text FROM message WHERE text LIKE '%RF-00002%'`,
  )
  expect(tasks).toHaveLength(1)
  expect(await pay()).toEqual({ paid: 0, refused: [] })
  await take([line(-2500, { bookingDate: TODAY, valueDate: TODAY, text: 'CARD REFUND RF-00001' })])
  for (const l of await lines()) await acceptFirst(l.id)
  expect((await refunds()).at(-1)![1]).toBe('settled')
  await agrees()
})

test('the simulated terminal answers the same refund once, and knows payments by their slip', async () => {
  const terminal = simulatedTerminal(join(folder, 'terminal'))
  const ask = (key: string, reference: string) =>
    terminal.refund({ key, reference, amount: 100, currency: 'EUR' })
  const references = Array.from({ length: 200 }, (_, n) => `S-${n}`)
  const answers = await Promise.all(references.map(r => ask(`RF-${r}`, r)))
  expect(await Promise.all(references.map(r => ask(`RF-${r}`, r)))).toEqual(answers)
  expect(new Set(answers.map(a => a.taken))).toEqual(new Set([true, false]))
  expect(await ask('RF-none', ' ')).toMatchObject({ taken: false, code: 'AC01' })
})

test('cheques: numbers in order, none twice, void and written again, cashed by the bank line', async () => {
  await post([{ customer: 'P2', method: 'cheque', credits: [await part('CN-3', 4500)] }])
  const [refund] = (await listRefunds(books.database, { state: 'waits', limit: 5 })).items
  expect(refund).toMatchObject({ state: 'cheque' })
  const first = await writeCheque(books.database, books.actor, refund!.id, {})
  expect(first.number).toBe('000001')
  expect(await refusal(writeCheque(books.database, books.actor, refund!.id, {}))).toMatch(/^No cheque/)
  expect(await refusal(undoRefund(books.database, books.actor, refund!.id, 'no'))).toBe('refund.cheque')
  await voidCheque(books.database, books.actor, first.id, 'lost in the post')
  expect(await refusal(voidCheque(books.database, books.actor, first.id, 'again'))).toMatch(/^Not to void/)
  expect(await refusal(writeCheque(books.database, books.actor, refund!.id, { number: '1' }))).toBe(
    'cheque.twice',
  )
  const second = await writeCheque(books.database, books.actor, refund!.id, { number: '700' })
  const { pdf } = await printCheque(books.database, second.id)
  expect(pdf.subarray(0, 5).toString()).toBe('%PDF-')
  expect(await refusal(printCheque(books.database, first.id))).toMatch(/^Void/)
  // Told when nobody cashes it.
  await writeSetting(books.database, 1, 'clock', '2026-12-30')
  expect((await listCheques(books.database, { state: 'open', limit: 9 })).items).toMatchObject([
    { number: '700', late: true },
  ])
  await writeSetting(books.database, 1, 'clock', TODAY)
  await take([line(-4500, { text: 'CHEQUE 700', code: 'PMNT-ICHQ-CCHQ' })])
  expect((await readRefund(books.database, refund!.id)).state).toBe('settled')
  await agrees()
})

test('cash leaves the petty cash at once; a refund that waits is taken back, and the credit is open', async () => {
  await post([{ customer: 'P2', method: 'cash', credits: [await part('CN-3', 4500)] }])
  expect([await balance('1000'), await balance('1230')]).toEqual([-4500, 0])
  await post([{ customer: 'P1', method: 'transfer', credits: [await part('CN-2', 8050)] }])
  const [waits] = (await listRefunds(books.database, { state: 'waits', limit: 5 })).items
  await undoRefund(books.database, books.actor, waits!.id, 'the customer wants goods instead')
  expect((await credits('P1')).map(c => c.number)).toEqual(['CN-1', 'CN-2'])
  expect(await balance('1230')).toBe(0)
  expect(await verifyLedger(books.database)).toEqual([])
})

test('in pounds by version 09 and at the rate of the day; what the rate moved is told apart', async () => {
  await books.database.run(
    `INSERT INTO bank_account (name, iban, currency, account, person_id)
      VALUES ('Sterling', 'GB33BUKB20201555555555', 'GBP', '1201', 1)`,
  )
  await books.database.run(
    `INSERT INTO ledger_account (number, name, type) VALUES ('1201', 'Sterling', 'asset')`,
  )
  await writeSetting(books.database, 1, 'chart', 99)
  await post([{ customer: 'P3', method: 'transfer', credits: [await part('CN-4', 6000)] }])
  const made = await makeTransferFile(books.database, books.actor, { currency: 'GBP' })
  expect(made).toMatchObject({ format: 'pain.001.001.09', currency: 'GBP' })
  const [sums] = await books.database.select<{ n: unknown }>(
    `SELECT SUM(base_amount) AS n FROM journal_line WHERE customer_id = (SELECT id FROM customer WHERE number = 'P3')
      AND account = '1100'`,
  )
  expect(Number(sums!.n)).toBe(0)
  expect(await verifyLedger(books.database)).toEqual([])
})

test('small credits that nobody claims become income or stay owed, by the rule of the country', async () => {
  const lapse = { days: 30, byCountry: { IE: { days: 10, to: 'owed' as const } }, most: 5000 }
  await writeSetting(books.database, 1, 'paymentPolicy', { lapse })
  const ask = async (numbers: string[], to: 'income' | 'owed') =>
    postLapse(books.database, books.actor, {
      itemIds: await Promise.all(numbers.map(itemId)),
      to,
      reason: 'small',
    })
  expect(await refusal(ask(['CN-1'], 'income'))).toBe('lapse.large')
  expect(await refusal(ask(['CN-3'], 'income'))).toBe('lapse.country')
  const { waiting } = await ask(['CN-3'], 'owed')
  await signRequest(books.database, BEA, waiting!)
  expect([await balance('2310'), await balance('4910')]).toEqual([-4500, 0])
  expect(await credits('P2')).toEqual([])
  expect(await verifyLedger(books.database)).toEqual([])
})
