import { now } from '../../db/where'
import { createHash } from 'node:crypto'
import { z } from 'zod'
import type { FileState } from '../../../core/payments'
import type { PaymentFileRow } from '../../../contract/payments'
import { fileFaults, readPain } from '../../../formats/payments'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { audit, readSettings } from '../../db/settings'
import { bankOutbox } from '../../wiring'
import { cut, decodeCursor } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'

/*
 * Files of payments: made once, handed over once, answered by the bank. What they hold is refunds or
 * collections; what both share is here.
 */

/** Our account that a file is drawn on. */
const ownAccountRow = z.object({
  id: cell.whole,
  name: cell.text,
  iban: cell.text,
  bic: cell.text,
  currency: cell.text,
})
export type OwnAccount = z.output<typeof ownAccountRow>

/** Our account by its id, or the only one of a currency. Throws a problem when there is none. */
export async function ownAccount(
  database: Handle,
  by: { id: number } | { currency: string },
): Promise<OwnAccount> {
  const { house } = await readSettings(database)
  const where = 'id' in by ? 'id = :id' : 'currency = :currency AND active = 1 ORDER BY id'
  const [row] = await database.rows(
    ownAccountRow,
    `SELECT id, name, iban, bic, currency FROM bank_account WHERE ${where} LIMIT 1`,
    { ...by },
  )
  if (!row) {
    const what = 'id' in by ? `bank account ${by.id}` : `bank account in ${by.currency}`
    throw new ProblemError(422, 'No account', `there is no ${what}: add one in Setup, Bank`, [
      { path: 'bankAccount', message: `no ${what}`, satisfy: 'add one in Setup, Bank' },
    ])
  }
  return { ...row, bic: row.bic || (row.iban === house.iban.replace(/\s/g, '') ? house.bic : '') }
}

export interface NewFile {
  number: string
  kind: 'transfer' | 'debit'
  scheme: 'CORE' | 'B2B' | ''
  format: string
  bankAccountId: number
  currency: string
  executeOn: string
  payments: number
  total: number
  content: string
}

/** Keeps a file, checked by all that no schema sees. Throws when it would be refused: a fault of ours. */
export async function keepFile(tx: Handle, personId: number, today: string, file: NewFile): Promise<number> {
  const [fault] = fileFaults(readPain(file.content), today)
  if (fault)
    throw new ProblemError(422, 'The bank would refuse this', fault.message, [
      {
        path: fault.endToEndId ?? 'file',
        message: fault.message,
        satisfy: 'correct it and make the file again',
      },
    ])
  const [id] = await tx.insert('payment_file', [
    {
      number: file.number,
      kind: file.kind,
      scheme: file.scheme,
      format: file.format,
      bank_account_id: file.bankAccountId,
      currency: file.currency,
      execute_on: file.executeOn,
      payments: file.payments,
      total: file.total,
      content: file.content,
      content_hash: createHash('sha256').update(file.content).digest('hex'),
      person_id: personId,
    },
  ])
  await audit(
    tx,
    personId,
    'payment file',
    file.number,
    null,
    `${file.payments} of ${file.total} ${file.currency}`,
  )
  return id!
}

const fileRow = z.object({
  id: cell.whole,
  number: cell.text,
  kind: z.enum(['transfer', 'debit']),
  scheme: z.enum(['CORE', 'B2B', '']),
  format: cell.text,
  account: cell.text,
  currency: cell.text,
  executeOn: cell.day,
  payments: cell.whole,
  total: cell.whole,
  state: z.enum(['made', 'sending', 'sent', 'accepted', 'partly', 'rejected', 'taken-back']),
  reason: cell.text,
  madeBy: cell.text,
  at: cell.instant,
  sentBy: cell.text.nullable(),
  sentAt: cell.instant.nullable(),
})

