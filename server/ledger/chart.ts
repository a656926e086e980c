import { z } from 'zod'
import { cell } from '../db/rows'
import type { Sequelize } from 'sequelize'
import { KEPT, type Chart, type LedgerState } from '../../core/ledger'
import type { Handle } from '../db/handle'

type Accounts = Pick<LedgerState, 'chart' | 'accounts'>

/** Of each pool the chart as last read, by its version. */
const known = new WeakMap<Sequelize, { version: number } & Accounts>()

const loadChartRow = z.object({
  purpose: z
    .enum([
      'receivables',
      'bank',
      'on-hand',
      'clearing',
      'revenue',
      'tax',
      'reminder-fees',
      'late-interest',
      'compensation',
      'petty-cash',
      'exchange',
      'discount',
      'difference',
      'advances',
      'charges-on',
      'bank-charges',
      'opening',
      'write-off',
      'allowance',
      'allowance-change',
      'recovery',
      'paying-out',
      'lapsed-income',
      'lapsed-owed',
    ])
    .nullable(),
  number: cell.text,
  bank: cell.whole,
})

/**
 * The chart by purpose, and which accounts there are; those of a register are not posted to by hand. Read
 * once for each version: every Command needs it, and it hardly ever changes.
 */
export async function loadChart(database: Handle, version: number): Promise<Accounts> {
  const last = known.get(database.sequelize)
  if (last?.version === version) return last
  const rows = await database.rows(
    loadChartRow,
    `SELECT a.number, a.purpose, EXISTS (SELECT 1 FROM bank_account b WHERE b.account = a.number) AS bank
      FROM ledger_account a`,
  )
  const kept = new Set<keyof Chart | null>(KEPT)
  const kindOf = (r: (typeof rows)[number]) =>
    Boolean(Number(r.bank)) || kept.has(r.purpose) ? ('kept' as const) : ('free' as const)
  const chart = Object.fromEntries(rows.flatMap(r => (r.purpose ? [[r.purpose, r.number]] : []))) as Chart
  const read = { version, chart, accounts: new Map(rows.map(r => [r.number, kindOf(r)])) }
  known.set(database.sequelize, read)
  return read
}
