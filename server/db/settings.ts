import { z } from 'zod'
import { cell } from './rows'
import { inserting, type Handle } from './handle'
import { bucketsOf, type Bucket } from '../../core/aging'
import { sureEnough } from '../../core/banking/matching/model'
import { IMPAIRMENT_POLICY, type ImpairmentPolicy } from '../../core/impairment'
import type { IsoDate } from '../../core/calendar'
import { FORECAST_POLICY, type ForecastPolicy } from '../../core/forecast/policy'
import { FACTORING_POLICY, type FactoringPolicy } from '../../core/factoring'
import { HOLD_RULES, type HoldRules } from '../../core/exposure'
import type { Measure } from '../../core/measures'
import { WEIGHTS, type Weights } from '../../core/review'
import type { ReceiptPolicy } from '../../core/ledger'
import { PAYMENT_POLICY, type PaymentPolicy } from '../../core/payments'
import type { ReminderSchedule } from '../../core/reminders'
import { THRESHOLDS, type Thresholds } from '../../core/signOff'

const RECEIPT_POLICY: ReceiptPolicy = { discountGraceDays: 2, partPayments: 'lose', tolerance: 500 }

// A transfer takes one bank working day (Regulation (EU) 260/2012 and PSD2, art. 83), the statement another.
const PROMISE_GRACE_DAYS = 2

export type Versioned = 'chart' | 'customers'

/** Who is let in. */
export interface Access {
  /** A session ends after so many minutes without a request. */
  idleMinutes: number
  /** And so many hours after sign-in, whatever happens. */
  absoluteHours: number
  /** Names that browsers may reach us by, beside this machine itself. */
  hosts: string[]
  /** Addresses and ranges whose X-Forwarded-For is believed. */
  proxies: string[]
}

// OWASP ASVS 5.0, 7.3: an inactivity limit and a limit for the session as a whole; a working day here.
const ACCESS: Access = { idleMinutes: 60, absoluteHours: 12, hosts: [], proxies: [] }

/** What is applied without a look follows from what an error costs. */
export interface Matching {
  automatic: boolean
  /** One wrong posting costs as much as so many looks. */
  wrongCosts: number
  /** From which confidence that makes a look dearer than the risk. */
  threshold: number
}

// Undoing a wrong posting and its letters takes some minutes, a look some seconds: our judgement.
const WRONG_COSTS = 40

/** Before the cost was told, the threshold was: it stands for the cost that leads to it. */
function matchingOf(kept: Partial<Matching> | undefined): Matching {
  const before =
    kept?.threshold === undefined ? WRONG_COSTS : Math.round(1 / Math.max(0.0001, 1 - kept.threshold))
  const wrongCosts = kept?.wrongCosts ?? before
  return { automatic: kept?.automatic ?? true, wrongCosts, threshold: sureEnough(wrongCosts) }
}

/** Where the house is, and how it is paid: what a letter of ours carries. Empty: not told yet. */
export interface House {
  street: string
  postcode: string
  city: string
  country: string
  vatNumber: string
  email: string
  phone: string
  bank: string
  iban: string
  bic: string
  /** A picture as PNG or JPEG, base64; empty for none. */
  logo: string
}

const HOUSE: House = {
  street: '',
  postcode: '',
  city: '',
  country: '',
  vatNumber: '',
  email: '',
  phone: '',
  bank: '',
  iban: '',
  bic: '',
  logo: '',
}

export interface BucketSet {
  name: string
  /** Upper bounds in days late, as of the buckets of the house. */
  bounds: number[]
}

/** Of overdue `overdueTarget` is the target: it was there first. */
export type MeasureTargets = Partial<Record<Exclude<Measure, 'overdue'>, number>>

export interface Settings {
  company: string
  house: House
  base: string
  /** The business date: the Clock of the demo, else the calendar's. */
  today: IsoDate
  clock: IsoDate | null
  /** IANA name of the house's time zone: its day begins there, and stamps are shown in it. */
  timeZone: string
  closedUntil: IsoDate | null
  bounds: number[]
  buckets: Bucket[]
  /** Further sets of buckets to age by, each with its name. */
  bucketSets: BucketSet[]
  /** When accounts are held. */
  holdRules: HoldRules
  /** From which amounts a second person signs. */
  signOff: Thresholds
  /** Overdue balance the team aims to stay under, base minor units. */
  overdueTarget: number
  /** What the team aims at, by measure: days and percents, money in base minor units. */
  measureTargets: MeasureTargets
  /** Bank working days after its date within which a promise is still kept. */
  promiseGraceDays: number
  /** When reminder runs are prepared by themselves; null: never. */
  reminderSchedule: ReminderSchedule | null
  /** Of the parts of the score of an account. */
  reviewWeights: Weights
  /** House rules for receipts. */
  receiptPolicy: ReceiptPolicy
  /** How the house pays back and collects. */
  paymentPolicy: PaymentPolicy
  /** How the house gives up claims. */
  impairmentPolicy: ImpairmentPolicy
  factoringPolicy: FactoringPolicy
  forecastPolicy: ForecastPolicy
  /** Bank lines at least as sure as `threshold` are taken without a look, when that is on. */
  matching: Matching
  /** Address that letters are sent from. */
  sender: string
  demo: boolean
  access: Access
  /** Of what is read once and kept until it changes: counted up with each change. */
  versions: Record<Versioned, number>
}

