import { z } from 'zod'
import { cell } from '../../db/rows'
import { addDays, daysBetween, isIsoDate, type IsoDate } from '../../../core/calendar'
import { byDay, dryRun, effectOfLevels, policyRefusals, type DryNotice } from '../../../core/reminders'
import type { dryRunAsk, DryRunAnswer, WorkedAnswer } from '../../../contract/reminders'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { ProblemError } from '../common/problems'
import type { Progress } from '../documents/imports'
import { customerHistories, observedItems } from './history'
import { referenceRates } from './rates'
import { baseOf } from './runs'

type Ask = z.output<typeof dryRunAsk>

/** Days of a dry-run: every so many from the first to the last; at most a year of weeks. */
const MOST_DAYS = 60

function daysOf({ from, until, every }: Ask, today: IsoDate): IsoDate[] {
  const fault = (path: string, message: string, satisfy: string) =>
    new ProblemError(422, 'Not a dry-run', `${message}: ${satisfy}`, [{ path, message, satisfy }])
  if (!isIsoDate(from) || !isIsoDate(until) || until > today)
    throw fault('until', 'a dry-run looks at what was', `${today} or earlier`)
  if (until < from) throw fault('until', 'it ends before it begins', `${from} or later`)
  const days: IsoDate[] = []
  for (let day = from; day <= until; day = addDays(day, every)) days.push(day)
  if (days.length > MOST_DAYS)
    throw fault('from', `${days.length} days are too many`, `at most ${MOST_DAYS}, such as a year of weeks`)
  return days
}

/** What is wrong with the ask, told before a job is queued for it. */
export async function requireDryRun(database: Handle, ask: Ask): Promise<void> {
  const { today } = await readSettings(database)
  daysOf(ask, today)
  const [fault] = policyRefusals(ask.policy)
  if (fault)
    throw new ProblemError(422, 'Not a policy', `${fault.message}: ${fault.satisfy}`, [
      { path: `policy.${fault.path}`, message: fault.message, satisfy: fault.satisfy },
    ])
}

const AT_ONCE = 300
/** So many letters are shown one by one. */
const SHOWN = 400

const runDryRow = z.object({
  on: cell.day,
  currency: cell.text,
  level: cell.whole,
  notices: cell.sum,
  overdue: cell.sum,
  fee: cell.sum,
  interest: cell.sum,
})

/**
 * What a policy would have sent on days of the past, to the customers that are under it today, beside what
 * was really sent. Nothing is kept of it.
 */
export async function runDry(database: Handle, ask: Ask, progress: Progress): Promise<DryRunAnswer> {
  const settings = await readSettings(database)
  const { today } = settings
  const days = daysOf(ask, today)
  const rates = await referenceRates(database)
  const ids = await customersUnder(database, ask.code, ask.from)
  const notices: DryNotice[] = []
  const policy = { ...ask.policy, code: ask.code, validFrom: ask.from }
  for (let at = 0; at < ids.length; at += AT_ONCE) {
    await progress('looking back', at, ids.length)
    const customers = await customerHistories(database, ids.slice(at, at + AT_ONCE), today)
    notices.push(...dryRun(customers, policy, rates, days))
  }
  const sent = await database.rows(
    runDryRow,
    `SELECT n.on_date AS \`on\`, n.currency, n.level, COUNT(*) AS notices, SUM(n.total) AS overdue,
      SUM(n.fee) AS fee, SUM(n.interest) AS interest FROM live_notice n
      WHERE n.on_date BETWEEN :from AND :until AND n.policy = :code AND n.level > 0
      GROUP BY n.on_date, n.currency, n.level`,
    { from: ask.from, until: ask.until, code: ask.code },
  )
  const inBase = await baseOf(database, settings, today, [...notices, ...sent])
  const dry = byDay(notices, days, (amount, currency) => inBase(amount, currency))
  // What was sent between two days of the dry-run stands with the first of them.
  const real = new Map(days.map(on => [on, { notices: 0, overdue: 0, fee: 0, interest: 0 }]))
  for (const s of sent) {
    const own = real.get(days[Math.floor(daysBetween(ask.from, s.on) / ask.every)] ?? '')
    if (!own) continue
    own.notices += int(s.notices)
    own.overdue += inBase(int(s.overdue), s.currency)
    own.fee += inBase(int(s.fee), s.currency)
    own.interest += inBase(int(s.interest), s.currency)
  }
  return {
    base: settings.base,
    customers: ids.length,
    days: dry.map(d => ({ ...d, sent: real.get(d.on)! })),
    notices: notices.slice(-SHOWN).reverse(),
    letters: notices.length,
  }
}

const customersUnderRow = z.object({
  id: cell.whole,
})

async function customersUnder(database: Handle, code: string, from: IsoDate): Promise<number[]> {
  const rows = await database.rows(
    customersUnderRow,
    `SELECT c.id FROM customer c LEFT JOIN customer_class k ON k.code = c.class
      WHERE c.merged_into IS NULL AND COALESCE(NULLIF(c.policy, ''), NULLIF(k.policy, ''), 'standard') = :code
      AND EXISTS (SELECT 1 FROM item i WHERE i.customer_id = c.id AND i.due_date >= DATE_SUB(:from, INTERVAL 1 YEAR))
      ORDER BY c.number`,
    { code, from },
  )
  return rows.map(r => r.id)
}

/** So far back the effect of reminders is measured. */
const BACK_DAYS = 400

/** What worked: cash after each level of each policy, beside items left alone at the same age. */
export async function whatWorked(database: Handle): Promise<WorkedAnswer> {
  const { today, base } = await readSettings(database)
  const since = addDays(today, -BACK_DAYS)
  const { items, every } = await observedItems(database, since)
  return { base, since, until: today, every, items: effectOfLevels(items, today) }
}
