import { z } from 'zod'
import { cell } from '../../db/rows'
import {
  addMonths,
  dayNumber,
  endOfMonth,
  fromDayNumber,
  lastMonthEnd,
  type IsoDate,
} from '../../../core/calendar'
import {
  addIngredients,
  figuresOf,
  type Disputed,
  type PromiseDue,
  type Ingredients,
  type MeasuredDay,
} from '../../../core/measures'
import type {
  MeasuredPoint,
  MeasuresAnswer,
  measuresQuery,
  PartAnswer,
  partQuery,
} from '../../../contract/measures'
import type { Handle } from '../../db/handle'
import { inBaseToday, NoRate } from '../../ledger/rates'
import { readSettings, type Settings } from '../../db/settings'
import { answer, askImage, slicesOf, type MeasuresGroup } from '../../image'
import { largestItems } from '../../image/largest'
import { namesOf } from '../aging/aging'
import { customersWanted } from '../aging/request'
import type { Scope } from '../people/scope'

type Asked = z.output<typeof measuresQuery>

/** The period of some months that ends with a day: of a month end the whole months before it. */
function periodOf(date: IsoDate, months: number): MeasuredDay {
  const isMonthEnd = endOfMonth(date) === date
  const before = addMonths(date, -months)
  return { day: dayNumber(date), from: dayNumber(isMonthEnd ? endOfMonth(before) : before) }
}

/** Month ends up to a day, and that day when it is none. */
function daysUpTo(asOf: IsoDate, points: number): IsoDate[] {
  const last = endOfMonth(asOf) === asOf ? asOf : lastMonthEnd(asOf)
  const ends = Array.from({ length: points }, (_, n) => endOfMonth(addMonths(last, n + 1 - points)))
  return last === asOf ? ends : [...ends, asOf]
}

const disputedNowRow = z.object({
  itemId: cell.whole,
  receiptId: cell.whole.nullable(),
  amount: cell.whole,
  from: cell.whole,
  until: cell.whole.nullable(),
})

/** All disputes, with when they were. */
const disputedNow = (database: Handle): Promise<Disputed[]> =>
  database.rows(
    disputedNowRow,
    `SELECT t.item_id AS itemId, e.receipt_item_id AS receiptId, t.amount,
      DATEDIFF(d.opened_on, '1970-01-01') AS \`from\`, DATEDIFF(d.resolved_on, '1970-01-01') AS until
      FROM dispute d JOIN dispute_item t ON t.dispute_id = d.id LEFT JOIN deduction e ON e.id = d.deduction_id
      ORDER BY d.id`,
  )

const promisesDueRow = z.object({
  customerId: cell.whole,
  day: cell.whole,
  amount: cell.whole,
  kept: cell.whole,
  currency: cell.text,
})

/** Money that was promised for days that are over, in base currency at today's rates. */
async function promisesDue(database: Handle): Promise<PromiseDue[]> {
  const rows = await database.rows(
    promisesDueRow,
    `SELECT m.customer_id AS customerId, m.currency, DATEDIFF(p.until, '1970-01-01') AS day, p.amount,
      LEAST(p.paid, p.amount) AS kept FROM promise m JOIN promise_part p ON p.promise_id = m.id
      WHERE m.withdrawn_on IS NULL AND p.state <> 'due'`,
  )
  if (!rows.length) return []
  const settings = await readSettings(database)
  const inBase = await inBaseToday(database, settings, [...new Set(rows.map(r => r.currency))])
  return rows.flatMap(({ currency, amount, kept, ...row }) => {
    try {
      return [{ ...row, amount: inBase(amount, currency), kept: inBase(kept, currency) }]
    } catch (error) {
      // What cannot be told in base currency is not told.
      if (error instanceof NoRate) return []
      throw error
    }
  })
}

const wantedOf = (database: Handle, q: Pick<Asked, 'class' | 'controller' | 'country'>, scope: Scope) =>
  customersWanted(
    database,
    {
      class: q.class,
      controller: q.controller,
      country: q.country,
      asOf: undefined,
      known: undefined,
      currency: undefined,
      search: undefined,
      buckets: undefined,
      basis: 'due',
      by: 'customer',
    },
    scope,
  )

/** The sums by group, from memory, or from slices of the tables when it is not there. */
async function groupsOf(
  database: Handle,
  q: Asked,
  days: MeasuredDay[],
  scope: Scope,
): Promise<MeasuresGroup[]> {
  const question = {
    wanted: await wantedOf(database, q, scope),
    days,
    by: q.by ?? null,
    ...(await namesOf(database, q.by ? [q.by] : [])),
    disputed: await disputedNow(database),
    promises: await promisesDue(database),
  }
  const found = await askImage(database, 'measures', question, 'waits')
  if (found) return found
  const groups = new Map<string, MeasuresGroup>()
  for await (const books of slicesOf(database, question.wanted))
    for (const group of answer(books, 'measures', {
      ...question,
      // Each slice counts its own customers only, whoever else is known by name.
      promises: question.promises.filter(p => books.ids.includes(p.customerId)),
    })) {
      const before = groups.get(group.key)
      if (before) group.days.forEach((day, n) => addIngredients(before.days[n]!, day))
      else groups.set(group.key, group)
    }
  return [...groups.values()]
}

