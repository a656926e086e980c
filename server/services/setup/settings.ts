import { z } from 'zod'
import { cell } from '../../db/rows'
import { electronicFormatIBAN, isValidIBAN } from 'ibantools'
import { bucketsOf } from '../../../core/aging'
import { can } from '../../../core/people'
import type { FactoringPolicy } from '../../../core/factoring'
import type { ForecastPolicy } from '../../../core/forecast'
import type { ImpairmentPolicy } from '../../../core/impairment'
import type { ReminderSchedule } from '../../../core/reminders'
import type { HoldRules } from '../../../core/exposure'
import type { Weights } from '../../../core/review'
import type { Thresholds } from '../../../core/signOff'
import type { ReceiptPolicy } from '../../../core/ledger'
import type { PaymentPolicy } from '../../../core/payments'
import type { SettingsAnswer } from '../../../contract/setup'
import type { Handle } from '../../db/handle'
import { isTimeZone, readSettings, writeSetting } from '../../db/settings'
import type { Access, BucketSet, House, MeasureTargets } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { requireAbility } from '../../ledger/rights'
import { ProblemError } from '../common/problems'
import { forgetAccessRules } from '../people/access'
import { isRange } from '../people/network'
import type { Actor } from '../people/scope'

const readSettingsAnswerRow = z.object({
  name: cell.text,
  prefix: cell.text,
  next: cell.whole,
})

export async function readSettingsAnswer(database: Handle, actor: Actor): Promise<SettingsAnswer> {
  const settings = await readSettings(database)
  const [chart, series, classes, currencies, countries] = await Promise.all([
    database.find(
      'ledger_account',
      {},
      { columns: ['number', 'name', 'type', 'purpose'], order: ['number'] },
    ),
    database.rows(
      readSettingsAnswerRow,
      "SELECT name, prefix, next FROM series WHERE name NOT LIKE '%-id' ORDER BY name",
    ),
    database.find(
      'customer_class',
      {},
      { columns: { code: 'code', name: 'name', keepOnItem: 'keep_on_item' }, order: ['name'] },
    ),
    database.find('account_total', {}, { columns: ['currency'], order: ['currency'], distinct: true }),
    database.find('customer', {}, { columns: ['country'], order: ['country'], distinct: true }),
  ])
  const {
    company,
    house,
    base,
    today,
    demo,
    closedUntil,
    bounds,
    buckets,
    bucketSets,
    holdRules,
    signOff,
    overdueTarget,
    measureTargets,
    reviewWeights,
    promiseGraceDays,
    reminderSchedule,
    receiptPolicy,
    paymentPolicy,
    impairmentPolicy,
    factoringPolicy,
    forecastPolicy,
    matching,
    timeZone,
  } = settings
  return {
    company,
    house,
    base,
    today,
    demo,
    closedUntil,
    bounds,
    buckets: buckets.map(b => ({ label: b.label })),
    bucketSets,
    holdRules,
    signOff,
    overdueTarget,
    measureTargets,
    reviewWeights,
    promiseGraceDays,
    reminderSchedule: reminderSchedule && withoutPerson(reminderSchedule),
    receiptPolicy,
    paymentPolicy,
    impairmentPolicy,
    factoringPolicy,
    forecastPolicy,
    matching,
    timeZone,
    access: can(actor.role, 'people.edit') ? settings.access : null,
    chart,
    series,
    classes: classes.map(c => ({ ...c, keepOnItem: Boolean(c.keepOnItem) })),
    currencies: currencies.map(c => c.currency),
    countries: countries.map(c => c.country),
  }
}

const withoutPerson = ({ personId: _, ...schedule }: ReminderSchedule) => schedule

export interface Changes {
  company?: string
  house?: House
  base?: string
  timeZone?: string
  bounds?: number[]
  bucketSets?: BucketSet[]
  holdRules?: HoldRules
  signOff?: Thresholds
  overdueTarget?: number
  measureTargets?: MeasureTargets
  reviewWeights?: Weights
  promiseGraceDays?: number
  reminderSchedule?: Omit<ReminderSchedule, 'personId'> | null
  receiptPolicy?: ReceiptPolicy
  paymentPolicy?: PaymentPolicy
  impairmentPolicy?: ImpairmentPolicy
  factoringPolicy?: FactoringPolicy
  forecastPolicy?: ForecastPolicy
  matching?: { automatic: boolean; wrongCosts: number }
  closedUntil?: string | null
  access?: Access
}

/** All that was posted is told in the base currency: it stays once there is something. */
async function checkBase(tx: Handle, base: string): Promise<void> {
  const settings = await readSettings(tx)
  if (settings.base === base) return
  const [posted] = await tx.find('entry', {}, { columns: ['id'], limit: 1 })
  if (posted)
    throw new ProblemError(
      409,
      'Fixed',
      `the books are kept in ${settings.base}: that stays once anything is posted`,
      [{ path: 'base', message: 'fixed' }],
    )
}

