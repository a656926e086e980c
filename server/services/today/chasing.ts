import { z } from 'zod'
import { cell } from '../../db/rows'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { DISPUTE_LIVES } from '../disputes/live'
import { unreadOf } from '../messages/messages'
import type { Actor, Scope } from '../people/scope'
import { ofSales, plural, type Line } from './line'
import type { Moved, Waits } from '../../../core/today'

interface Ask {
  database: Handle
  settings: Settings
  actor: Actor
  scope: Scope
}
type Lines<Kind extends string> = Promise<Line<Kind>[]>

const line = <Kind extends string>(
  kind: Kind,
  label: string,
  why: string,
  count: number,
  to: string,
): Line<Kind>[] => (count ? [{ kind, label, why, count, amount: null, to }] : [])

/** Words of colleagues, and tasks, that wait for whoever asks. */
export async function messages({ database, actor, scope }: Ask): Lines<Waits> {
  const { messages: count, tasks } = await unreadOf(database, actor, scope)
  const label = [
    count ? `${plural(count, 'message')} not read` : '',
    tasks ? `${plural(tasks, 'task')} to do` : '',
  ]
  return line(
    'messages',
    label.filter(Boolean).join(', '),
    'what colleagues ask of you',
    count + tasks,
    '/messages',
  )
}

/** Mail of customers that waits. */
export async function answers({ database, actor, scope }: Ask): Lines<Waits> {
  const { mail } = await unreadOf(database, actor, scope)
  return line(
    'answers',
    `${plural(mail, 'answer')} in the inbox`,
    'promises, disputes and questions by mail',
    mail,
    '/inbox',
  )
}

const callsRow = z.object({
  n: cell.sum,
})

/** Accounts that somebody said they would ring again by today. */
export async function calls({ database, settings, actor }: Ask): Lines<Waits> {
  const [row] = await database.rows(
    callsRow,
    `SELECT COUNT(*) AS n FROM call_log l JOIN customer c ON c.id = l.customer_id
      WHERE l.next_date <= :today AND l.id = (SELECT MAX(x.id) FROM call_log x WHERE x.customer_id = l.customer_id)
      AND (c.controller_id = :me OR :all)`,
    { today: settings.today, me: actor.id, all: actor.role === 'controller' ? 0 : 1 },
  )
  const count = int(row!.n)
  return line(
    'calls',
    `${plural(count, 'account')} to ring again`,
    'somebody said they would, by today',
    count,
    '/call-list',
  )
}

const promisesRow = z.object({
  n: cell.sum,
})

/** Promises whose day is today, or whose grace ends. */
export async function promises({ database, settings, scope }: Ask): Lines<Waits> {
  const [row] = await database.rows(
    promisesRow,
    `SELECT COUNT(*) AS n FROM promise_part p JOIN promise m ON m.id = p.promise_id
      JOIN customer c ON c.id = m.customer_id WHERE m.state = 'open' AND p.state = 'due' AND p.date <= :today
      ${ofSales(scope)}`,
    { today: settings.today, salesId: scope.salesId ?? 0 },
  )
  const count = int(row!.n)
  return line(
    'promises',
    `${plural(count, 'promise')} due by today`,
    'the money has not come yet',
    count,
    '/promises',
  )
}

const disputesRow = z.object({
  n: cell.sum,
})

/** Disputes over their day. */
export async function disputes({ database, settings, scope }: Ask): Lines<Waits> {
  const [row] = await database.rows(
    disputesRow,
    `SELECT COUNT(*) AS n FROM dispute d LEFT JOIN deduction e ON e.id = d.deduction_id
      JOIN customer c ON c.id = d.customer_id WHERE d.deadline < :today AND ${DISPUTE_LIVES} ${ofSales(scope)}`,
    { today: settings.today, salesId: scope.salesId ?? 0 },
  )
  const count = int(row!.n)
  return line(
    'disputes',
    `${plural(count, 'dispute')} over their day`,
    'they were to be resolved by now',
    count,
    '/disputes',
  )
}

const brokenRow = z.object({
  n: cell.sum,
})

/** Promises that broke since the last working day. */
export async function broken(
  database: Handle,
  scope: Scope,
  { since, today }: { since: string; today: string },
): Lines<Moved> {
  const [row] = await database.rows(
    brokenRow,
    `SELECT COUNT(*) AS n FROM promise_part p JOIN promise m ON m.id = p.promise_id
      JOIN customer c ON c.id = m.customer_id WHERE m.withdrawn_on IS NULL AND p.state IN ('broken', 'partly')
      AND p.until >= :since AND p.until < :today ${ofSales(scope)}`,
    { since, today, salesId: scope.salesId ?? 0 },
  )
  const count = int(row!.n)
  return line(
    'broken',
    `${plural(count, 'promise')} broke`,
    'the money did not come in time',
    count,
    '/promises',
  )
}
