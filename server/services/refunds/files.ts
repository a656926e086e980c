import { z } from 'zod'
import { cell } from '../../db/rows'
import { addBankWorkingDays, isBankWorkingDay, type IsoDate } from '../../../core/calendar'
import type { PaymentFileRow } from '../../../contract/payments'
import { sepaText, writePain001, type Payment } from '../../../formats/payments'
import type { Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { once, type Idempotency } from '../../ledger/idempotency'
import { takeLocks } from '../../ledger/locks'
import { takeNumbers } from '../../ledger/series'
import { ProblemError } from '../common/problems'
import { keepFile, ownAccount, readFile } from '../payments/files'
import type { Actor } from '../people/scope'
import { REFUND_WAITS } from './refunds'

const waitingRow = z.object({
  id: cell.whole,
  number: cell.text,
  customerId: cell.whole,
  amount: cell.whole,
  iban: cell.text,
  bic: cell.text,
  holder: cell.text,
  text: cell.text,
  street: cell.text,
  postcode: cell.text,
  city: cell.text,
  country: cell.text,
  changed: cell.whole,
})
type Waiting = z.output<typeof waitingRow>

const WAITING = `SELECT i.id, i.number, i.customer_id AS customerId, i.amount, f.iban, f.bic, f.holder, i.text, c.street,
    c.postcode, c.city, c.country, c.bank_changed_by IS NOT NULL AS changed
  FROM refund f JOIN item i ON i.id = f.item_id JOIN customer c ON c.id = i.customer_id
  WHERE f.method = 'transfer' AND i.currency = :currency AND ${REFUND_WAITS}`

const CHUNK = 5000

async function waiting(db: Handle, currency: string, ids: readonly number[] | undefined): Promise<Waiting[]> {
  if (ids === undefined) return db.rows(waitingRow, `${WAITING} ORDER BY i.id`, { currency })
  const rows: Waiting[] = []
  for (let at = 0; at < ids.length; at += CHUNK)
    rows.push(
      ...(await db.rows(waitingRow, `${WAITING} AND i.id IN (:some) ORDER BY i.id`, {
        currency,
        some: ids.slice(at, at + CHUNK),
      })),
    )
  return rows
}

export interface FileAsk {
  refunds?: number[]
  currency: string
  executeOn?: string
}

function dayOf(ask: FileAsk, { today }: Settings): IsoDate {
  const day = ask.executeOn ?? (isBankWorkingDay(today) ? today : addBankWorkingDays(today, 1))
  const wrong = day < today ? 'that day is over' : isBankWorkingDay(day) ? '' : 'no bank works on that day'
  if (wrong) {
    const satisfy = addBankWorkingDays(today, 1)
    throw new ProblemError(422, 'Not a day to pay', `${day}: ${wrong}`, [
      { path: 'executeOn', message: wrong, satisfy: `${satisfy}, or another day on which banks work` },
    ])
  }
  return day
}

/** What the bank will read differently from how it is written; a few of them. */
function differences(rows: readonly Waiting[]): string[] {
  const told = rows.flatMap(r => {
    const { text, changed } = sepaText(r.holder, 70)
    return changed ? [`${r.holder} is written ${text}`] : []
  })
  return [...new Set(told)].slice(0, 20)
}

/** Makes a file of refunds that wait; each is in one file only. Answers the file. */
export async function makeTransferFile(
  database: Handle,
  actor: Actor,
  ask: FileAsk,
  idempotency?: Idempotency,
): Promise<PaymentFileRow & { told: string[] }> {
  const settings = await readSettings(database)
  const { company, house, paymentPolicy, today } = settings
  const executeOn = dayOf(ask, settings)
  const account = await ownAccount(database, { currency: ask.currency })
  const made = await once(database, actor, idempotency, async tx => {
    // Whoever makes a file of this account comes after us; whoever undoes a refund meanwhile waits, too.
    await takeLocks(tx, { bankAccounts: [account.id] })
    const before = await waiting(tx, ask.currency, ask.refunds)
    await takeLocks(tx, { customers: before.map(r => r.customerId) })
    const rows = await waiting(tx, ask.currency, ask.refunds)
    checkRows(rows, ask)
    const number = (await takeNumbers(tx, 'payment-file', 1))(0)
    const payments = rows.map(paymentOf)
    const format = ask.currency === 'EUR' ? paymentPolicy.transferFormat : 'pain.001.001.09'
    const { street, postcode, city, country } = house
    const own = {
      name: company,
      iban: account.iban,
      bic: account.bic,
      address: { street, postcode, city, country },
    }
    const content = writePain001({
      format,
      id: number,
      createdAt: `${today}T${new Date().toISOString().slice(11, 19)}`,
      currency: ask.currency,
      own,
      date: executeOn,
      payments,
    })
    const id = await keepFile(tx, actor.id, today, {
      number,
      kind: 'transfer',
      scheme: '',
      format,
      bankAccountId: account.id,
      currency: ask.currency,
      executeOn,
      payments: payments.length,
      total: payments.reduce((sum, p) => sum + p.amount, 0),
      content,
    })
    for (let at = 0; at < rows.length; at += CHUNK)
      await tx.update('refund', { file_id: id }, { item_id: rows.slice(at, at + CHUNK).map(r => r.id) })
    return { id, told: differences(rows) }
  })
  return { ...(await readFile(database, made.id)), told: made.told }
}

function checkRows(rows: readonly Waiting[], ask: FileAsk): void {
  if (!rows.length)
    throw new ProblemError(
      409,
      'Nothing waits',
      `no refund by transfer in ${ask.currency} waits for a file: reload to see what became of them`,
    )
  if (ask.refunds && rows.length !== new Set(ask.refunds).size)
    throw new ProblemError(
      409,
      'Changed meanwhile',
      'some of these refunds are in a file already, or were taken back: reload the list',
    )
  const changed = rows.find(r => r.changed)
  if (changed)
    throw new ProblemError(
      409,
      'Bank details changed',
      `the bank details of ${changed.holder} were changed after ${changed.number} was made: confirm them in ` +
        'Sign-off, or take the refund back',
      [{ path: changed.number, message: 'bank details not confirmed', satisfy: 'confirm them in Sign-off' }],
    )
}

const paymentOf = (r: Waiting): Payment => ({
  endToEndId: r.number,
  amount: r.amount,
  party: {
    name: r.holder,
    iban: r.iban,
    bic: r.bic,
    address: { street: r.street, postcode: r.postcode, city: r.city, country: r.country },
  },
  text: `${r.number} ${r.text}`.slice(0, 140),
})
