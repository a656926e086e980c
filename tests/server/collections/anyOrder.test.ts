import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { mandateBody } from '../../../contract/collections'
import { addBankWorkingDays } from '../../../core/calendar'
import type { BankAnswer } from '../../../core/payments'
import { writeCamt } from '../../../formats/statements'
import { writePain002 } from '../../../formats/payments'
import { readSettings, writeSetting } from '../../../server/db/settings'
import { LedgerRefused, perform } from '../../../server/ledger/command'
import { verifyLedger } from '../../../server/ledger/verify'
import { addBankAccount } from '../../../server/services/banking/accounts'
import { acceptLine } from '../../../server/services/banking/accept'
import { listLines, readLine } from '../../../server/services/banking/lines'
import { takeStatement } from '../../../server/services/banking/statements'
import { undoLine } from '../../../server/services/banking/unmatch'
import { collectDue } from '../../../server/services/collections/collect'
import { confirmCollection } from '../../../server/services/collections/confirm'
import { discardRun } from '../../../server/services/collections/drop'
import { makeDebitFiles } from '../../../server/services/collections/files'
import { listCollections, listRuns } from '../../../server/services/collections/lists'
import { addMandate } from '../../../server/services/collections/mandates'
import { returnCollection } from '../../../server/services/collections/returns'
import { workReturn } from '../../../server/services/collections/rework'
import { proposeRun } from '../../../server/services/collections/runs'
import { ProblemError } from '../../../server/services/common/problems'
import { takeAnswer } from '../../../server/services/payments/answers'
import { listFiles } from '../../../server/services/payments/files'
import { sendFile, takeFileBack } from '../../../server/services/payments/send'
import { reverseCommand, unallocateCommand } from '../../../server/services/receipts/commands'
import { listCredits } from '../../../server/services/refunds/credits'
import { voidCheque, writeCheque } from '../../../server/services/refunds/cheques'
import { makeTransferFile } from '../../../server/services/refunds/files'
import { postRefunds } from '../../../server/services/refunds/post'
import { listRefunds } from '../../../server/services/refunds/refunds'
import { undoRefund } from '../../../server/services/refunds/undo'
import { chance, type Chance } from '../../../simulators/chance'
import { customers, documents, freshBooks, type Books } from '../database'
import { acceptBody } from '../../../contract/banking/lines'

/*
 * Whatever the order in which refunds and direct debits are made, sent, answered, settled, returned and taken
 * back: every euro is in exactly one place after every step, and undoing all brings back the start.
 */

const IBAN = 'IE64IRCE92050112345678'
let books: Books
let c: Chance
let stands = 0
let serial = 0

async function begin(seed: string): Promise<void> {
  process.env.BILANCIO_BANK = mkdtempSync(join(tmpdir(), 'bilancio-bank-'))
  books = await freshBooks()
  c = chance(seed)
  stands = 0
  await customers(
    books,
    `number,name,country,currency,email,iban
A1,Able,IE,EUR,a1@x.example,IE29AIBK93115212345678
A2,Baker,DE,EUR,,DE89370400440532013000
A3,Charlie,FR,EUR,,FR1420041010050500013M02606
`,
  )
  await documents(
    books,
    `number,kind,customer,date,due_date,currency,amount
${['A1', 'A2', 'A3']
  .flatMap((a, n) => [
    `${a}-1,invoice,${a},2026-10-01,2026-10-31,EUR,${100 + n}.00`,
    `${a}-2,invoice,${a},2026-10-10,2026-11-09,EUR,${250 + n}.50`,
    `${a}-3,invoice,${a},2026-11-01,2026-12-01,EUR,${75 + n}.25`,
    `${a}-4,credit-note,${a},2026-10-20,,EUR,${40 + n}.00`,
    `${a}-5,credit-note,${a},2026-11-02,,EUR,${15 + n}.10`,
  ])
  .join('\n')}
`,
  )
  await addBankAccount(books.database, 1, {
    name: 'Current',
    iban: IBAN,
    currency: 'EUR',
    account: '1200',
    csvMap: null,
  })
  await books.database.run(`UPDATE customer SET method = 'direct-debit'`)
  await writeSetting(books.database, 1, 'signOff', { refund: { EUR: 1_000_000 } })
  await writeSetting(books.database, 1, 'matching', { automatic: false, wrongCosts: 40 })
  await writeSetting(books.database, 1, 'paymentPolicy', {
    ...{ creditorId: 'DE98ZZZ09999999999', noticeDays: 1, againTimes: 2, creditsFirst: seed.endsWith('1') },
  })
  for (const [customer, iban, scheme] of [
    ['A1', 'IE29AIBK93115212345678', 'CORE'],
    ['A2', 'DE89370400440532013000', 'B2B'],
    ['A3', 'FR1420041010050500013M02606', 'CORE'],
  ] as const)
    await addMandate(books.database, books.actor, {
      ...mandateBody.parse({ signedOn: '2026-01-15', iban, scheme }),
      customer,
    })
}

