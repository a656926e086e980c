import { z } from 'zod'
import { bucketIndex } from '../../../core/aging'
import { addMonths, daysLate, endOfMonth, type IsoDate } from '../../../core/calendar'
import type { History } from '../../../contract/today'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { readSettings } from '../../db/settings'
import type { Scope } from '../people/scope'

const moveRow = z.object({ step: cell.sum, dueDate: cell.day, amount: cell.sum })

/** The last twelve month ends, and today when it is not one. */
function datesUpTo(today: IsoDate): IsoDate[] {
  const dates = Array.from({ length: 12 }, (_, i) => endOfMonth(addMonths(today, i - 12)))
  return dates.at(-1)! < today ? [...dates, today] : dates
}

/** What was invoiced less what was allocated, by the first of the days that sees it and by due date. */
type Sums = Map<string, { step: number; dueDate: IsoDate; amount: number }>

interface Kept {
  dates: string
  /** Up to which entry the sums go. */
  upTo: number
  sums: Sums
}

/**
 * Of each pool the sums of the whole house. The ledger is only added to, and entries have their numbers in
 * the order in which they are committed: so it is enough to read what came since.
 */
const kept = new WeakMap<object, Kept>()

/** Adds what entries after one, up to another, moved. One statement for all the days. */
async function addMoves(
  database: Handle,
  dates: readonly IsoDate[],
  scope: Scope,
  after: number,
  upTo: number,
  sums: Sums,
): Promise<void> {
  const step = (day: string) => dates.map((_, i) => `(${day} > :day${i})`).join(' + ')
  const own = scope.salesId ? 'JOIN customer c ON c.id = i.customer_id AND c.sales_id = :salesId' : ''
  const rows = await database.rows(
    moveRow,
    `SELECT step, due_date AS dueDate, SUM(amount) AS amount FROM (
        SELECT ${step('i.posting_date')} AS step, i.due_date, i.base_amount AS amount
        FROM item i ${own} WHERE i.side = 'debit' AND i.entry_id > :after AND i.entry_id <= :upTo
      UNION ALL
        SELECT ${step('GREATEST(a.effective, i.posting_date)')}, i.due_date, -a.debit_base
        FROM allocation a JOIN item i ON i.id = a.debit_item_id ${own}
        WHERE a.entry_id > :after AND a.entry_id <= :upTo) moves
      GROUP BY step, due_date`,
    {
      ...Object.fromEntries(dates.map((date, i) => [`day${i}`, date])),
      after,
      upTo,
      salesId: scope.salesId ?? 0,
    },
  )
  for (const r of rows) {
    const [first, amount] = [int(r.step), int(r.amount)]
    const key = `${first} ${r.dueDate}`
    const before = sums.get(key)
    if (before) before.amount += amount
    else sums.set(key, { step: first, dueDate: r.dueDate, amount })
  }
}

const sumsUpToRow = z.object({
  id: cell.whole.nullable(),
})

async function sumsUpTo(database: Handle, dates: readonly IsoDate[], scope: Scope): Promise<Sums> {
  const [last] = await database.rows(sumsUpToRow, 'SELECT MAX(id) AS id FROM entry')
  const upTo = last!.id ?? 0
  const known = kept.get(database.sequelize)
  const isOurs = !scope.salesId && known?.dates === dates.join() && known.upTo <= upTo
  // Worked on as a copy: two requests at once must not add the same twice.
  const sums: Sums = isOurs ? new Map([...known.sums].map(([k, v]) => [k, { ...v }])) : new Map()
  await addMoves(database, dates, scope, isOurs ? known.upTo : 0, upTo, sums)
  if (!scope.salesId) kept.set(database.sequelize, { dates: dates.join(), upTo, sums })
  return sums
}

/**
 * Balance by age at the last twelve month ends and today, in base currency. A balance is the sum of what came
 * up to its day (the definition of an open amount as of a date); what comes later is in none of the steps.
 */
export async function readHistory(database: Handle, scope: Scope): Promise<History> {
  const settings = await readSettings(database)
  const dates = datesUpTo(settings.today)
  const moves = [...(await sumsUpTo(database, dates, scope)).values()]
  const points = dates.map((date, i) => {
    const amounts = settings.buckets.map(() => 0)
    for (const m of moves)
      if (m.step <= i) amounts[bucketIndex(settings.buckets, daysLate(m.dueDate, date))]! += m.amount
    return { date, amounts, overdue: amounts.slice(1).reduce((a, b) => a + b, 0) }
  })
  return {
    base: settings.base,
    target: scope.salesId ? 0 : settings.overdueTarget,
    buckets: settings.buckets.map(b => ({ label: b.label })),
    points,
  }
}
