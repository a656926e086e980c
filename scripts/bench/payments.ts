import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { writePain002 } from '../../formats/payments'
import { addBankWorkingDays } from '../../core/calendar'
import { readSettings, writeSetting } from '../../server/db/settings'
import { collectDue } from '../../server/services/collections/collect'
import { confirmCollection } from '../../server/services/collections/confirm'
import { makeDebitFiles } from '../../server/services/collections/files'
import { proposeRun } from '../../server/services/collections/runs'
import { importDocuments } from '../../server/services/documents/imports'
import { makeTransferFile } from '../../server/services/refunds/files'
import { postRefunds } from '../../server/services/refunds/post'
import { takeAnswer } from '../../server/services/payments/answers'
import { sendFile } from '../../server/services/payments/send'
import { actor, database, small, TODAY } from './base'
import { tell } from './image'

const REFUNDS = small ? 100 : 10_000
const COLLECTIONS = small ? 200 : 20_000
const RETURNS = small ? 20 : 1000
const count = (n: number) => n.toLocaleString('en')
const megabytes = () => Math.round(process.memoryUsage().rss / 1024 / 1024)

async function taken<T>(what: string, goal: string, work: () => Promise<T>): Promise<T> {
  let most = 0
  const watch = setInterval(() => (most = Math.max(most, megabytes())), 100)
  const begun = performance.now()
  const made = await work()
  const seconds = ((performance.now() - begun) / 1000).toFixed(1)
  clearInterval(watch)
  tell(what, `${seconds} s${goal}, ${Math.max(most, megabytes())} MB`)
  return made
}

const customer = (n: number) => `B${String(n).padStart(6, '0')}`

/** Credits of so many customers and mandates of so many others, as imports would leave them. */
async function prepare(): Promise<void> {
  const lines = Array.from(
    { length: REFUNDS },
    (_, n) => `BACK-${n + 1},credit-note,${customer(n + 1)},2026-11-02,EUR,${1 + (n % 900)}.25`,
  )
  await importDocuments(
    database,
    actor,
    `number,kind,customer,date,currency,amount\n${lines.join('\n')}`,
    { dryRun: false, skipExisting: false },
    async () => {},
  )
  await database.run(`UPDATE customer SET iban = 'IE29AIBK93115212345678' WHERE id <= ${REFUNDS}`)
  const { paymentPolicy } = await readSettings(database)
  await writeSetting(database, 1, 'paymentPolicy', { ...paymentPolicy, creditorId: 'DE98ZZZ09999999999' })
  await writeSetting(database, 1, 'signOff', { refund: { EUR: 100_000_000 } })
  const first = REFUNDS + 1
  const last = REFUNDS + COLLECTIONS
  await database.run(`UPDATE customer SET method = 'direct-debit' WHERE id BETWEEN ${first} AND ${last}`)
  await database.run(
    `INSERT INTO mandate (customer_id, reference, scheme, used_for, signed_on, iban, bic, holder, state,
      state_why, ends_next, was_reference, was_iban, was_creditor, person_id)
      SELECT seq, CONCAT('M-', seq), 'CORE', 'recurring', '2026-01-15', 'IE29AIBK93115212345678', '', '', 'active',
        '', 0, '', '', '', 1 FROM seq_${first}_to_${last}`,
  )
}

async function refunds(): Promise<void> {
  const credits = await database.select<{ customer: string; itemId: number; amount: number }>(
    `SELECT c.number AS customer, i.id AS itemId, i.amount FROM item i JOIN customer c ON c.id = i.customer_id
      WHERE i.number LIKE 'BACK-%'`,
  )
  await taken(`${count(credits.length)} refunds posted`, ' (goal 60)', () =>
    postRefunds(database, actor, {
      refunds: credits.map(({ customer: number, itemId, amount }) => ({
        customer: number,
        method: 'transfer' as const,
        reason: '',
        credits: [{ itemId, amount }],
      })),
    }),
  )
  await taken(`${count(credits.length)} refunds to a file`, ' (goal 20)', () =>
    makeTransferFile(database, actor, { currency: 'EUR' }),
  )
}

async function collections(): Promise<void> {
  const collectOn = addBankWorkingDays(TODAY, 12)
  const run = await taken('A collection proposed', '', () => proposeRun(database, actor, { collectOn }))
  const made = count(run.totals.collections)
  await taken(`${made} collections announced, with letters`, '', () =>
    confirmCollection(database, actor, run.id, run.version),
  )
  const { run: sent } = await taken(`${made} collections to a file`, ' (goal 20)', () =>
    makeDebitFiles(database, actor, run.id),
  )
  for (const file of sent.files) await sendFile(database, actor, file.id)
  await writeSetting(database, 1, 'clock', collectOn)
  await taken(`${made} collections posted`, ' (goal 60)', () => collectDue(database, actor))
  const [file] = sent.files
  const back = await database.select<{ endToEndId: string }>(
    `SELECT number AS endToEndId FROM collection WHERE state = 'collected' AND file_id = :id ORDER BY id
      LIMIT ${RETURNS}`,
    { id: file!.id },
  )
  const told = writePain002({
    answer: {
      ...{ id: 'BENCH', fileId: file!.number, status: 'PART', code: '', text: '', blocks: [] },
      payments: back.map(({ endToEndId }) => ({ endToEndId, status: 'RJCT', code: 'AM04', text: '' })),
    },
    of: file!.format,
    createdAt: `${collectOn}T19:00:00`,
    bank: { name: 'Bench', bic: '' },
    blockOf: () => `${file!.number}-1`,
  })
  await taken(`${count(back.length)} returns, told by the bank`, ' (goal 10)', () =>
    takeAnswer(database, actor, Buffer.from(told), 'bench.xml'),
  )
  await writeSetting(database, 1, 'clock', TODAY)
}

/** Refunds and direct debits: to a file, posted, and back. */
export async function payments(): Promise<void> {
  process.env.BILANCIO_BANK = mkdtempSync(join(tmpdir(), 'bilancio-bench-'))
  await prepare()
  tell('Memory of the process before', `${megabytes()} MB (goal below 500 while files are made and posted)`)
  await refunds()
  await collections()
}