/** Months as far as the count-back of a balance goes: the others do not matter to it. */
function monthsOf({ receivables, months }: Ingredients): Ingredients['months'] {
  let left = receivables
  const needed = months.findIndex(m => (left -= Math.max(0, m.sales)) <= 0)
  return needed < 0 ? months : months.slice(0, needed + 1)
}

function pointOf({ day, from }: MeasuredDay, ingredients: Ingredients): MeasuredPoint {
  const { paidDays: _, ...parts } = ingredients
  return {
    date: fromDayNumber(day),
    from: fromDayNumber(from),
    figures: figuresOf(ingredients),
    parts: { ...parts, months: monthsOf(ingredients) },
  }
}

const nothing = ({ day, from }: MeasuredDay): Ingredients => ({
  receivables: 0,
  current: 0,
  overdue: 0,
  over90: 0,
  onAccount: 0,
  unallocated: 0,
  disputed: 0,
  opening: 0,
  sales: 0,
  days: day - from,
  paid: 0,
  paidDays: 0,
  promised: 0,
  promiseKept: 0,
  months: [],
})

/** All groups together: sums add up, the measures are made of the sums. */
function together(groups: readonly MeasuresGroup[], days: readonly MeasuredDay[]): Ingredients[] {
  return days.map((day, n) => {
    const [first, ...others] = groups.map(g => g.days[n]!)
    if (!first) return nothing(day)
    const sum = { ...first, months: first.months.map(m => ({ ...m })) }
    for (const other of others) addIngredients(sum, other)
    return sum
  })
}

const targetsOf = ({ measureTargets, overdueTarget }: Settings): MeasuresAnswer['targets'] => ({
  ...measureTargets,
  ...(overdueTarget ? { overdue: overdueTarget } : {}),
})

/** Measures of collection at month ends and on the day asked for. */
export async function readMeasures(database: Handle, q: Asked, scope: Scope): Promise<MeasuresAnswer> {
  const settings = await readSettings(database)
  const asOf = q.asOf ?? settings.today
  const days = daysUpTo(asOf, q.points).map(date => periodOf(date, q.months))
  const groups = await groupsOf(database, q, days, scope)
  const all = together(groups, days)
  // A target was set for the house: a part of its customers is not measured by it.
  const isWhole = !q.class && !q.controller && !q.country && !scope.salesId
  return {
    asOf,
    base: settings.base,
    months: q.months,
    points: days.map((day, n) => pointOf(day, all[n]!)),
    groups: q.by
      ? groups
          .filter(g => g.days.some(d => d.receivables || d.sales || d.paid))
          .map(g => ({ key: g.key, name: g.name, points: days.map((day, n) => pointOf(day, g.days[n]!)) }))
      : [],
    targets: isWhole ? targetsOf(settings) : {},
  }
}

const readPartRow = z.object({
  id: cell.whole,
  number: cell.text,
  kind: cell.text,
  customer: cell.text,
  name: cell.text,
})

/** The items that a part of a measure is made of. */
export async function readPart(
  database: Handle,
  q: z.output<typeof partQuery>,
  scope: Scope,
): Promise<PartAnswer> {
  const { base } = await readSettings(database)
  const period = periodOf(q.date, q.months)
  const question = {
    ...period,
    part: q.part,
    limit: q.limit,
    wanted: await wantedOf(database, q, scope),
    disputed: await disputedNow(database),
  }
  const found = await largestItems(database, 'part', question)
  const ids = found.items.map(i => i.itemId)
  const rows = ids.length
    ? await database.rows(
        readPartRow,
        `SELECT i.id, i.number, i.kind, c.number AS customer, c.name FROM item i
          JOIN customer c ON c.id = i.customer_id WHERE i.id IN (:ids)`,
        { ids },
      )
    : []
  const rowOf = new Map(rows.map(r => [r.id, r]))
  return {
    base,
    date: q.date,
    from: fromDayNumber(period.from),
    count: found.count,
    total: found.total,
    items: found.items.map(({ itemId, amount, late, day }) => {
      const { customer, name, ...row } = rowOf.get(itemId)!
      return {
        ...row,
        customer: { number: customer, name },
        date: fromDayNumber(day),
        daysLate: late,
        amount,
      }
    }),
  }
}