const db = () => books.database
const today = async () => (await readSettings(db())).today
const refundRows = async (state: 'all' | 'open' | 'waits' = 'all') =>
  (await listRefunds(db(), { state, limit: 200 })).items
const files = async () => (await listFiles(db(), { limit: 200 })).items
const pickOf = <T>(list: readonly T[]): T | null => (list.length ? c.pick(list) : null)

async function statement(amount: number, over: object): Promise<void> {
  const day = await today()
  const line = {
    ...{
      bookingDate: day,
      valueDate: day,
      amount,
      name: '',
      iban: '',
      text: '',
      reference: '',
      endToEndId: '',
    },
    ...{ bankReference: `B${++serial}`, code: 'PMNT-RCDT-ESCT', returnReason: '' },
    ...over,
  }
  const xml = writeCamt(
    {
      ...{
        format: 'camt.053' as const,
        id: `S-${serial}`,
        account: IBAN,
        currency: 'EUR',
        from: day,
        to: day,
      },
      ...{ opening: stands, closing: stands + amount, lines: [line] },
    },
    `${day}T22:00:00`,
  )
  stands += amount
  await takeStatement(db(), books.actor, Buffer.from(xml), { name: `s${serial}.xml` })
}

type Told = Pick<BankAnswer, 'status' | 'payments'>

/** The bank answers a file, and its answer is read twice: that does no harm. */
async function bankAnswers(file: { number: string; format: string }, { status, payments }: Told) {
  const told: BankAnswer = {
    ...{
      id: `ST${++serial}`,
      fileId: file.number,
      code: status === 'RJCT' ? 'FF01' : '',
      text: '',
      blocks: [],
    },
    ...{ status, payments },
  }
  const xml = writePain002({
    ...{ answer: told, of: file.format, createdAt: '2026-11-16T19:00:00', bank: { name: 'B', bic: '' } },
    blockOf: () => `${file.number}-1`,
  })
  await takeAnswer(db(), books.actor, Buffer.from(xml), 'a.xml')
  await takeAnswer(db(), books.actor, Buffer.from(xml), 'a.xml')
}

const refusal = (endToEndId: string, code: string) => ({ endToEndId, status: 'RJCT', code, text: '' })

async function answer(): Promise<void> {
  const kind = c.pick(['transfer', 'debit'])
  const inWork = (await files()).filter(f => ['sent', 'accepted', 'partly'].includes(f.state))
  const file = pickOf(inWork.filter(f => f.kind === kind)) ?? pickOf(inWork)
  if (!file) return
  const ids = (
    await db().select<{ n: string }>(
      `SELECT i.number AS n FROM refund f JOIN item i ON i.id = f.item_id WHERE f.file_id = :id
        UNION ALL SELECT number FROM collection WHERE file_id = :id`,
      { id: file.id },
    )
  ).map(r => r.n)
  const one = pickOf(ids)
  const status = c.pick(['ACCP', 'ACCP', 'RJCT', 'PART', 'PART'])
  const payments = status === 'PART' && one ? [refusal(one, c.pick(['AC04', 'AM04', 'MS03']))] : []
  await bankAnswers(file, { status, payments })
}