/**
 * Changes settings: all of them or none. The settings are held while they change, and every posting holds
 * them too: so a period closes after the postings under way, and before any that follow.
 */
export async function changeSettings(
  database: Handle,
  actor: Actor,
  changes: Changes,
): Promise<SettingsAnswer> {
  if (changes.bounds) checkBounds(changes.bounds, 'bounds')
  changes.bucketSets?.forEach((set, i) => checkBounds(set.bounds, `bucketSets.${i}.bounds`))
  if (changes.reviewWeights && Object.values(changes.reviewWeights).every(w => w === 0))
    throw new ProblemError(422, 'Nothing weighs', 'a score needs a part with a weight above zero', [
      { path: 'reviewWeights', message: 'all are zero', satisfy: 'give one of them a weight' },
    ])
  if (changes.access) {
    requireAbility(actor, 'people.edit', 'access')
    checkAccess(changes.access)
  }
  if (changes.house?.iban && !isValidIBAN(electronicFormatIBAN(changes.house.iban) ?? ''))
    throw new ProblemError(422, 'Not an IBAN', `${changes.house.iban} is not a valid IBAN`, [
      { path: 'house.iban', message: 'not valid', satisfy: 'check its digits' },
    ])
  if (changes.timeZone && !isTimeZone(changes.timeZone))
    throw new ProblemError(422, 'Not a time zone', `${changes.timeZone} is not a time zone`, [
      { path: 'timeZone', message: 'unknown', satisfy: 'use an IANA name such as Europe/Dublin' },
    ])
  await database.transaction(async tx => {
    const { today } = await takeLocks(tx, { settings: 'change' })
    if (changes.base) await checkBase(tx, changes.base)
    if (changes.closedUntil) await checkClosing(tx, changes.closedUntil, today)
    if (changes.closedUntil !== undefined) await rememberClosing(tx, actor, changes.closedUntil)
    const { reminderSchedule: schedule, ...plain } = changes
    for (const [name, value] of Object.entries(plain)) await writeSetting(tx, actor.id, name, value)
    // What goes out by itself goes out in the name of who said so.
    if (schedule !== undefined)
      await writeSetting(tx, actor.id, 'reminderSchedule', schedule && { ...schedule, personId: actor.id })
  })
  forgetAccessRules()
  return readSettingsAnswer(database, actor)
}

/**
 * From which entry on the books are closed: all postings under way have ended, as they hold the settings.
 * With it `verify` finds a posting that came into a closed period.
 */
async function rememberClosing(tx: Handle, actor: Actor, until: string | null): Promise<void> {
  await tx.run(
    `INSERT INTO closing (until, after_entry, person_id)
      SELECT :until, COALESCE(MAX(id), 0), :personId FROM entry`,
    { until, personId: actor.id },
  )
}

function checkAccess(access: Access): void {
  const wrong = access.proxies.findIndex(p => !isRange(p))
  if (wrong >= 0)
    throw new ProblemError(422, 'Not an address', `${access.proxies[wrong]} is not an address`, [
      {
        path: `access.proxies.${wrong}`,
        message: 'not an address',
        satisfy: 'use an address or a range such as 10.0.0.0/8',
      },
    ])
  if (access.absoluteHours * 60 < access.idleMinutes) {
    const message = 'a session cannot idle longer than it lasts'
    throw new ProblemError(422, 'Not as asked', message, [{ path: 'access.idleMinutes', message }])
  }
}

function checkBounds(bounds: number[], path: string): void {
  try {
    bucketsOf(bounds)
  } catch (error) {
    const { message } = error as Error
    throw new ProblemError(422, 'Not bucket bounds', message, [{ path, message }])
  }
}

const checkClosingRow = z.object({
  name: cell.text,
  date: cell.text,
})

async function checkClosing(tx: Handle, until: string, today: string): Promise<void> {
  if (until >= today)
    throw new ProblemError(
      422,
      'Not a period end',
      `the books are closed up to a day before today, ${today}`,
      [{ path: 'closedUntil', message: 'a day before today' }],
    )
  const [batch] = await tx.rows(
    checkClosingRow,
    `SELECT p.name, b.date FROM batch b JOIN person p ON p.id = b.person_id WHERE b.state = 'open'
      AND b.date <= :until ORDER BY b.date LIMIT 1`,
    { until },
  )
  if (batch)
    throw new ProblemError(
      409,
      'A batch is open',
      `the batch of ${batch.name} dated ${batch.date} is open: close or delete it, then the period can close`,
      [{ path: 'closedUntil', message: 'a batch is open' }],
    )
}
