import { z } from 'zod'
import { cell } from '../db/rows'
import type { Handle } from '../db/handle'
import { readSettings, type Settings } from '../db/settings'

/**
 * What must hold still while a Command decides. Everything is locked before anything is read, table after
 * table in the order of `ORDER` and by id within one, so that two Commands never wait for each other in a
 * ring.
 */
export interface Locks {
  /** Settings are shared by all postings; `change` for what alters them, such as closing a period. */
  settings?: 'share' | 'change'
  bankAccounts?: readonly number[]
  runs?: readonly number[]
  collectionRuns?: readonly number[]
  batches?: readonly number[]
  bankLines?: readonly number[]
  slips?: readonly number[]
  means?: readonly number[]
  facilities?: readonly number[]
  /** What is set aside for bad debts, so that two do not use the same money. */
  allowance?: true
  customers?: readonly number[]
}

const ORDER = [
  ['bankAccounts', 'bank_account'],
  ['runs', 'reminder_run'],
  ['collectionRuns', 'collection_run'],
  ['batches', 'batch'],
  ['bankLines', 'bank_line'],
  ['slips', 'slip'],
  ['means', 'receipt_means'],
  ['facilities', 'factor_facility'],
  ['customers', 'customer'],
] as const satisfies readonly (readonly [Exclude<keyof Locks, 'settings' | 'allowance'>, string])[]

const CHUNK = 5000
const sorted = (ids: readonly number[] | undefined) => [...new Set(ids ?? [])].sort((a, b) => a - b)

const takeLocksRow = z.object({
  id: cell.sum,
})

/** Takes the locks; answers the settings as they are behind them. */
export async function takeLocks(tx: Handle, locks: Locks): Promise<Settings> {
  const settings = await readSettings(tx, locks.settings ?? 'share')
  for (const [what, table] of ORDER) {
    const ids = sorted(locks[what])
    for (let at = 0; at < ids.length; at += CHUNK) {
      await tx.rows(takeLocksRow, `SELECT id FROM ${table} WHERE id IN (:ids) ORDER BY id FOR UPDATE`, {
        ids: ids.slice(at, at + CHUNK),
      })
    }
  }
  if (locks.allowance)
    await tx.find('ledger_account', { purpose: 'allowance' }, { columns: ['number'], lock: true })
  return settings
}

/** Whether locks that are held cover those that are needed. */
export function covers(held: Locks, needed: Locks): boolean {
  if (needed.settings === 'change' && held.settings !== 'change') return false
  if (needed.allowance && !held.allowance) return false
  return ORDER.every(([what]) => {
    const own = new Set(held[what])
    return (needed[what] ?? []).every(id => own.has(id))
  })
}

/** All that several need, together. */
export function together(list: readonly Locks[]): Locks {
  const all: Locks = { settings: list.some(l => l.settings === 'change') ? 'change' : 'share' }
  if (list.some(l => l.allowance)) all.allowance = true
  for (const [what] of ORDER) all[what] = sorted(list.flatMap(l => l[what] ?? []))
  return all
}