/** What the bank shows of a file: as one sum, one by one, or a payment that comes back. */
async function bankShows(): Promise<void> {
  const paid = (await refundRows('open')).filter(r => r.file && r.state === 'sent')
  const collected = (await listCollections(db(), { only: 'not-final', limit: 100 })).items
  if (c.happens(0.5)) {
    const one = pickOf(paid)
    if (one) await statement(-one.amount, { endToEndId: one.number })
    const debit = pickOf(collected)
    if (debit) await statement(debit.amount, { endToEndId: debit.number ?? '' })
  } else {
    const file = pickOf((await files()).filter(f => f.state !== 'made' && f.state !== 'taken-back'))
    if (file)
      await statement(file.kind === 'debit' ? file.total : -file.total, { text: `SUM ${file.number}` })
  }
  const settled = pickOf((await refundRows()).filter(r => r.state === 'settled' && r.method === 'transfer'))
  if (settled && c.happens(0.3))
    await statement(settled.amount, {
      endToEndId: settled.number,
      returnReason: 'AC04',
      text: `RETURN ${settled.number}`,
    })
  const back = pickOf(collected)
  if (back && c.happens(0.3))
    await statement(-back.amount, {
      endToEndId: back.number ?? '',
      returnReason: 'AM04',
      text: `RETURN ${back.number}`,
    })
}

async function acceptOne(): Promise<void> {
  const open = pickOf((await listLines(db(), { state: 'open', limit: 100 })).items)
  if (!open) return
  const { proposal, version } = await readLine(db(), open.id)
  if (!proposal) return
  await acceptLine(
    db(),
    books.actor,
    open.id,
    acceptBody.parse({ version, proposed: true, action: proposal.action }),
  )
}

const STEPS: [weight: number, name: string, run: () => Promise<unknown>][] = [
  [
    5,
    'new documents',
    async () => {
      const customer = c.pick(['A1', 'A2', 'A3'])
      const day = await today()
      const amount = () => `${c.whole(20, 400)}.${c.whole(10, 99)}`
      serial++
      await documents(
        books,
        `number,kind,customer,date,due_date,currency,amount
N-${serial}-I,invoice,${customer},${day},${day},EUR,${amount()}
N-${serial}-C,credit-note,${customer},${day},,EUR,${amount()}
`,
      )
    },
  ],
  [
    6,
    'refund',
    async () => {
      const credit = pickOf((await listCredits(db(), { only: 'all', limit: 100 })).items)
      if (!credit) return
      const amount = c.happens(0.6) ? credit.open : c.whole(1, credit.open)
      const method = c.pick(['transfer', 'transfer', 'cash', 'cheque'] as const)
      const refund = { customer: credit.customer.number, method, credits: [{ itemId: credit.id, amount }] }
      await postRefunds(db(), books.actor, { refunds: c.happens(0.15) ? [refund, refund] : [refund] })
    },
  ],
  [
    2,
    'undo a refund',
    async () => {
      const one = pickOf(await refundRows())
      if (one) await undoRefund(db(), books.actor, one.id, 'undone')
    },
  ],
  [
    2,
    'cheque',
    async () => {
      const one = pickOf((await refundRows()).filter(r => r.method === 'cheque'))
      if (one?.cheque) await voidCheque(db(), books.actor, one.cheque.id, 'void')
      else if (one) await writeCheque(db(), books.actor, one.id, {})
    },
  ],
  [5, 'file of refunds', () => makeTransferFile(db(), books.actor, { currency: 'EUR' })],
  [
    5,
    'send a file',
    async () => {
      const all = await files()
      const made = all.filter(f => f.state === 'made')
      const file = pickOf(made.length && c.happens(0.9) ? made : all)
      if (file)
        await Promise.allSettled([sendFile(db(), books.actor, file.id), sendFile(db(), books.actor, file.id)])
    },
  ],
  [
    2,
    'take a file back',
    async () => {
      const file = pickOf(await files())
      if (file) await takeFileBack(db(), books.actor, file.id, 'lost')
    },
  ],
  [5, 'answer', answer],
  [9, 'the bank shows', bankShows],
  [12, 'accept a line', acceptOne],
  [
    1,
    'unmatch a line',
    async () => {
      const line = pickOf((await listLines(db(), { state: 'settled', limit: 100 })).items)
      if (line)
        await undoLine(db(), books.actor, line.id, {
          version: (await readLine(db(), line.id)).version,
          reason: 'no',
        })
    },
  ],
  [
    4,
    'collect',
    async () => {
      const collectOn = addBankWorkingDays(await today(), c.whole(2, 4))
      const run = await proposeRun(db(), books.actor, { collectOn })
      await confirmCollection(db(), books.actor, run.id, run.version)
    },
  ],
  [
    8,
    'files of a collection',
    async () => {
      // Mostly one that can go; now and then any, too early, too late, or gone already.
      const waits = await db().select<{ id: number }>(
        `SELECT DISTINCT run_id AS id FROM collection WHERE state = 'announced' AND file_id IS NULL`,
      )
      const runs = (await listRuns(db(), { limit: 50 })).items
      const run = pickOf(c.happens(0.8) ? runs.filter(r => waits.some(w => w.id === r.id)) : runs)
      if (!run) return
      const tooLate = addBankWorkingDays(await today(), 1) > run.collectOn
      if (run.state === 'proposed') await confirmCollection(db(), books.actor, run.id, run.version)
      else if (tooLate || c.happens(0.1))
        await discardRun(db(), books.actor, run.id, { version: run.version, reason: 'no' })
      else await makeDebitFiles(db(), books.actor, run.id)
    },
  ],
  [
    4,
    'a day passes',
    async () => {
      await writeSetting(db(), 1, 'clock', addBankWorkingDays(await today(), 1))
      await collectDue(db())
    },
  ],
  [
    2,
    'a debit comes back',
    async () => {
      const one = pickOf((await listCollections(db(), { only: 'all', limit: 100 })).items)
      if (one)
        await returnCollection(db(), books.actor, one.id, { code: c.pick(['AM04', 'MD01', 'AC04']), fee: 0 })
    },
  ],
  [
    2,
    'work what came back',
    async () => {
      const one = pickOf((await listCollections(db(), { only: 'back', limit: 100 })).items)
      if (one) await workReturn(db(), books.actor, one.id, c.pick(['again', 'chase', 'again'] as const))
    },
  ],
]
const ALL = STEPS.reduce((a, [w]) => a + w, 0)

