import { z } from 'zod'
import { cell } from '../../db/rows'
import { addBankWorkingDays, daysLate, lastMonthEnd, type IsoDate } from '../../../core/calendar'
import type { DayFigures } from '../../../core/today'
import { agingQuery } from '../../../contract/aging'
import type { TodayAnswer } from '../../../contract/today'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { readAging } from '../aging/aging'
import { scopeOf, type Actor, type Scope } from '../people/scope'
import { readFigures } from './figures'
import { whatMoved } from './moved'
import { whatWaits } from './waits'

const sum = (list: number[]) => list.reduce((a, b) => a + b, 0)
const position = async (database: Handle, asOf: IsoDate, scope: Scope) =>
  (await readAging(database, agingQuery.parse({ asOf, limit: 1 }), scope)).totals

export async function readToday(database: Handle, actor: Actor): Promise<TodayAnswer> {
  const settings = await readSettings(database)
  const scope = scopeOf(actor)
  const { today, base } = settings
  const monthEnd = lastMonthEnd(today)
  const since = addBankWorkingDays(today, -1)
  const figures = readFigures(database, { today, since, monthEnd }, scope)
  const [now, then, told, moved, todo] = await Promise.all([
    position(database, today, scope),
    position(database, monthEnd, scope),
    figures,
    whatMoved(database, settings, since, actor, figures),
    whatWaits(database, settings, actor, figures),
  ])
  return {
    today,
    base,
    company: settings.company,
    buckets: settings.buckets.map(b => ({ label: b.label })),
    amounts: now.amounts,
    onAccount: now.onAccount,
    open: now.total,
    overdue: sum(now.amounts.slice(1)),
    // It was set for the house: a part of its customers is not measured by it.
    target: actor.role === 'sales' ? 0 : settings.overdueTarget,
    monthEnd: { date: monthEnd, overdue: sum(then.amounts.slice(1)), open: then.total },
    newlyOverdue: await newlyOverdue(database, today, since, told),
    receivedThisMonth: told.receivedThisMonth.amount,
    since,
    moved,
    todo,
  }
}

const newlyOverdueRow = z.object({
  id: cell.whole,
  number: cell.text,
  customerNumber: cell.text,
  customerName: cell.text,
  dueDate: cell.text,
})

/** Items that fell overdue since the last bank working day, the largest first. */
async function newlyOverdue(
  database: Handle,
  today: IsoDate,
  since: IsoDate,
  { overdue, newlyOverdue: largest }: DayFigures,
): Promise<TodayAnswer['newlyOverdue']> {
  const ids = largest.map(i => i.itemId)
  const rows = ids.length
    ? await database.rows(
        newlyOverdueRow,
        `SELECT i.id, i.number, c.number AS customerNumber, c.name AS customerName, i.due_date AS dueDate
          FROM item i JOIN customer c ON c.id = i.customer_id WHERE i.id IN (:ids)`,
        { ids },
      )
    : []
  const rowOf = new Map(rows.map(r => [r.id, r]))
  return {
    since,
    count: overdue.count,
    total: overdue.amount,
    items: largest.map(({ itemId, amount }) => {
      const { customerNumber, customerName, ...row } = rowOf.get(itemId)!
      return {
        ...row,
        customer: { number: customerNumber, name: customerName },
        daysLate: daysLate(row.dueDate, today),
        open: amount,
      }
    }),
  }
}
