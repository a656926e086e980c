import { z } from 'zod'
import { cell } from '../../db/rows'
import { daysBetween, type IsoDate } from '../../../core/calendar'
import { FIRST, inOrderOf, type DayFigures, type Moved } from '../../../core/today'
import type { TodayAnswer } from '../../../contract/today'
import { int } from '../../db/connection'
import type { Handle, Values } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { scopeOf, type Actor, type Scope } from '../people/scope'
import { broken } from './chasing'
import { ofSales, plural, type Line } from './line'

interface Ask {
  database: Handle
  /** The last working day: what happened on it or since has moved. */
  since: IsoDate
  today: IsoDate
  actor: Actor
  scope: Scope
  values: Values
  /** What the ledger tells. */
  figures: Promise<DayFigures>
}
type Lines = Promise<Line<Moved>[]>

async function received({ figures, scope }: Ask): Lines {
  const { count, amount } = (await figures).received
  if (!count) return []
  const to = scope.salesId ? '/accounts' : '/receipts'
  return [
    {
      kind: 'received',
      label: `${plural(count, 'receipt')} came in`,
      why: 'what customers paid',
      count,
      amount,
      to,
    },
  ]
}

async function billed({ figures, since, today }: Ask): Lines {
  const { count, amount } = (await figures).billed
  if (!count) return []
  return [
    {
      kind: 'billed',
      label: `${plural(count, 'document')} billed`,
      why: 'invoices and debit notes less credit notes',
      count,
      amount,
      to: `/aging/compare?from=${since}&to=${today}`,
    },
  ]
}

async function returned({ figures, since, today }: Ask): Lines {
  const { count, amount } = (await figures).returned
  if (!count) return []
  return [
    {
      kind: 'returned',
      label: `${plural(count, 'payment')} came back`,
      why: 'the customer owes it again',
      count,
      amount,
      to: `/aging/compare?from=${since}&to=${today}`,
    },
  ]
}

async function overdue({ figures }: Ask): Lines {
  const { count, amount } = (await figures).overdue
  if (!count) return []
  return [
    {
      kind: 'overdue',
      label: `${plural(count, 'item')} fell overdue`,
      why: 'due on the last working day or since, and not paid',
      count,
      amount,
      to: '/accounts?only=overdue&sort=-overdue',
    },
  ]
}

/** Names of accounts, as many as fit into a line. */
const SOME = 3
function namesOf(rows: readonly { name: string }[]): string {
  const names = rows.slice(0, SOME).map(r => r.name)
  const more = rows.length - names.length
  return `${names.join(', ')}${more > 0 ? ` and ${more} more` : ''}`
}

const holdsRow = z.object({
  name: cell.text,
})

async function holds({ database, scope, values }: Ask): Lines {
  const list = (which: string) =>
    database.rows(
      holdsRow,
      `SELECT DISTINCT c.name FROM hold h JOIN customer c ON c.id = h.customer_id
        WHERE ${which} ${ofSales(scope)} ORDER BY c.name LIMIT 500`,
      values,
    )
  const [begun, ended] = await Promise.all([
    list('h.on_date >= :since AND h.ended_at IS NULL'),
    list(`h.ended_on >= :since AND NOT EXISTS (SELECT 1 FROM hold o
      WHERE o.customer_id = h.customer_id AND o.ended_at IS NULL)`),
  ])
  const line = (kind: 'held' | 'released', rows: typeof begun, label: string): Line<Moved>[] =>
    rows.length
      ? [{ kind, label, why: namesOf(rows), count: rows.length, amount: null, to: '/exposure' }]
      : []
  return [
    ...line('held', begun, `${plural(begun.length, 'account')} newly held`),
    ...line('released', ended, `${plural(ended.length, 'account')} free again`),
  ]
}

const limitsRow = z.object({
  name: cell.text,
})

