import { createHash } from 'node:crypto'
import type { ForecastAnswer } from '../../../contract/forecast'
import type { Handle } from '../../db/handle'
import { audit, readSettings } from '../../db/settings'
import { forecastPdf } from '../../letters/forecast'
import { formatDate, formatMoney } from '../../letters/text'
import { MailRefused, type MailPort } from '../../ports/mail'
import { ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { readForecast } from './forecast'
import type { Query } from './gather'

/* The forecast on one page, to print and to send. */

const dayText = (date: string): string => formatDate(date, 'en')

/** What is told first, a sentence each. */
export function factsOf(f: ForecastAnswer): string[] {
  const money = (amount: number): string => formatMoney(amount, f.currency, 'en')
  const last = f.balance.at(-1)
  if (f.start === null || !last) return ['There is no bank account: only what comes and goes is told.']
  const per = (chance: number): string => `${Math.round(chance * 100)} %`
  return [
    `${money(f.start)} at the bank on ${dayText(f.asOf)}; about ${money(last.p50)} on ${dayText(last.date)},`,
    `between ${money(last.p10)} and ${money(last.p90)} in four of five cases.`,
    f.crossing
      ? `By ${dayText(f.crossing.date)} the floor of ${money(f.floor)} may be crossed, in the end with a chance of ${per(f.crossing.chance)}.`
      : `The floor of ${money(f.floor)} is not in danger (${per(last.below)}).`,
  ]
}

export async function forecastSheet(
  db: Handle,
  q: Query,
): Promise<{ name: string; pdf: Buffer; facts: string[] }> {
  const [{ company }, forecast] = await Promise.all([readSettings(db), readForecast(db, q)])
  const title = `Cash forecast, ${dayText(forecast.asOf)}`
  const facts = factsOf(forecast)
  return {
    name: `forecast-${forecast.asOf}.pdf`,
    pdf: await forecastPdf({ company, title, facts, forecast }),
    facts,
  }
}

/**
 * Sends the page to some people, at once: nothing waits, who sends it is told what went. Throws 409 without a
 * mail server, 422 or 503 when it does not take the message; those who have it are named.
 */
export async function shareForecast(
  db: Handle,
  mail: MailPort | null,
  actor: Actor,
  { to, note, query }: { to: string[]; note: string; query: Query },
): Promise<{ sent: string[] }> {
  if (!mail)
    throw new ProblemError(
      409,
      'No mail server',
      'no mail server is set up: print the page, or set BILANCIO_SMTP',
    )
  const { company, sender } = await readSettings(db)
  const { name, pdf, facts } = await forecastSheet(db, query)
  const text = [note.trim(), ...facts, `Sent by ${actor.name}.`].filter(Boolean).join('\n\n')
  const sent: string[] = []
  for (const recipient of [...new Set(to.map(t => t.trim().toLowerCase()))]) {
    // The same page sent to the same again is the same message: mailboxes keep one.
    const digest = createHash('sha256').update(pdf).update(text).update(recipient).digest('hex').slice(0, 32)
    try {
      await mail.send({
        from: { name: company, address: sender },
        ...{ to: recipient, subject: `${company}: cash forecast`, text },
        messageId: `forecast-${digest}@${sender.split('@')[1] ?? 'bilancio'}`,
        attachments: [{ filename: name, content: pdf, contentType: 'application/pdf' }],
      })
    } catch (error) {
      const already = sent.length ? `; ${sent.join(', ')} have it` : ''
      const told = `${recipient}: ${(error as Error).message}${already}`
      if (error instanceof MailRefused)
        throw new ProblemError(422, 'Not sent', told, [
          { path: 'to', message: 'refused for good', satisfy: 'check the address' },
        ])
      throw new ProblemError(503, 'Not sent', told, [], 60)
    }
    sent.push(recipient)
  }
  await audit(db, actor.id, 'forecast sent', name, null, sent.join(', '))
  return { sent }
}
