import { age } from '../../../core/aging'
import { creditorReference } from '../../../core/banking/matching'
import type { IsoDate } from '../../../core/calendar'
import type { Notice, ReminderCustomer } from '../../../core/reminders'
import type { PolicyForm } from '../../../contract/reminders'
import type { Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { reminderPdf, type ReminderLetter } from '../../letters/reminder'
import { fillText, formatDate, formatMoney } from '../../letters/text'
import { findCustomer } from '../accounts/customers'
import { notFound, ProblemError } from '../common/problems'
import { readPolicy } from './policies'
import { reminderCustomers, type CustomerRow } from './proposal'
import { runRow } from './runs'

/**
 * The creditor reference (ISO 11649) that the letter asks for: of its document, of the customer for several.
 * Empty where a number is too long for one.
 */
function referenceOf(customer: string, notice: Notice): string {
  const [first] = notice.items
  try {
    return creditorReference(notice.items.length === 1 && !notice.fee ? first!.number : customer)
  } catch (error) {
    if (error instanceof RangeError) return ''
    throw error
  }
}

/**
 * The letter of a notice: everything the PDF shows, kept with the notice so that it can be shown again as it
 * was sent.
 */
export async function letterOf(
  settings: Settings,
  customer: ReminderCustomer & CustomerRow,
  notice: Notice,
  policy: PolicyForm,
  number: string,
  asOf: IsoDate,
): Promise<ReminderLetter> {
  const texts = policy.levels[notice.level - 1]!.texts
  const language = texts[customer.language] ? customer.language : 'en'
  const text = await fillText(texts[language]!, {
    company: settings.company,
    customer: customer.name,
    contact: customer.contact,
    number,
    level: notice.level,
    total: formatMoney(notice.total + notice.fee, notice.currency, language),
    fee: formatMoney(notice.fee, notice.currency, language),
    has_fee: notice.fee > 0,
    date: formatDate(asOf, language),
    deadline: formatDate(notice.deadline, language),
    items: notice.items.length,
  })
  const aged = age(
    customer.items.filter(i => i.currency === notice.currency).map(i => ({ open: i.open, date: i.dueDate })),
    asOf,
    settings.buckets,
  )
  return {
    company: settings.company,
    house: settings.house,
    customer: {
      name: customer.name,
      number: customer.number,
      contact: customer.contact,
      street: customer.street,
      postcode: customer.postcode,
      city: customer.city,
      country: customer.country,
    },
    reference: referenceOf(customer.number, notice),
    language,
    number,
    date: asOf,
    text,
    notice,
    strata: aged.amounts,
    bucketLabels: settings.buckets.map(b => b.label),
  }
}

export async function previewLetter(database: Handle, id: number, key: string): Promise<Buffer> {
  const settings = await readSettings(database)
  const run = await runRow(database, id)
  const notice = run.parsed.notices.find(n => n.key === key)
  if (!notice) throw notFound(`notice ${key} in run ${id}`)
  const policy = await readPolicy(database, run.policy)
  const { id: customerId } = await findCustomer(database, notice.customer.number, {})
  const [customer] = await reminderCustomers(database, settings, run.policy, run.asOf, [customerId])
  if (!customer)
    throw new ProblemError(
      409,
      'Paid meanwhile',
      'this customer has nothing overdue any more: propose the run again',
    )
  return reminderPdf(await letterOf(settings, customer, notice, policy, 'preview', run.asOf))
}

export async function noticeLetter(
  database: Handle,
  id: number,
  salesId?: number,
): Promise<{ number: string; pdf: Buffer }> {
  const [row] = await database.select<{ number: string; letter: string }>(
    `SELECT n.number, n.letter FROM notice n JOIN customer c ON c.id = n.customer_id
      WHERE n.id = :id ${salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { id, salesId: salesId ?? 0 },
  )
  if (!row) throw notFound(`notice ${id}`)
  return { number: row.number, pdf: await reminderPdf(JSON.parse(row.letter) as ReminderLetter) }
}