async function limits({ database, scope, values }: Ask): Lines {
  const rows = await database.rows(
    limitsRow,
    `SELECT c.name FROM customer c WHERE c.limit_until >= :since AND c.limit_until < :today
      AND c.credit_limit IS NOT NULL AND c.closed_on IS NULL ${ofSales(scope)} ORDER BY c.name LIMIT 500`,
    values,
  )
  if (!rows.length) return []
  return [
    {
      kind: 'limits',
      label: `${plural(rows.length, 'limit')} ended`,
      why: namesOf(rows),
      count: rows.length,
      amount: null,
      to: '/review',
    },
  ]
}

const decidedRow = z.object({
  state: cell.text,
  count: cell.sum,
  names: cell.text,
})

/** What became of one's own requests. */
async function decided({ database, actor, values }: Ask): Lines {
  const rows = await database.rows(
    decidedRow,
    `SELECT state, COUNT(*) AS count, GROUP_CONCAT(DISTINCT about ORDER BY about SEPARATOR ', ') AS names
      FROM waiting_command WHERE person_id = :id AND decided_by <> :id AND state <> 'waiting'
      AND decided_at >= UTC_TIMESTAMP() - INTERVAL :days DAY GROUP BY state ORDER BY state`,
    { ...values, id: actor.id },
  )
  return rows.map(({ state, count, names }) => ({
    kind: 'decided' as const,
    label: `${plural(int(count), 'request')} of yours ${state === 'signed' ? 'signed' : 'turned down or sent back'}`,
    why: names,
    count: int(count),
    amount: null,
    to: '/sign-off',
  }))
}

const settingsRow = z.object({
  name: cell.text,
  count: cell.sum,
})

async function settings({ database, values }: Ask): Lines {
  const rows = await database.rows(
    settingsRow,
    `SELECT about AS name, COUNT(*) AS count FROM audit WHERE what IN ('setting', 'policy', 'person', 'class',
      'ledger account') AND about <> 'clock'
      AND at >= UTC_TIMESTAMP() - INTERVAL :days DAY GROUP BY about ORDER BY about`,
    values,
  )
  const count = rows.reduce((sum, r) => sum + int(r.count), 0)
  if (!count) return []
  return [
    {
      kind: 'settings',
      label: `${plural(count, 'setting')} changed`,
      why: namesOf(rows),
      count,
      amount: null,
      to: '/books/audit',
    },
  ]
}

const correctedRow = z.object({
  count: cell.sum,
})

async function corrected({ database, values }: Ask): Lines {
  const [row] = await database.rows(
    correctedRow,
    `SELECT COUNT(*) AS count FROM entry WHERE kind IN ('reversal', 'correction', 'unallocation')
      AND date >= :since AND date <= :today`,
    values,
  )
  const count = int(row!.count)
  if (!count) return []
  return [
    {
      kind: 'corrected',
      label: `${plural(count, 'correction')} posted`,
      why: 'reversals, corrections, allocations taken back',
      count,
      amount: null,
      to: '/books/journal',
    },
  ]
}

const FINDERS: readonly { kinds: readonly Moved[]; find: (ask: Ask) => Lines }[] = [
  { kinds: ['received'], find: received },
  { kinds: ['returned'], find: returned },
  { kinds: ['overdue'], find: overdue },
  { kinds: ['billed'], find: billed },
  { kinds: ['held', 'released'], find: holds },
  { kinds: ['limits'], find: limits },
  { kinds: ['decided'], find: decided },
  { kinds: ['settings'], find: settings },
  { kinds: ['corrected'], find: corrected },
  {
    kinds: ['broken'],
    find: ({ database, scope, since, today }) => broken(database, scope, { since, today }),
  },
]

/** What moved since the last working day, in the order of a role, each line a way in. */
export async function whatMoved(
  database: Handle,
  { today }: Settings,
  since: IsoDate,
  actor: Actor,
  figures: Promise<DayFigures>,
): Promise<TodayAnswer['moved']> {
  const { moved } = FIRST[actor.role]
  const scope = scopeOf(actor)
  const values = { since, today, salesId: scope.salesId ?? 0, days: daysBetween(since, today) }
  const ask = { database, since, today, actor, scope, values, figures }
  const found = await Promise.all(
    FINDERS.filter(f => f.kinds.some(kind => moved.includes(kind))).map(f => f.find(ask)),
  )
  return inOrderOf(moved, found.flat())
}
