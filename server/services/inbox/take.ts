import { z } from 'zod'
import { cell } from '../../db/rows'
import { simpleParser, type Attachment, type ParsedMail } from 'mailparser'
import { readMail } from '../../../core/inbox'
import type { IsoDate } from '../../../core/calendar'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { codeOf } from '../../db/retry'
import { faultOf, log } from '../../log'
import type { MailIn } from '../../ports/mailIn'

/** How we know whose a mail is, the surest first. */
type FoundBy = 'reply' | 'address' | 'number' | 'domain' | ''

interface Owner {
  customerId: number | null
  foundBy: FoundBy
  outboxId: number | null
}

const MOST_TEXT = 100_000
const bare = (id: string) => id.replace(/^<|>$/g, '')

/** A part of a report of delivery (RFC 3464), as text. */
const partOf = (mail: ParsedMail, type: RegExp): string =>
  mail.attachments.find((a: Attachment) => type.test(a.contentType))?.content.toString('utf8') ?? ''

interface Report {
  status: string | null
  /** The message that could not be delivered. */
  about: string | null
  recipient: string | null
}

function reportOf(mail: ParsedMail): Report {
  const delivery = partOf(mail, /^message\/delivery-status/i)
  const status = /^Status:\s*(\d\.\d{1,3}\.\d{1,3})/im.exec(delivery)?.[1] ?? null
  const recipient = /^Final-Recipient:\s*rfc822;\s*(\S+)/im.exec(delivery)?.[1] ?? null
  const original = partOf(mail, /^(text\/rfc822-headers|message\/rfc822)/i)
  const about = /^Message-ID:\s*<([^>]+)>/im.exec(original)?.[1] ?? null
  return { status, about, recipient }
}

const sender = (mail: ParsedMail): string => (mail.from?.value[0]?.address ?? '').toLowerCase()

/** Domains where many unrelated people have their mail: they tell nothing of whose it is. */
const SHARED = /(^|\.)(gmail|googlemail|outlook|hotmail|live|yahoo|icloud|gmx|web|mail|proton(mail)?)\.\w+$/

const oneOfRow = z.object({
  id: cell.whole,
})

async function oneOf(db: Handle, sql: string, values: object): Promise<number | null> {
  const rows = await db.rows(oneOfRow, `${sql} LIMIT 2`, { ...values })
  // Two are as good as none: nothing is guessed.
  return rows.length === 1 ? rows[0]!.id : null
}

/** Whose a mail is: by the letter it answers, by its address, by a number it names, by its domain. */
async function ownerOf(
  db: Handle,
  mail: ParsedMail,
  report: Report,
  numbers: readonly string[],
): Promise<Owner> {
  const references = [mail.inReplyTo ?? '', ...[mail.references ?? []].flat(), report.about ?? '']
    .map(bare)
    .filter(Boolean)
  if (references.length) {
    const [letter] = await db.find(
      'outbox',
      { message_id: references },
      { columns: { id: 'id', customerId: 'customer_id' }, order: [['id', 'DESC']], limit: 1 },
    )
    if (letter) return { customerId: letter.customerId, foundBy: 'reply', outboxId: letter.id }
  }
  const address = (report.recipient ?? sender(mail)).toLowerCase()
  if (address) {
    const byAddress = await oneOf(
      db,
      `SELECT DISTINCT COALESCE(c.merged_into, c.id) AS id FROM customer c LEFT JOIN contact t ON t.customer_id = c.id
        WHERE c.email = :address OR t.email = :address`,
      { address },
    )
    if (byAddress !== null) return { customerId: byAddress, foundBy: 'address', outboxId: null }
  }
  if (numbers.length) {
    const byNumber = await oneOf(
      db,
      `SELECT DISTINCT customer_id AS id FROM item WHERE register = 'document' AND number IN (:numbers)`,
      { numbers },
    )
    if (byNumber !== null) return { customerId: byNumber, foundBy: 'number', outboxId: null }
  }
  const domain = address.split('@')[1] ?? ''
  if (domain && !SHARED.test(domain)) {
    const byDomain = await oneOf(
      db,
      `SELECT DISTINCT COALESCE(c.merged_into, c.id) AS id FROM customer c WHERE c.email LIKE :domain`,
      { domain: `%@${domain.replace(/[\\%_]/g, '\\$&')}` },
    )
    if (byDomain !== null) return { customerId: byDomain, foundBy: 'domain', outboxId: null }
  }
  return { customerId: null, foundBy: '', outboxId: null }
}

