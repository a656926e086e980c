import { z } from 'zod'
import { cell } from '../../db/rows'
import { randomUUID } from 'node:crypto'
import { sheetPdf, type LetterSheet } from '../../letters/sheet'
import type { SentLetter } from '../../../contract/letters'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'
import { notFound } from '../common/problems'
import type { Scope } from '../people/scope'
import type { Recipient } from './sheets'

export type LetterKind =
  | 'statement'
  | 'copy'
  | 'plan'
  | 'upheld'
  | 'withdrawn'
  | 'claim'
  | 'refund'
  | 'unclaimed'
  | 'notice'
  | 'assignment'

/** Who a letter goes to: with the address it is sent to, empty for the post. */
export interface Addressee extends Recipient {
  id: number
  email: string
  statementEmail: string
  statementCycle: string
}

const addresseesRow = z.object({
  id: cell.whole,
  email: cell.text,
  statementEmail: cell.text,
  statementCycle: cell.text,
  number: cell.text,
  name: cell.text,
  contact: cell.text,
  street: cell.text,
  postcode: cell.text,
  city: cell.text,
  country: cell.text,
  language: cell.text,
})

/** Those who get letters, by what is asked for. The contact for statements comes before the main address. */
export async function addressees(
  db: Handle,
  where: string,
  values: Record<string, string | number | readonly number[]>,
): Promise<Addressee[]> {
  return db.rows(
    addresseesRow,
    `SELECT c.id, c.number, c.name, c.contact, c.street, c.postcode, c.city, c.country, c.language, c.email,
      COALESCE(NULLIF((SELECT t.email FROM contact t WHERE t.customer_id = c.id AND t.statements = 1
        ORDER BY t.id LIMIT 1), ''), c.email) AS statementEmail,
      COALESCE(NULLIF(c.statement_cycle, ''), k.statement_cycle, '') AS statementCycle
      FROM customer c LEFT JOIN customer_class k ON k.code = c.class WHERE ${where} ORDER BY c.id`,
    values,
  )
}

/** The one customer of a number, within what somebody may see. */
export async function addressee(db: Handle, customerId: number): Promise<Addressee> {
  const [row] = await addressees(db, 'c.id = :customerId', { customerId })
  if (!row) throw notFound(`customer ${customerId}`)
  return row
}

/** What the letter is sent with: its own first words. */
const textOf = (sheet: LetterSheet) => `${sheet.before}\n\n${sheet.closing}`

/**
 * Keeps a letter as it is sent, and puts it on its way: by e-mail, or to be printed where no address is
 * known. Of one run a customer gets it once, however often the run begins again: answers null then.
 */
export async function sendLetter(
  tx: Handle,
  actor: { id: number },
  to: { id: number; number: string; email: string },
  letter: { kind: LetterKind; sheet: LetterSheet; asOf: string; jobId: number | null },
): Promise<SentLetter | null> {
  const { kind, sheet, asOf, jobId } = letter
  const number = sheet.number.slice(0, 40)
  const onDate = sheet.date
  if (jobId !== null) {
    const [there] = await tx.find(
      'sent_letter',
      { job_id: jobId, customer_id: to.id, number },
      { columns: ['id'] },
    )
    if (there) return null
  }
  const [letterId] = await tx.insert('sent_letter', [
    {
      customer_id: to.id,
      kind,
      number,
      as_of: asOf,
      on_date: onDate,
      letter: JSON.stringify(sheet),
      job_id: jobId,
      person_id: actor.id,
    },
  ])
  const [message] = await tx.insert('outbox', [
    {
      letter_id: letterId!,
      customer_id: to.id,
      recipient: to.email,
      subject: `${sheet.subject}, ${sheet.company}`.slice(0, 200),
      text: textOf(sheet),
      message_id: `${randomUUID()}@bilancio`,
      state: to.email ? 'queued' : 'print',
      person_id: actor.id,
    },
  ])
  if (jobId === null) await audit(tx, actor.id, 'letter', to.number, null, `${kind} ${sheet.number}`)
  return {
    letter: letterId!,
    message: message!,
    recipient: to.email,
    channel: to.email ? 'email' : 'print',
  }
}

const letterAsSentRow = z.object({
  number: cell.text,
  letter: cell.text,
})

/** A letter as it was sent. */
export async function letterAsSent(
  database: Handle,
  id: number,
  scope: Scope,
): Promise<{ number: string; pdf: Buffer }> {
  const [row] = await database.rows(
    letterAsSentRow,
    `SELECT l.number, l.letter FROM sent_letter l JOIN customer c ON c.id = l.customer_id
      WHERE l.id = :id ${scope.salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { id, salesId: scope.salesId ?? 0 },
  )
  if (!row) throw notFound(`letter ${id}`)
  return { number: row.number, pdf: await sheetPdf([JSON.parse(row.letter) as LetterSheet]) }
}
