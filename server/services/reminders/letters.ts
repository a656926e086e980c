import { z } from 'zod'
import { cell } from '../../db/rows'
import { age } from '../../../core/aging'
import type { IsoDate } from '../../../core/calendar'
import { claimedBy, propose, type Notice } from '../../../core/reminders'
import type { PolicyForm, PolicyTerms } from '../../../contract/reminders'
import type { Handle } from '../../db/handle'
import { readSettings, type Settings } from '../../db/settings'
import { referenceOf } from '../../letters/payment'
import { remindersPdf, type ReminderLetter } from '../../letters/reminder'
import { interestText } from '../../letters/reminderWords'
import { fillText, formatDate, formatMoney, type LetterValues } from '../../letters/text'
import { notFound, ProblemError } from '../common/problems'
import { findCustomer } from '../accounts/customers'
import { reminderFacts, type Reminded } from './facts'
import { policiesOn, termsOf } from './policies'
import { basisOf, chosenFor, proposeFor } from './proposal'
import { referenceRates } from './rates'
import { noticeOf, runRow } from './runs'

export type Letter = ReminderLetter

/** The creditor reference that the letter asks for: of its document, of the customer for several. */
function referenceFor(customer: string, notice: Notice): string {
  const [first] = notice.items
  const isOne = notice.items.length === 1 && !notice.fee && !notice.interest
  return referenceOf(isOne ? first!.number : customer)
}

/** What a letter needs of its customer: the address, and what is open by age in each currency. */
export interface Addressee extends Omit<Reminded, 'items' | 'pause' | 'handedOver' | 'email'> {
  strata: Readonly<Record<string, number[]>>
}

export function addresseeOf(customer: Reminded, asOf: IsoDate, settings: Settings): Addressee {
  const { items, pause: _, handedOver: __, email: ___, ...address } = customer
  const strata: Record<string, number[]> = {}
  for (const currency of new Set(items.map(i => i.currency))) {
    const own = items.filter(i => i.currency === currency).map(i => ({ open: i.open, date: i.dueDate }))
    strata[currency] = age(own, asOf, settings.buckets).amounts
  }
  return { ...address, strata }
}

/**
 * The letter of a notice: everything the PDF shows, kept with the notice so that it can be shown again as it
 * was sent. An interest note has its text from us, a reminder from its policy.
 */
export async function letterOf(
  settings: Settings,
  customer: Addressee,
  notice: Notice,
  policy: PolicyForm,
  number: string,
  asOf: IsoDate,
): Promise<ReminderLetter> {
  const texts = notice.level ? policy.levels[notice.level - 1]!.texts : interestText
  const language = texts[customer.language] ? customer.language : 'en'
  const money = (amount: number) => formatMoney(amount, notice.currency, language)
  const values: LetterValues = {
    company: settings.company,
    customer: customer.name,
    contact: customer.contact,
    number,
    level: notice.level,
    total: money(claimedBy(notice)),
    fee: money(notice.fee),
    has_fee: notice.fee > 0,
    interest: money(notice.interest),
    has_interest: notice.interest > 0,
    date: formatDate(asOf, language),
    deadline: formatDate(notice.deadline, language),
    items: notice.items.length,
  }
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
    reference: referenceFor(customer.number, notice),
    language,
    number,
    date: asOf,
    text: await fillText(texts[language]!, values),
    notice,
    strata: customer.strata[notice.currency] ?? [],
    bucketLabels: settings.buckets.map(b => b.label),
  }
}

/** The letter of a proposed notice as it would go out now. */
export async function previewLetter(database: Handle, id: number, key: string): Promise<Buffer> {
  const settings = await readSettings(database)
  const run = await runRow(database, id)
  const [row] = await database.find(
    'run_notice',
    { run_id: id, key_text: key },
    { columns: { customerId: 'customer_id', notice: 'notice' } },
  )
  if (!row) throw notFound(`notice ${key} in run ${id}`)
  const notice = noticeOf(row.notice)
  const basis = await basisOf(database, run, run.edits)
  const part = await proposeFor(database, settings, basis, await chosenFor(database, run, [row.customerId]))
  const [customer] = part.customers
  if (!customer)
    throw new ProblemError(
      409,
      'Paid meanwhile',
      'this customer has nothing overdue any more: propose the run again',
    )
  const policy = (await policiesOn(database, run.asOf)).get(notice.policy)!
  return remindersPdf([
    await letterOf(settings, addresseeOf(customer, run.asOf, settings), notice, policy, 'preview', run.asOf),
  ])
}

/** The letter that a level would send to a customer, whatever level its items have; nothing is kept of it. */
export async function previewPolicy(
  database: Handle,
  code: string,
  ask: { customer: string; level: number; policy: PolicyTerms },
): Promise<Buffer> {
  const settings = await readSettings(database)
  const { today } = settings
  const { id } = await findCustomer(database, ask.customer, {})
  const level = ask.policy.levels[ask.level - 1]
  if (!level) throw notFound(`level ${ask.level}`, `one of its ${ask.policy.levels.length} levels`)
  const [customer] = await reminderFacts(database, settings, [id], {
    asOf: today,
    withInterest: ask.policy.interest !== null,
    paidSince: null,
  })
  // As if each item had the level before, and the time had come.
  const levels = ask.policy.levels.map(l => ({
    ...l,
    days: 1,
    sincePrevious: 0,
    minimum: {},
    minimumItem: {},
  }))
  const items = customer!.items.map(i => ({ ...i, level: ask.level - 1, noticeDate: null, deadline: null }))
  const policy: PolicyForm = { ...ask.policy, levels, code, name: code, validFrom: today, version: 0 }
  const { notices } = propose(
    { ...customer!, items },
    {
      policy: termsOf({ ...policy, graceDays: 0 }),
      asOf: today,
      rates: await referenceRates(database),
      edits: {},
    },
  )
  const [notice] = notices
  if (!notice)
    throw new ProblemError(
      409,
      'Nothing overdue',
      `${customer!.name} has nothing overdue: choose another customer`,
    )
  return remindersPdf([
    await letterOf(settings, addresseeOf(customer!, today, settings), notice, policy, 'preview', today),
  ])
}

const noticeLetterRow = z.object({
  number: cell.text,
  letter: cell.text,
})

export async function noticeLetter(
  database: Handle,
  id: number,
  salesId?: number,
): Promise<{ number: string; pdf: Buffer }> {
  const [row] = await database.rows(
    noticeLetterRow,
    `SELECT n.number, n.letter FROM notice n JOIN customer c ON c.id = n.customer_id
      WHERE n.id = :id ${salesId ? 'AND c.sales_id = :salesId' : ''}`,
    { id, salesId: salesId ?? 0 },
  )
  if (!row) throw notFound(`notice ${id}`)
  return { number: row.number, pdf: await remindersPdf([JSON.parse(row.letter) as ReminderLetter]) }
}

const runPrintFileRow = z.object({
  letter: cell.text,
})

/** The letters of a run that go by post, in one file for the printer. */
export async function runPrintFile(database: Handle, id: number): Promise<Buffer> {
  await runRow(database, id)
  const rows = await database.rows(
    runPrintFileRow,
    `SELECT n.letter FROM notice n JOIN outbox o ON o.notice_id = n.id
      WHERE n.run_id = :id AND o.state = 'print' AND n.withdrawn_on IS NULL ORDER BY n.id`,
    { id },
  )
  if (!rows.length) throw new ProblemError(404, 'Nothing to print', 'no letter of this run goes by post')
  return remindersPdf(rows.map(r => JSON.parse(r.letter) as ReminderLetter))
}
