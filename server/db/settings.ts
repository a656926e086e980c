import type { Sequelize, Transaction } from 'sequelize'
import { bucketsOf, type Bucket } from '../../core/aging'
import type { IsoDate } from '../../core/calendar'
import type { ReceiptPolicy } from '../../core/ledger'
import { select } from './connection'

const RECEIPT_POLICY: ReceiptPolicy = { discountGraceDays: 2, partPayments: 'lose', tolerance: 500 }

export interface Settings {
  company: string
  base: string
  /** The business date: the Clock of the demo, else the calendar's. */
  today: IsoDate
  clock: IsoDate | null
  closedUntil: IsoDate | null
  bounds: number[]
  buckets: Bucket[]
  /** Overdue balance the team aims to stay under, base minor units. */
  overdueTarget: number
  /** House rules for receipts. */
  receiptPolicy: ReceiptPolicy
  /** Bank lines at least so sure are taken without a look, when that is on. */
  matching: { automatic: boolean; threshold: number }
  /** Address that letters are sent from. */
  sender: string
  demo: boolean
}

export async function readSettings(database: Sequelize, tx?: Transaction): Promise<Settings> {
  const rows = await select<{ name: string; value: string }>(
    database,
    'SELECT name, value FROM setting',
    {},
    tx,
  )
  const value = new Map(rows.map(r => [r.name, JSON.parse(r.value) as unknown]))
  const clock = (value.get('clock') as IsoDate | undefined) ?? null
  const bounds = (value.get('bounds') as number[] | undefined) ?? [30, 60, 90]
  return {
    company: (value.get('company') as string | undefined) ?? 'Your company',
    base: (value.get('base') as string | undefined) ?? 'EUR',
    today: clock ?? new Date().toISOString().slice(0, 10),
    clock,
    closedUntil: (value.get('closedUntil') as IsoDate | undefined) ?? null,
    bounds,
    buckets: bucketsOf(bounds),
    receiptPolicy: {
      ...RECEIPT_POLICY,
      ...(value.get('receiptPolicy') as Partial<ReceiptPolicy> | undefined),
    },
    matching: {
      automatic: true,
      threshold: 0.95,
      ...(value.get('matching') as Partial<Settings['matching']> | undefined),
    },
    overdueTarget: (value.get('overdueTarget') as number | undefined) ?? 0,
    sender: (value.get('sender') as string | undefined) ?? 'receivables@bilancio.example',
    demo: (value.get('demo') as boolean | undefined) ?? false,
  }
}

export async function writeSetting(
  database: Sequelize,
  personId: number,
  name: string,
  value: unknown,
  tx?: Transaction,
): Promise<void> {
  const [old] = await select<{ value: string }>(
    database,
    'SELECT value FROM setting WHERE name = :name',
    { name },
    tx,
  )
  const text = JSON.stringify(value)
  await database.query(
    'INSERT INTO setting (name, value) VALUES (:name, :text) ON DUPLICATE KEY UPDATE value = :text',
    { replacements: { name, text }, transaction: tx },
  )
  await audit(database, personId, 'setting', name, old?.value ?? null, text, tx)
}

/** One row of the audit trail: who, when, before, after. */
export async function audit(
  database: Sequelize,
  personId: number,
  what: string,
  about: string,
  before: string | null,
  after: string | null,
  tx?: Transaction,
): Promise<void> {
  await database
    .getQueryInterface()
    .bulkInsert('audit', [{ what, about, before_value: before, after_value: after, person_id: personId }], {
      transaction: tx,
    })
}