/** One step; what is refused with a reason is as good as what is done. */
async function step(): Promise<string> {
  let at = c.whole(1, ALL)
  const [, name, run] = STEPS.find(([w]) => (at -= w) <= 0)!
  try {
    await run()
    return name
  } catch (error) {
    if (error instanceof LedgerRefused || error instanceof ProblemError) return `${name}: refused`
    throw new Error(`${name}: ${(error as Error).message}`, { cause: error })
  }
}

/** Undoes all that can be: what is collected comes back, what waits is taken back. */
async function undoAll(): Promise<void> {
  for (const { id } of (await listLines(db(), { state: 'settled', limit: 200 })).items) {
    const { version } = await readLine(db(), id)
    await undoLine(db(), books.actor, id, { version, reason: 'undone' }).catch(refusedOnly)
  }
  for (const one of (await listCollections(db(), { only: 'all', limit: 200 })).items)
    if (one.state === 'collected')
      await returnCollection(db(), books.actor, one.id, { code: 'MD01', fee: 0 }).catch(refusedOnly)
  // What is too late for the scheme is taken back as any receipt is.
  const late = await db().select<{ itemId: number }>(
    `SELECT receipt_item_id AS itemId FROM collection WHERE state = 'collected'`,
  )
  for (const { itemId } of late)
    await perform(db(), books.actor, reverseCommand, {
      ...{ itemId, date: await today(), reason: 'undone', fee: 0 },
    })
  for (const file of await files())
    await takeFileBack(db(), books.actor, file.id, 'undone').catch(refusedOnly)
  // What the bank has in work comes back only by its own word.
  for (const file of (await files()).filter(f => f.kind === 'transfer'))
    for (const one of (await refundRows('open')).filter(r => r.file?.id === file.id))
      await bankAnswers(file, { status: 'PART', payments: [refusal(one.number, 'MS03')] }).catch(refusedOnly)
  for (const one of await refundRows()) {
    if (one.cheque) await voidCheque(db(), books.actor, one.cheque.id, 'undone').catch(refusedOnly)
    await undoRefund(db(), books.actor, one.id, 'undone').catch(refusedOnly)
  }
}
/** A credit set off before the rest was collected stays so when that comes back: it is undone apart. */
async function undoSetOff(): Promise<void> {
  const live = await db().select<{ customer: string; id: number }>(
    `SELECT n.number AS customer, a.id FROM allocation a JOIN customer n ON n.id = a.customer_id
      JOIN item d ON d.id = a.debit_item_id JOIN item k ON k.id = a.credit_item_id
      WHERE a.undoes_id IS NULL AND d.register = 'document' AND k.register = 'document'
      AND NOT EXISTS (SELECT 1 FROM allocation u WHERE u.undoes_id = a.id) ORDER BY a.id`,
  )
  for (const { customer, id } of live)
    await perform(db(), books.actor, unallocateCommand, {
      ...{ customer, date: await today(), allocationIds: [id], reason: 'undone' },
    })
}
const refusedOnly = (error: unknown): void => {
  if (!(error instanceof LedgerRefused) && !(error instanceof ProblemError)) throw error
}

