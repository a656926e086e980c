import { Op } from '../../db/where'
import { z } from 'zod'
import { insuredOn } from '../../../core/accounts'
import type { IsoDate } from '../../../core/calendar'
import {
  allowanceBridge,
  allowanceOf,
  differenceOf,
  inBands,
  type Allowance,
  type AllowanceAsk,
  type AllowanceBridge,
  type BearerOf,
  type CaseKind,
  type JudgedCase,
  type Posted,
  type Stood,
} from '../../../core/impairment'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import type { Settings } from '../../db/settings'
import { inBaseToday } from '../../ledger/rates'
import { INHERITED, WITH_CLASS } from '../accounts/inherited'
import { readExposed } from './exposed'

/** A named case as it stood on a day, with whose it is. */
export interface CaseRow extends JudgedCase {
  customer: string
  customerName: string
  item: string | null
  kind: CaseKind
  text: string
  since: IsoDate
  by: string
}

const caseRow = z.object({
  id: cell.whole,
  customerId: cell.whole,
  itemId: cell.whole.nullable(),
  customer: cell.text,
  customerName: cell.text,
  item: cell.text.nullable(),
  kind: z.enum(['insolvency', 'dispute', 'lawyer']),
  rate: cell.whole,
  text: cell.text,
  since: cell.day,
  by: cell.text,
})

/** The cases that ran on a day. */
export function casesOn(db: Handle, date: IsoDate): Promise<CaseRow[]> {
  return db.rows(
    caseRow,
    `SELECT k.id, k.customer_id AS customerId, k.item_id AS itemId, c.number AS customer, c.name AS customerName,
      i.number AS item, k.kind, k.rate, k.text, k.on_date AS since, p.name AS \`by\`
      FROM allowance_case k JOIN customer c ON c.id = k.customer_id JOIN person p ON p.id = k.person_id
      LEFT JOIN item i ON i.id = k.item_id
      WHERE k.on_date <= :date AND (k.ended_on IS NULL OR k.ended_on > :date) ORDER BY c.name, k.id`,
    { date },
  )
}

const bearerRow = z.object({
  id: cell.whole,
  riskClass: cell.text,
  insured: cell.whole.nullable(),
  insuredUntil: cell.day.nullable(),
  currency: cell.text,
})

/** Of customers with a risk class or an insurer what an allowance asks; of the others there is nothing. */
async function readBearers(db: Handle, { base }: Settings, date: IsoDate): Promise<Map<number, BearerOf>> {
  const rows = await db.rows(
    bearerRow,
    `SELECT c.id, ${INHERITED.riskClass} AS riskClass, c.insured_limit AS insured,
      c.insured_until AS insuredUntil, COALESCE(NULLIF(c.limit_currency, ''), :base) AS currency
      FROM customer c ${WITH_CLASS} WHERE ${INHERITED.riskClass} <> '' OR c.insured_limit > 0`,
    { base },
  )
  const inBase = await inBaseToday(
    db,
    { base, today: date },
    rows.filter(r => (r.insured ?? 0) > 0).map(r => r.currency),
  )
  return new Map(
    rows.map(({ id, riskClass, insured, insuredUntil, currency }) => {
      const limit = { amount: null, currency, from: null, until: null, insured, insuredUntil }
      return [id, { riskClass, insured: inBase(insuredOn(limit, date), currency) }]
    }),
  )
}

const postedRow = z.object({ currency: cell.text, amount: cell.sum, base: cell.sum })

/** What is set aside as of a day, by currency: the credit balance of its account. */
async function postedOn(db: Handle, date: IsoDate): Promise<Posted> {
  const rows = await db.rows(
    postedRow,
    `SELECT l.currency, -SUM(l.amount) AS amount, -SUM(l.base_amount) AS base
      FROM journal_line l JOIN entry e ON e.id = l.entry_id
      WHERE l.account = (SELECT number FROM ledger_account WHERE purpose = 'allowance') AND e.date <= :date
      GROUP BY l.currency ORDER BY l.currency`,
    { date },
  )
  return rows.map(r => ({ currency: r.currency, amount: int(r.amount), base: int(r.base) }))
}

/** The last allowance that stands and is of a day before. */
async function lastBefore(
  db: Handle,
  date: IsoDate,
): Promise<(Stood & { id: number; date: IsoDate; bounds: string }) | null> {
  const [run] = await db.find(
    'allowance_run',
    { live: 1, date: { [Op.lt]: date } },
    { columns: ['id', 'date', 'bounds'], order: [['date', 'DESC']], limit: 1 },
  )
  if (!run) return null
  const cells = await db.find(
    'allowance_cell',
    { run_id: run.id },
    {
      columns: {
        riskClass: 'risk_class',
        currency: 'currency',
        band: 'band',
        rate: 'rate',
        allowanceBase: 'allowance_base',
      },
    },
  )
  const named = await db.find(
    'allowance_named',
    { run_id: run.id },
    { columns: { id: 'case_id', allowanceBase: 'allowance_base' } },
  )
  return { ...run, cells, named }
}

/** An allowance worked out, with all that it is made of and what it is held against. */
export interface WorkedOut {
  date: IsoDate
  ask: AllowanceAsk
  bounds: readonly number[]
  allowance: Allowance
  cases: CaseRow[]
  posted: Posted
  difference: Allowance['totals']
  bridge: AllowanceBridge & { from: IsoDate | null }
  /** An allowance that stands and is of this day, or of a later one. */
  standing: IsoDate | null
}

/** Of another division into bands nothing is the same cell: all of it was released, and is added anew. */
const apart = (last: Stood): Stood => ({
  ...last,
  cells: last.cells.map(c => ({ ...c, band: -1 - c.band })),
})

/** Works the allowance of a day out. Throws NoRate where an insured limit cannot be told in base currency. */
export async function workOut(
  db: Handle,
  settings: Settings,
  { date, factor, reason }: { date: IsoDate; factor: number; reason: string },
): Promise<WorkedOut> {
  const { bounds, matrix } = settings.impairmentPolicy.allowance
  const cases = await casesOn(db, date)
  const exposed = await readExposed(db, settings, date, {
    bounds,
    cases: cases.map(({ id, customerId, itemId }) => ({ id, customerId, itemId })),
  })
  const bearers = await readBearers(db, settings, date)
  const { open, named } = inBands(
    exposed,
    cases,
    customerId => bearers.get(customerId) ?? { riskClass: '', insured: 0 },
  )
  const ask = { matrix, factor, reason }
  const allowance = allowanceOf(open, named, ask)
  const posted = await postedOn(db, date)
  const last = await lastBefore(db, date)
  const isSame = last?.bounds === bounds.join(',')
  const opening = last ? [...last.cells, ...last.named].reduce((sum, c) => sum + c.allowanceBase, 0) : 0
  const postedBase = posted.reduce((sum, p) => sum + p.base, 0)
  const [standing] = await db.find(
    'allowance_run',
    { live: 1, date: { [Op.gte]: date } },
    { columns: ['date'], order: ['date'], limit: 1 },
  )
  return {
    date,
    ask,
    bounds,
    allowance,
    cases,
    posted,
    difference: differenceOf(allowance.totals, posted),
    bridge: {
      ...allowanceBridge(last && (isSame ? last : apart(last)), allowance, opening - postedBase),
      from: last?.date ?? null,
    },
    standing: standing?.date ?? null,
  }
}
