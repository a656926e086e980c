import { z } from 'zod'
import { cell } from '../../db/rows'
import { addBridge, BRIDGE_PARTS, emptyBridge, type Bridge } from '../../../core/aging'
import { dayNumber, lastMonthEnd } from '../../../core/calendar'
import type { compareItemsQuery, compareQuery, Comparison, CompareItems } from '../../../contract/aging'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { answer, askImage, slicesOf } from '../../image'
import { largestItems } from '../../image/largest'
import { ProblemError } from '../common/problems'
import type { Scope } from '../people/scope'
import { bucketsNamed, customersWanted } from './request'

type Asked = z.output<typeof compareQuery>

async function askOf(database: Handle, q: Asked, scope: Scope) {
  const settings = await readSettings(database)
  const to = q.to ?? settings.today
  const from = q.from ?? lastMonthEnd(to)
  if (from >= to)
    throw new ProblemError(422, 'Not two days', `${from} does not lie before ${to}`, [
      { path: 'from', message: 'not before the other', satisfy: `choose a day before ${to}` },
    ])
  const buckets = bucketsNamed(settings, q.buckets)
  const wanted = await customersWanted(
    database,
    { ...q, asOf: undefined, known: undefined, currency: undefined, by: 'customer' },
    scope,
  )
  return {
    settings,
    from,
    to,
    buckets,
    ask: { from: dayNumber(from), to: dayNumber(to), basis: q.basis, buckets, wanted },
  }
}

/** What moved from one day to another, each column adding up to the cent. */
export async function compareAging(database: Handle, q: Asked, scope: Scope): Promise<Comparison> {
  const { settings, from, to, buckets, ask } = await askOf(database, q, scope)
  let bridge: Bridge | null = await askImage(database, 'bridge', ask, 'waits')
  if (!bridge) {
    bridge = emptyBridge(buckets.length + 1)
    for await (const books of slicesOf(database, ask.wanted)) addBridge(bridge, answer(books, 'bridge', ask))
  }
  const row = (figures: readonly number[]) => ({
    amounts: figures.slice(0, -1),
    onAccount: figures.at(-1)!,
    total: figures.reduce((sum, amount) => sum + amount, 0),
  })
  const { opening, parts, closing } = bridge
  return {
    from,
    to,
    currency: settings.base,
    buckets,
    opening: row(opening),
    parts: BRIDGE_PARTS.map(part => ({ part, ...row(parts[part]) })),
    closing: row(closing),
  }
}

const compareItemsRow = z.object({
  number: cell.text,
  id: cell.whole,
  kind: cell.text,
  documentDate: cell.text,
  dueDate: cell.text,
  customerNumber: cell.text,
  customerName: cell.text,
})

/** The items that a part of the comparison is made of, the largest first. */
export async function compareItems(
  database: Handle,
  q: z.output<typeof compareItemsQuery>,
  scope: Scope,
): Promise<CompareItems> {
  const { settings, buckets, ask } = await askOf(database, q, scope)
  const column = q.column === 'all' ? null : q.column === 'onAccount' ? buckets.length : Number(q.column)
  const question = { ...ask, part: q.part, column, limit: q.limit }
  const found = await largestItems(database, 'moves', question)
  const ids = found.items.map(i => i.itemId)
  const rows = ids.length
    ? await database.rows(
        compareItemsRow,
        `SELECT i.id, i.number, i.kind, i.document_date AS documentDate, i.due_date AS dueDate,
          c.number AS customerNumber, c.name AS customerName FROM item i JOIN customer c ON c.id = i.customer_id
          WHERE i.id IN (:ids)`,
        { ids },
      )
    : []
  const rowOf = new Map(rows.map(r => [r.id, r]))
  return {
    currency: settings.base,
    count: found.count,
    total: found.total,
    items: found.items.map(({ itemId, amount }) => {
      const { customerNumber, customerName, ...item } = rowOf.get(itemId)!
      return { ...item, customer: { number: customerNumber, name: customerName }, amount }
    }),
  }
}