const readSettingsRow = z.object({
  name: cell.text,
  value: cell.text,
})

/** The settings; behind a lock none of them changes before the transaction ends. */
export async function readSettings(database: Handle, lock?: 'share' | 'change'): Promise<Settings> {
  const locking = lock === 'change' ? 'FOR UPDATE' : lock === 'share' ? 'LOCK IN SHARE MODE' : ''
  const rows = await database.rows(readSettingsRow, `SELECT name, value FROM setting ${locking}`)
  const value = new Map(rows.map(r => [r.name, JSON.parse(r.value) as unknown]))
  const clock = (value.get('clock') as IsoDate | undefined) ?? null
  const timeZone = (value.get('timeZone') as string | undefined) ?? 'Europe/Dublin'
  const bounds = (value.get('bounds') as number[] | undefined) ?? [30, 60, 90]
  return {
    company: (value.get('company') as string | undefined) ?? 'Your company',
    house: { ...HOUSE, ...(value.get('house') as Partial<House> | undefined) },
    base: (value.get('base') as string | undefined) ?? 'EUR',
    timeZone,
    today: clock ?? dayIn(timeZone, new Date()),
    clock,
    closedUntil: (value.get('closedUntil') as IsoDate | undefined) ?? null,
    bounds,
    buckets: bucketsOf(bounds),
    holdRules: { ...HOLD_RULES, ...(value.get('holdRules') as Partial<HoldRules> | undefined) },
    signOff: { ...THRESHOLDS, ...(value.get('signOff') as Thresholds | undefined) },
    bucketSets: (value.get('bucketSets') as BucketSet[] | undefined) ?? [],
    receiptPolicy: {
      ...RECEIPT_POLICY,
      ...(value.get('receiptPolicy') as Partial<ReceiptPolicy> | undefined),
    },
    paymentPolicy: {
      ...PAYMENT_POLICY,
      ...(value.get('paymentPolicy') as Partial<PaymentPolicy> | undefined),
    },
    impairmentPolicy: {
      ...IMPAIRMENT_POLICY,
      ...(value.get('impairmentPolicy') as Partial<ImpairmentPolicy> | undefined),
    },
    factoringPolicy: {
      ...FACTORING_POLICY,
      ...(value.get('factoringPolicy') as Partial<FactoringPolicy> | undefined),
    },
    forecastPolicy: {
      ...FORECAST_POLICY,
      ...(value.get('forecastPolicy') as Partial<ForecastPolicy> | undefined),
    },
    matching: matchingOf(value.get('matching') as Partial<Matching> | undefined),
    measureTargets: (value.get('measureTargets') as MeasureTargets | undefined) ?? {},
    promiseGraceDays: (value.get('promiseGraceDays') as number | undefined) ?? PROMISE_GRACE_DAYS,
    reminderSchedule: (value.get('reminderSchedule') as ReminderSchedule | null | undefined) ?? null,
    reviewWeights: { ...WEIGHTS, ...(value.get('reviewWeights') as Partial<Weights> | undefined) },
    overdueTarget: (value.get('overdueTarget') as number | undefined) ?? 0,
    sender: (value.get('sender') as string | undefined) ?? 'receivables@bilancio.example',
    demo: (value.get('demo') as boolean | undefined) ?? false,
    access: { ...ACCESS, ...(value.get('access') as Partial<Access> | undefined) },
    versions: {
      chart: (value.get('chart') as number | undefined) ?? 0,
      customers: (value.get('customers') as number | undefined) ?? 0,
    },
  }
}

/**
 * Says that the chart of accounts, or the customers, change with this transaction. Postings hold the settings
 * while they decide, so none of them decides with an older chart than it writes to.
 */
export async function changes(tx: Handle, what: Versioned): Promise<void> {
  await tx.run(
    `INSERT INTO setting (name, value) VALUES (:what, '1') ON DUPLICATE KEY UPDATE value = value + 1`,
    { what },
  )
}

export async function writeSetting(
  database: Handle,
  personId: number,
  name: string,
  value: unknown,
): Promise<void> {
  const [old] = await database.find('setting', { name }, { columns: ['value'] })
  const text = JSON.stringify(value)
  await database.put('setting', [{ name, value: text }], ['value'])
  await audit(database, personId, 'setting', name, old?.value ?? null, text)
}

/** One row of the audit trail: who, when, before, after. */
export async function audit(
  database: Handle,
  personId: number,
  what: string,
  about: string,
  before: string | null,
  after: string | null,
): Promise<void> {
  const row = { what, about, before_value: before, after_value: after, person_id: personId }
  if (database.inTransaction) database.defer(inserting('audit', [row]))
  else await database.insert('audit', [row])
}

/** Making one takes longer than all else that reading the settings does. */
const dayFormats = new Map<string, Intl.DateTimeFormat>()

/** The calendar day at an instant in a time zone. */
export function dayIn(timeZone: string, instant: Date): IsoDate {
  let format = dayFormats.get(timeZone)
  if (!format) {
    // The Canadian form of a date is the ISO form.
    format = new Intl.DateTimeFormat('en-CA', {
      timeZone,
      year: 'numeric',
      month: '2-digit',
      day: '2-digit',
    })
    dayFormats.set(timeZone, format)
  }
  return format.format(instant)
}

export function isTimeZone(name: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: name })
    return true
  } catch {
    return false
  }
}
