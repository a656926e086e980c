import { join } from 'node:path'
import { createTransport, type TransportOptions } from 'nodemailer'
import type { Sequelize } from 'sequelize'
import type { z } from 'zod'
import type { Message, outbox } from '../../../contract/reminders'
import { receivedMessage } from '../../../simulators/mailbox'
import { reminderPdf, type ReminderLetter } from '../../letters/reminder'
import { int, select, type Replacements } from '../../db/connection'
import { readSettings } from '../../db/settings'
import { cut, decodeCursor } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'

const TRIES = 3

/** Where the simulated mailbox keeps its messages. */
export const mailboxFolder = () => join(process.env.BILANCIO_DATA ?? 'var', 'mailbox')

interface MessageRow extends Omit<Message, 'customer'> {
  customerNumber: string
  customerName: string
  text: string
  messageId: string
}
const MESSAGE = `SELECT o.id, c.number AS customerNumber, c.name AS customerName, o.recipient, o.subject,
  o.text, o.state, o.tries, o.reply, o.at, o.sent_at AS sentAt, o.notice_id AS noticeId,
  o.message_id AS messageId
  FROM outbox o JOIN customer c ON c.id = o.customer_id`
const shown = ({ customerNumber, customerName, text: _, messageId: __, ...m }: MessageRow): Message => ({
  ...m,
  customer: { number: customerNumber, name: customerName },
})

export async function listOutbox(
  database: Sequelize,
  q: z.infer<NonNullable<(typeof outbox.list)['query']>>,
) {
  const values: Replacements = { state: q.state }
  const cursor = decodeCursor(q.cursor, 1)
  if (cursor) [values.lastId] = cursor
  const [rows, counts] = await Promise.all([
    select<MessageRow>(
      database,
      `${MESSAGE} WHERE ${q.state === 'all' ? '1 = 1' : 'o.state = :state'}
        ${cursor ? 'AND o.id < :lastId' : ''} ORDER BY o.id DESC LIMIT ${q.limit + 1}`,
      values,
    ),
    select<{ state: string; n: unknown }>(database, 'SELECT state, COUNT(*) AS n FROM outbox GROUP BY state'),
  ])
  const page = cut(rows, q.limit, r => [r.id])
  return {
    items: page.items.map(shown),
    counts: Object.fromEntries(counts.map(c => [c.state, int(c.n)])),
    next: page.next,
  }
}

async function readRow(database: Sequelize, id: number): Promise<MessageRow> {
  const [row] = await select<MessageRow>(database, `${MESSAGE} WHERE o.id = :id`, { id })
  if (!row) throw notFound(`message ${id}`)
  return row
}

export async function readMessage(database: Sequelize, id: number) {
  const row = await readRow(database, id)
  const mail = await receivedMessage(mailboxFolder(), `<${row.messageId}>`)
  return {
    ...shown(row),
    text: row.text,
    received: mail
      ? {
          from: mail.from?.text ?? '',
          to: [mail.to]
            .flat()
            .map(t => t?.text ?? '')
            .join(', '),
          subject: mail.subject ?? '',
          text: mail.text ?? '',
          attachments: mail.attachments.map(a => ({
            name: a.filename ?? 'attachment',
            type: a.contentType,
            bytes: a.size,
          })),
        }
      : null,
  }
}

export async function sendAgain(database: Sequelize, id: number): Promise<Message> {
  const row = await readRow(database, id)
  if (row.state !== 'failed')
    throw new ProblemError(
      409,
      'Not failed',
      `this message is ${row.state}: only a failed one is tried again`,
    )
  await database.query(`UPDATE outbox SET state = 'queued', tries = 0 WHERE id = :id`, {
    replacements: { id },
  })
  return shown(await readRow(database, id))
}

/**
 * Sends the next queued message by SMTP; answers false when none waits. The row is locked while it is sent. A
 * message sent twice after a crash carries the same Message-ID, so mailboxes keep one.
 */
export async function sendNext(database: Sequelize): Promise<boolean> {
  const url = process.env.BILANCIO_SMTP
  if (!url) return false
  const { company, sender } = await readSettings(database)
  return database.transaction(async tx => {
    const [row] = await select<{
      id: number
      recipient: string
      subject: string
      text: string
      message_id: string
      tries: number
      letter: string | null
      number: string | null
    }>(
      database,
      `
      SELECT o.id, o.recipient, o.subject, o.text, o.message_id, o.tries, n.letter, n.number FROM outbox o
        LEFT JOIN notice n ON n.id = o.notice_id
      WHERE o.state = 'queued' ORDER BY o.id LIMIT 1 FOR UPDATE SKIP LOCKED`,
      {},
      tx,
    )
    if (!row) return false
    let state = 'sent'
    let reply: string
    const transport = createTransport({
      url,
      connectionTimeout: 5000,
      greetingTimeout: 5000,
      socketTimeout: 20_000,
      ignoreTLS: true,
    } as TransportOptions)
    try {
      const sent = (await transport.sendMail({
        from: { name: company, address: sender },
        to: row.recipient,
        subject: row.subject,
        text: row.text,
        messageId: `<${row.message_id}>`,
        attachments: row.letter
          ? [
              {
                filename: `${row.number}.pdf`,
                content: await reminderPdf(JSON.parse(row.letter) as ReminderLetter),
                contentType: 'application/pdf',
              },
            ]
          : [],
      })) as { response: string }
      reply = sent.response
    } catch (error) {
      const { responseCode, message } = error as { responseCode?: number; message: string }
      reply = message
      // A refusal for good (5xx) is not tried again; anything else is, a few times.
      state = (responseCode && responseCode >= 500) || row.tries + 1 >= TRIES ? 'failed' : 'queued'
    } finally {
      transport.close()
    }
    await database.query(
      `UPDATE outbox SET state = :state, tries = tries + 1, reply = :reply, sent_at = IF(:state = 'sent',
        UTC_TIMESTAMP(3), NULL) WHERE id = :id`,
      { replacements: { id: row.id, state, reply: reply.slice(0, 300) }, transaction: tx },
    )
    return state !== 'queued'
  })
}