const FILE = `SELECT f.id, f.number, f.kind, f.scheme, f.format, b.name AS account, f.currency,
    f.execute_on AS executeOn, f.payments, f.total, f.state, f.reason, p.name AS madeBy, f.at,
    s.name AS sentBy, f.sent_at AS sentAt
  FROM payment_file f JOIN bank_account b ON b.id = f.bank_account_id JOIN person p ON p.id = f.person_id
    LEFT JOIN person s ON s.id = f.sent_by`

export async function listFiles(
  database: Handle,
  q: { kind?: 'transfer' | 'debit'; limit: number; cursor?: string },
): Promise<{ items: PaymentFileRow[]; next: string | null }> {
  const cursor = decodeCursor(q.cursor, 1)
  const where = [...(q.kind ? ['f.kind = :kind'] : []), ...(cursor ? ['f.id < :lastId'] : [])]
  const rows = await database.rows(
    fileRow,
    `${FILE} ${where.length ? `WHERE ${where.join(' AND ')}` : ''} ORDER BY f.id DESC LIMIT ${q.limit + 1}`,
    { kind: q.kind, lastId: cursor?.[0] },
  )
  return cut(rows, q.limit, r => [r.id])
}

export async function readFile(database: Handle, id: number): Promise<PaymentFileRow> {
  const [row] = await database.rows(fileRow, `${FILE} WHERE f.id = :id`, { id })
  if (!row) throw notFound(`payment file ${id}`)
  return row
}

/** The XML as it was made. */
export async function fileContent(
  database: Handle,
  id: number,
): Promise<{ number: string; content: string }> {
  const [row] = await database.find('payment_file', { id }, { columns: ['number', 'content'] })
  if (!row) throw notFound(`payment file ${id}`)
  return row
}

/** The file, held until the transaction ends. Throws a problem unless it stands in one of the states. */
export async function holdFile(
  tx: Handle,
  id: number,
  states: readonly FileState[],
): Promise<{ id: number; number: string; kind: 'transfer' | 'debit'; state: FileState }> {
  const [row] = await tx.find(
    'payment_file',
    { id },
    { columns: ['id', 'number', 'kind', 'state'], lock: true },
  )
  if (!row) throw notFound(`payment file ${id}`)
  if (!states.includes(row.state))
    throw new ProblemError(
      409,
      'Not now',
      `file ${row.number} is ${row.state.replace('-', ' ')}: reload to see what became of it`,
      [{ path: 'id', message: `it is ${row.state}`, satisfy: 'reload the list' }],
    )
  return row
}

export async function setFileState(
  tx: Handle,
  personId: number,
  file: { id: number; number: string; state: FileState },
  state: FileState,
  reason = '',
): Promise<void> {
  await tx.update('payment_file', { state, reason: reason.slice(0, 200) }, { id: file.id })
  await audit(tx, personId, 'payment file', file.number, file.state, reason ? `${state}: ${reason}` : state)
}

/**
 * Says that a file goes to the bank; once, whoever asks and however often. It is handed over after this
 * transaction, by `deliverFiles`, so that nothing reaches the bank that we do not know of.
 */
export async function markSending(tx: Handle, actor: Actor, id: number): Promise<{ number: string }> {
  const file = await holdFile(tx, id, ['made'])
  await setFileState(tx, actor.id, file, 'sending')
  await tx.update('payment_file', { sent_by: actor.id, sent_at: now() }, { id })
  return { number: file.number }
}

/** Hands over what was said to go, again after a crash in the middle. Answers how many went. */
export async function deliverFiles(database: Handle): Promise<number> {
  const waiting = await database.find(
    'payment_file',
    { state: 'sending' },
    { columns: ['id', 'number', 'content'], order: ['id'] },
  )
  for (const { id, number, content } of waiting) {
    bankOutbox().put(`${number}.xml`, content)
    await database.update('payment_file', { state: 'sent' }, { id, state: 'sending' })
  }
  return waiting.length
}
