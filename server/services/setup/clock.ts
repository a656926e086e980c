import { z } from 'zod'
import { cell } from '../../db/rows'
import { addDays, type IsoDate } from '../../../core/calendar'
import type { Handle } from '../../db/handle'
import { readSettings, writeSetting } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import type { Deposit } from '../../ports/clock'
import { answersTo, passingDays, rateSource } from '../../wiring'
import type { Answerable } from '../../ports/mailIn'
import { ProblemError } from '../common/problems'
import { collectDue } from '../collections/collect'
import { importDocuments } from '../documents/imports'
import { takeFactorFiles } from '../factoring/answers'
import { factorsOf } from '../factoring/facilities'
import type { Actor } from '../people/scope'
import { takeRates } from '../rates/rates'

const advanceClockRow = z.object({
  name: cell.text,
  date: cell.text,
})

/** Advances the Clock of the demo by a day; the simulated bank and the feed of rates answer. */
export async function advanceClock(
  database: Handle,
  actor: Actor,
): Promise<{ today: string; delivered: string[] }> {
  const passed = await database.transaction(async tx => {
    const settings = await takeLocks(tx, { settings: 'change' })
    if (!settings.clock)
      throw new ProblemError(409, 'No Clock', "only the demo has a Clock: here the date is the calendar's")
    const next = addDays(settings.clock, 1)
    const [open] = await tx.rows(
      advanceClockRow,
      `SELECT p.name, b.date FROM batch b JOIN person p ON p.id = b.person_id WHERE b.state = 'open'
        AND b.date < :next ORDER BY b.id LIMIT 1`,
      { next },
    )
    if (open)
      throw new ProblemError(
        409,
        'A batch is open',
        `the batch of ${open.name} dated ${open.date} is open: close or delete it, then the day can close`,
      )
    await writeSetting(tx, actor.id, 'clock', next)
    const source = rateSource(settings.demo)
    if (source) await takeRates(tx, settings.base, source, [next])
    // The bank's files come before the day is over: if they cannot be written, it is not. The bank knows
    // up to which day it delivered, so the same day again brings nothing twice.
    passingDays().factored(settings.clock, await factorsOf(tx, settings.clock))
    const deposits = await depositsSince(tx, settings.clock)
    return { today: next, delivered: passingDays().dayPassed(settings.clock, deposits) }
  })
  // What the bank collects on the new day is posted on it.
  await collectDue(database)
  await takeInvoices(database, passed.today)
  await takeAnswers(database)
  await answersTo(passed.today, await sentOn(database, addDays(passed.today, -1)))
  return passed
}

const sentOnRow = z.object({
  contact: cell.text,
  language: cell.text,
  customer: cell.text,
  subject: cell.text,
  to: cell.text,
  messageId: cell.text,
  customerId: cell.whole,
})

const sentOnOpenItemRow = z.object({
  number: cell.text,
  open: cell.whole,
  currency: cell.text,
  customerId: cell.whole,
})

/** Letters that customers got on a day, with what they were asked for. */
async function sentOn(database: Handle, day: IsoDate): Promise<Answerable[]> {
  const { sender } = await readSettings(database)
  const letters = await database.rows(
    sentOnRow,
    `SELECT o.message_id AS messageId, o.subject, o.recipient AS \`to\`, c.contact, c.name AS customer, c.language,
      c.id AS customerId FROM outbox o JOIN customer c ON c.id = o.customer_id
      WHERE o.state = 'sent' AND DATE(o.sent_at) = :day ORDER BY o.id`,
    { day },
  )
  if (!letters.length) return []
  const items = await database.rows(
    sentOnOpenItemRow,
    `SELECT o.customer_id AS customerId, i.number, o.open, o.currency FROM open_item o JOIN item i ON i.id = o.item_id
      WHERE o.customer_id IN (:ids) AND o.open > 0 AND i.register = 'document' ORDER BY o.due_date, i.id`,
    { ids: letters.map(l => l.customerId) },
  )
  return letters.map(({ customerId, ...letter }) => ({
    ...letter,
    from: sender,
    items: items.filter(i => i.customerId === customerId).slice(0, 3),
  }))
}

/** What factors told meanwhile. A file that cannot be taken waits, and is told where factors are shown. */
async function takeAnswers(database: Handle): Promise<void> {
  const by = await supervisor(database)
  if (by) await takeFactorFiles(database, by)
}

/** In whose name things are done that nobody asked for. */
async function supervisor(database: Handle): Promise<Actor | undefined> {
  const [by] = await database.find(
    'person',
    { role: 'supervisor', active: 1 },
    { columns: ['id', 'name', 'email', 'role'], order: ['id'], limit: 1 },
  )
  return by
}

/** What the house invoiced meanwhile; what is there already is left as it is. */
async function takeInvoices(database: Handle, today: IsoDate): Promise<void> {
  // The day that begins has not been invoiced yet.
  // Into a closed period nothing is invoiced; one such row would keep all others out.
  const { closedUntil } = await readSettings(database)
  const csv = passingDays().invoiced(addDays(today, -1), closedUntil)
  if (!csv) return
  const by = await supervisor(database)
  if (by) await importDocuments(database, by, csv, { dryRun: false, skipExisting: true }, async () => {})
}

const depositsSinceRow = z.object({
  number: cell.text,
  currency: cell.text,
  date: cell.text,
  total: cell.whole,
  id: cell.whole,
})

const depositsSinceSlipMeansRow = z.object({
  reference: cell.text,
  amount: cell.whole,
  receipt: cell.text,
  slipId: cell.whole,
})

/** Slips that were handed over at the bank's counter in the last month. */
async function depositsSince(database: Handle, day: IsoDate): Promise<Deposit[]> {
  const slips = await database.rows(
    depositsSinceRow,
    `SELECT s.id, s.number, s.currency, s.total - s.cash_kept AS total, s.date FROM slip s
      WHERE s.void_entry_id IS NULL AND s.date >= DATE_SUB(:day, INTERVAL 30 DAY) ORDER BY s.id`,
    { day },
  )
  const cheques = await database.rows(
    depositsSinceSlipMeansRow,
    `SELECT sm.slip_id AS slipId, m.reference, m.amount, i.number AS receipt FROM slip_means sm
      JOIN receipt_means m ON m.id = sm.means_id JOIN item i ON i.id = m.item_id
      WHERE m.means = 'cheque' AND sm.slip_id IN (:ids)
      AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = i.id)`,
    { ids: [0, ...slips.map(s => s.id)] },
  )
  return slips.map(({ id, ...s }) => ({
    ...s,
    total: Number(s.total),
    cheques: cheques.filter(c => c.slipId === id).map(({ slipId: _, ...c }) => c),
  }))
}