const opens = async () =>
  db().select<{ number: string; open: number }>(
    `SELECT i.number, o.open FROM open_item o JOIN item i ON i.id = o.item_id WHERE i.register = 'document'
      ORDER BY i.number`,
  )

/** Every document as it was before anything was paid, refunded or set off. */
const whole = async () =>
  db().select<{ number: string; open: number }>(
    `SELECT number, IF(side = 'debit', amount, -amount) AS open FROM item WHERE register = 'document'
      ORDER BY number`,
  )

/** What has really happened of each kind, not only been tried. */
async function happened(): Promise<string[]> {
  const [row] = await db().select<Record<string, unknown>>(
    `SELECT
      (SELECT COUNT(*) FROM bank_match_target WHERE kind = 'refund') AS refundSettled,
      (SELECT COUNT(*) FROM bank_match_target t JOIN receipt_means m ON m.id = t.ref_id AND m.means = 'debit'
        WHERE t.kind = 'means') AS debitSettled,
      (SELECT COUNT(*) FROM refund WHERE reason <> '') AS refundRefused,
      (SELECT COUNT(*) FROM collection WHERE state = 'refused') AS debitRefused,
      (SELECT COUNT(*) FROM collection WHERE state = 'returned') AS debitReturned,
      (SELECT COUNT(*) FROM collection WHERE times > 0) AS presentedAgain,
      (SELECT COUNT(*) FROM payment_file WHERE state = 'rejected') AS fileRejected,
      (SELECT COUNT(*) FROM payment_file WHERE state = 'taken-back') AS fileTakenBack,
      (SELECT COUNT(*) FROM refund_cheque WHERE void_on IS NOT NULL) AS chequeVoid`,
  )
  return Object.keys(row!).filter(k => Number(row![k]) > 0)
}
/** Over all orders. */
const seen = new Set<string>()
afterAll(() => {
  expect([...seen].sort()).toEqual([
    ...['chequeVoid', 'debitRefused', 'debitReturned', 'debitSettled', 'fileRejected', 'fileTakenBack'],
    ...['presentedAgain', 'refundRefused', 'refundSettled'],
  ])
})

describe.each(['order 1', 'order 2', 'order 3'])('%s', seed => {
  beforeAll(() => begin(seed))
  afterAll(async () => {
    delete process.env.BILANCIO_BANK
    await books.close()
  })
  test('every euro is in exactly one place, whatever comes first', async () => {
    expect(await opens()).toEqual(await whole())
    const done: string[] = []
    for (let n = 0; n < 250; n++) {
      done.push(await step())
      if (n % 5 === 4) {
        const wrong = await verifyLedger(db())
        if (wrong.length) throw new Error(`${JSON.stringify(wrong)} after ${done.slice(-5).join(', ')}`)
      }
    }
    // Chance has done something of each kind, not only been refused.
    expect(new Set(done.filter(d => !d.includes(':'))).size).toBeGreaterThanOrEqual(12)
    await undoAll()
    await undoSetOff()
    expect(await verifyLedger(db())).toEqual([])
    const twice = await db().select(
      `SELECT t.item_id FROM collection_item t JOIN collection k ON k.id = t.collection_id
          WHERE k.state IN ('announced', 'sent', 'collected') GROUP BY t.item_id HAVING COUNT(*) > 1`,
    )
    expect(twice).toEqual([])
    expect(await stillPaid()).toBe(0)
    expect(await opens()).toEqual(await whole())
    for (const one of await happened()) seen.add(one)
  }, 240_000)
})

/** What no undoing reaches: cash that was handed out, and lines that were sent back for good. */
async function stillPaid(): Promise<number> {
  const [row] = await db().select<{ n: unknown }>(
    `SELECT (SELECT COUNT(*) FROM refund f WHERE NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = f.item_id))
      + (SELECT COUNT(*) FROM collection WHERE state = 'collected') AS n`,
  )
  return Number(row!.n)
}
