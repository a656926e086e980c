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

/**
 * Balance by age at the last twelve month ends and today, in base currency. One statement for all of them:
 * what was invoiced and what was allocated, summed by due date and by the first of the days that sees it. A
 * balance is then the sum of what came up to its day (the definition of an open amount as of a date).
 */
export async function readHistory(database: Handle, scope: Scope): Promise<History> {
  const settings = await readSettings(database)
  const dates = datesUpTo(settings.today)
  const step = (day: string) => dates.map((_, i) => `(${day} > :day${i})`).join(' + ')
  const own = scope.salesId ? 'JOIN customer c ON c.id = i.customer_id AND c.sales_id = :salesId' : ''
  const rows = await database.rows(
    moveRow,
    `SELECT step, due_date AS dueDate, SUM(amount) AS amount FROM (
        SELECT ${step('i.posting_date')} AS step, i.due_date, i.base_amount AS amount
        FROM item i ${own} WHERE i.side = 'debit' AND i.posting_date <= :last
      UNION ALL
        SELECT ${step('GREATEST(a.effective, i.posting_date)')}, i.due_date, -a.debit_base
        FROM allocation a JOIN item i ON i.id = a.debit_item_id ${own}
        WHERE a.effective <= :last AND i.posting_date <= :last) moves
      GROUP BY step, due_date`,
    {
      ...Object.fromEntries(dates.map((date, i) => [`day${i}`, date])),
      last: dates.at(-1)!,
      salesId: scope.salesId ?? 0,
    },
  )
  const moves = rows.map(r => ({ ...r, step: int(r.step), amount: int(r.amount) }))
  const points = dates.map((date, i) => {
    const amounts = settings.buckets.map(() => 0)
    for (const m of moves)
      if (m.step <= i) amounts[bucketIndex(settings.buckets, daysLate(m.dueDate, date))]! += m.amount
    return { date, amounts, overdue: amounts.slice(1).reduce((a, b) => a + b, 0) }
  })
  return {
    base: settings.base,
    target: settings.overdueTarget,
    buckets: settings.buckets.map(b => ({ label: b.label })),
    points,
  }
}
