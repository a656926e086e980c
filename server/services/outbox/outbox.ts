import { z } from 'zod'
import type { Message, outbox } from '../../../contract/outbox'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import { cell } from '../../db/rows'
import { audit, readSettings } from '../../db/settings'
import { remindersPdf, type ReminderLetter } from '../../letters/reminder'
import { sheetPdf, type LetterSheet } from '../../letters/sheet'
import { MailRefused, type MailPort } from '../../ports/mail'
import { receivedMail } from '../../wiring'
import { cut, decodeCursor } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'

/**
 * Minutes between the tries of a letter whose mail server is away: growing, about two days in all (RFC 5321
 * section 4.5.4.1 asks senders to go on for days). Then it has failed, and a person decides.
 */
export const WAITS = [1, 2, 5, 15, 30, 60, 120, 240, 480, 720, 1440]

interface MessageRow extends Omit<Message, 'customer'> {
  customerNumber: string
  customerName: string
  text: string
  messageId: string
}
const MESSAGE = `SELECT o.id, c.number AS customerNumber, c.name AS customerName, o.recipient, o.subject,
  o.text, o.state, o.tries, o.reply, o.at, o.sent_at AS sentAt, o.next_try AS nextTry,
  o.notice_id AS noticeId, o.letter_id AS letterId, o.message_id AS messageId
  FROM outbox o JOIN customer c ON c.id = o.customer_id`
const shown = ({ customerNumber, customerName, text: _, messageId: __, ...m }: MessageRow): Message => ({
  ...m,
  customer: { number: customerNumber, name: customerName },
})

const outboxRow = z.object({
  state: cell.text,
  n: cell.sum,
})

const messageRow: z.ZodType<MessageRow> = z.object({
  customerNumber: cell.text,
  customerName: cell.text,
  text: cell.text,
  messageId: cell.text,
  id: cell.whole,
  at: cell.instant,
  recipient: cell.text,
  subject: cell.text,
  state: z.enum(['queued', 'waiting', 'sent', 'failed', 'print', 'stopped']),
  tries: cell.whole,
  reply: cell.text,
  sentAt: cell.instant.nullable(),
  nextTry: cell.instant.nullable(),
  noticeId: cell.whole.nullable(),
  letterId: cell.whole.nullable(),
})

export async function listOutbox(database: Handle, q: z.infer<NonNullable<(typeof outbox.list)['query']>>) {
  const values: Values = { state: q.state }
  const cursor = decodeCursor(q.cursor, 1)
  if (cursor) [values.lastId] = cursor
  const [rows, counts] = await Promise.all([
    database.rows(
      messageRow,
      `${MESSAGE} WHERE ${q.state === 'all' ? '1 = 1' : 'o.state = :state'}
        ${cursor ? 'AND o.id < :lastId' : ''} ORDER BY o.id DESC LIMIT ${q.limit + 1}`,
      values,
    ),
    database.rows(outboxRow, 'SELECT state, COUNT(*) AS n FROM outbox GROUP BY state'),
  ])
  const page = cut(rows, q.limit, r => [r.id])
  return {
    items: page.items.map(shown),
    counts: Object.fromEntries(counts.map(c => [c.state, int(c.n)])),
    next: page.next,
  }
}

async function readRow(database: Handle, id: number): Promise<MessageRow> {
  const [row] = await database.rows(messageRow, `${MESSAGE} WHERE o.id = :id`, { id })
  if (!row) throw notFound(`message ${id}`)
  return row
}

export async function readMessage(database: Handle, id: number) {
  const row = await readRow(database, id)
  return { ...shown(row), text: row.text, received: (await receivedMail(`<${row.messageId}>`)) ?? null }
}

/** By hand: one that failed, or one that waits and need not wait longer. */
export async function sendAgain(database: Handle, actor: Actor, id: number): Promise<Message> {
  const row = await readRow(database, id)
  const done = await database.update(
    'outbox',
    { state: 'queued', tries: 0, next_try: null },
    { id, state: ['failed', 'waiting'] },
  )
  if (!done)
    throw new ProblemError(
      409,
      'Nothing to send again',
      `this message is ${row.state}: only one that failed or waits is tried again`,
    )
  await audit(database, actor.id, 'message', String(id), row.state, 'sent again')
  return shown(await readRow(database, id))
}

const dueRow = z.object({
  id: cell.whole,
  recipient: cell.text,
  subject: cell.text,
  text: cell.text,
  message_id: cell.text,
  tries: cell.whole,
  letter: cell.text.nullable(),
  sheet: cell.text.nullable(),
  number: cell.text.nullable(),
})
type Due = z.output<typeof dueRow>

/**
 * Sends the next letter that is due; answers false when none is. The row is locked while it is sent. A
 * message sent twice after a crash carries the same Message-ID, so mailboxes keep one. A server that is away
 * makes the letter wait, longer each time; a refusal for good has failed at once.
 */
export async function sendNext(database: Handle, mail: MailPort | null): Promise<boolean> {
  if (!mail) return false
  const { company, sender, clock } = await readSettings(database)
  return database.transaction(async tx => {
    const [row] = await tx.rows(
      dueRow,
      `SELECT o.id, o.recipient, o.subject, o.text, o.message_id, o.tries, n.letter,
        COALESCE(n.number, l.number) AS number, l.letter AS sheet FROM outbox o
        LEFT JOIN notice n ON n.id = o.notice_id LEFT JOIN sent_letter l ON l.id = o.letter_id
        WHERE o.state = 'queued' OR (o.state = 'waiting' AND o.next_try <= UTC_TIMESTAMP(3))
        ORDER BY o.state, o.id LIMIT 1 FOR UPDATE SKIP LOCKED`,
    )
    if (!row) return false
    const done = await send(mail, { name: company, address: sender }, row)
    const wait = done.state === 'waiting' ? (WAITS[row.tries] ?? null) : null
    const state = done.state === 'waiting' && wait === null ? 'failed' : done.state
    await tx.run(
      `UPDATE outbox SET state = :state, tries = tries + 1, reply = :reply,
        sent_at = IF(:state = 'sent', TIMESTAMP(COALESCE(:clock, UTC_DATE()), UTC_TIME(3)), NULL),
        next_try = IF(:state = 'waiting', UTC_TIMESTAMP(3) + INTERVAL :wait MINUTE, NULL) WHERE id = :id`,
      { id: row.id, state, reply: done.reply.slice(0, 300), wait: wait ?? 0, clock },
    )
    return true
  })
}

/** The letter that goes with a message, drawn from what was kept of it. */
async function attachedPdf({ letter, sheet }: Due): Promise<Buffer | null> {
  if (letter) return remindersPdf([JSON.parse(letter) as ReminderLetter])
  return sheet ? sheetPdf([JSON.parse(sheet) as LetterSheet]) : null
}

async function send(
  mail: MailPort,
  from: { name: string; address: string },
  row: Due,
): Promise<{ state: 'sent' | 'failed' | 'waiting'; reply: string }> {
  try {
    const content = await attachedPdf(row)
    const pdf = content && { filename: `${row.number}.pdf`, content, contentType: 'application/pdf' }
    const { recipient: to, subject, text, message_id: messageId } = row
    const reply = await mail.send({ from, to, subject, text, messageId, attachments: pdf ? [pdf] : [] })
    return { state: 'sent', reply }
  } catch (error) {
    const reply = (error as Error).message
    return { state: error instanceof MailRefused ? 'failed' : 'waiting', reply }
  }
}
