import { mkdirSync, readFileSync, writeFileSync, existsSync } from 'node:fs'
import { createHash } from 'node:crypto'
import { join } from 'node:path'
import type { AddressInfo } from 'node:net'
import { simpleParser } from 'mailparser'
import { SMTPServer } from 'smtp-server'
import type { ReceivedMail } from '../server/ports/mail'

/**
 * A stand-in for the world's mail: takes messages by SMTP on loopback and keeps each as an .eml file (RFC
 * 5322). Nothing leaves the machine.
 */
export interface Mailbox {
  url: string
  close: () => Promise<void>
}

const fileOf = (folder: string, messageId: string) =>
  join(folder, `${createHash('sha256').update(messageId).digest('hex').slice(0, 24)}.eml`)

export async function openMailbox(folder: string, port = 0): Promise<Mailbox> {
  mkdirSync(folder, { recursive: true })
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['AUTH', 'STARTTLS'],
    size: 20 * 1024 * 1024,
    banner: 'Bilancio simulated mailbox',
    onRcptTo(address, _session, callback) {
      // An address at "bounce." answers as a real server would for a mailbox that does not exist.
      if (/@bounce\./i.test(address.address))
        callback(Object.assign(new Error('mailbox unavailable'), { responseCode: 550 }))
      else callback()
    },
    onData(stream, _session, callback) {
      const chunks: Buffer[] = []
      stream.on('data', (chunk: Buffer) => chunks.push(chunk))
      stream.on('end', () => {
        const raw = Buffer.concat(chunks)
        const id = /^message-id:\s*(<[^>]+>)/im.exec(raw.toString('latin1'))?.[1]
        if (!id) {
          callback(Object.assign(new Error('no Message-ID'), { responseCode: 554 }))
          return
        }
        writeFileSync(fileOf(folder, id), raw)
        callback(null, 'kept')
      })
    },
  })
  server.on('error', error => console.error('[mailbox]', error.message))
  await new Promise<void>(resolve => server.listen(port, '127.0.0.1', resolve))
  return {
    url: `smtp://127.0.0.1:${(server.server.address() as AddressInfo).port}`,
    close: () => new Promise(resolve => server.close(() => resolve())),
  }
}

/** What the mailbox received under a Message-ID; undefined when it has not arrived. */
export async function receivedMessage(folder: string, messageId: string): Promise<ReceivedMail | undefined> {
  const file = fileOf(folder, messageId)
  if (!existsSync(file)) return undefined
  const mail = await simpleParser(readFileSync(file))
  return {
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
}