const isAutomatic = (mail: ParsedMail): boolean => {
  const said = String(mail.headers.get('auto-submitted') ?? 'no')
  return (
    !/^no\b/i.test(said) ||
    mail.headers.has('x-autoreply') ||
    /^(bulk|junk|auto_reply)$/i.test(String(mail.headers.get('precedence') ?? ''))
  )
}

/** Keeps one mail. A mail of ours that comes round to us is no mail of a customer. */
async function keepMail(db: Handle, raw: Buffer, name: string, today: IsoDate, ours: string): Promise<void> {
  const mail = await simpleParser(raw, {
    skipImageLinks: true,
    maxHtmlLengthToParse: 2_000_000,
    keepDeliveryStatus: true,
  })
  const report = reportOf(mail)
  if (report.status === null && sender(mail) === ours.toLowerCase()) return
  const text = (mail.text ?? '').slice(0, MOST_TEXT)
  const { kind, values } = readMail(
    { subject: mail.subject ?? '', text, isAutomatic: isAutomatic(mail), status: report.status },
    today,
  )
  const owner = await ownerOf(db, mail, report, values.numbers)
  const [kept] = await db.insert(
    'inbox',
    [
      {
        customer_id: owner.customerId,
        found_by: owner.foundBy,
        outbox_id: owner.outboxId,
        message_id: bare(mail.messageId ?? name).slice(0, 200),
        sender: (mail.from?.text ?? '').slice(0, 200),
        subject: (mail.subject ?? '').slice(0, 300),
        text,
        kind,
        found: JSON.stringify({ ...values, address: report.recipient ?? values.address }),
        on_date: today,
      },
    ],
    // The same mail delivered twice is one mail.
    { ignore: true },
  )
  // Its id is zero when it was there before.
  if (kept && kind === 'bounce' && owner.customerId !== null)
    await bounceTask(db, owner.customerId, report.recipient ?? '', today)
}

const bounceTaskRow = z.object({
  to: cell.whole.nullable(),
})

/** A letter that came back is a task of who looks after the account: it did not reach the customer. */
async function bounceTask(db: Handle, customerId: number, address: string, today: IsoDate): Promise<void> {
  const [row] = await db.rows(
    bounceTaskRow,
    `SELECT COALESCE(c.controller_id, (SELECT MIN(p.id) FROM person p WHERE p.role = 'controller' AND p.active = 1))
      AS \`to\` FROM customer c WHERE c.id = :customerId AND NOT EXISTS (SELECT 1 FROM message m
        WHERE m.customer_id = c.id AND m.text LIKE :said AND m.done_at IS NULL)`,
    { customerId, said: `A letter to ${address.replace(/[\\%_]/g, '\\$&')} came back%` },
  )
  if (!row?.to) return
  await db.insert('message', [
    {
      customer_id: customerId,
      about: 'account',
      about_id: null,
      to_id: row.to,
      text: `A letter to ${address} came back: correct the address, then send it again.`,
      on_date: today,
      due: today,
      person_id: row.to,
    },
  ])
}

/**
 * Takes in the mail that waits; answers how many, null when the mailbox was not looked at yet again. One that
 * cannot be read is kept as what it is, and told of. Throws when the mailbox cannot be reached; then what was
 * kept stays kept, and comes no second time.
 */
export async function takeMail(db: Handle, mail: MailIn): Promise<number | null> {
  const names = await mail.waiting()
  if (!names?.length) return names && 0
  const { today, sender: ours } = await readSettings(db)
  let taken = 0
  for (const name of names) {
    const raw = await mail.read(name)
    if (raw === undefined) continue
    try {
      if (raw) await keepMail(db, raw, name, today, ours)
      else await keepUnread(db, name, today, 'larger than 25 MB: look at it in the mailbox')
    } catch (error) {
      // The database being away is no fault of the mail: it waits.
      if (codeOf(error)) throw error
      log.warn({ ...faultOf(error), mail: name }, 'a mail could not be read')
      await keepUnread(db, name, today, 'this mail cannot be read: look at it in the mailbox')
    }
    await mail.taken(name)
    taken++
  }
  return taken
}

const keepUnread = (db: Handle, name: string, today: IsoDate, why: string) =>
  db.insert(
    'inbox',
    [
      {
        customer_id: null,
        message_id: name.slice(0, 200),
        sender: '',
        subject: 'Not read',
        text: `${why} (${name})`,
        kind: 'other',
        found: JSON.stringify({ date: null, amount: null, numbers: [], address: null, reason: null }),
        on_date: today,
      },
    ],
    { ignore: true },
  )
