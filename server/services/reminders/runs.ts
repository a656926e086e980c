import { plus } from '../../db/where'
import { z } from 'zod'
import { isIsoDate } from '../../../core/calendar'
import { convert } from '../../../core/money'
import { rateOf } from '../../../core/rates'
import type { Edits, Notice, RunState } from '../../../core/reminders'
import {
  proposedNotice,
  runKind,
  type reminders as operations,
  type Run,
  type RunScope,
} from '../../../contract/reminders'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { audit, readSettings, type Settings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { loadRates } from '../../ledger/rates'
import { cut, decodeCursor } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { findCustomer } from '../accounts/customers'
import { policyOn } from './policies'
import type { RunAsk } from './proposal'
import { workOut } from './workOut'

type Propose = z.input<NonNullable<(typeof operations.propose)['body']>>
type QueueRun = (database: Handle, personId: number, run: { run: number }) => Promise<number>

/** Up to so many customers a run is worked out while whoever asked waits; more are a job. */
const AT_ONCE = 1500

/** What is wrong with a run as it is asked for; throws the problem. */
async function requireRun(database: Handle, { today, closedUntil }: Settings, ask: RunAsk): Promise<void> {
  const refuse = (path: string, message: string, satisfy: string) =>
    new ProblemError(422, 'Not a run', `${message}: ${satisfy}`, [{ path, message, satisfy }])
  if (!isIsoDate(ask.asOf) || ask.asOf > today)
    throw refuse('asOf', 'a run tells what is late by now', `${today} or earlier`)
  if (closedUntil && ask.asOf <= closedUntil)
    throw refuse('asOf', `the books are closed up to ${closedUntil}`, `a day after ${closedUntil}`)
  if (ask.policy) await policyOn(database, ask.policy, ask.asOf)
  if (ask.scope.customer) await findCustomer(database, ask.scope.customer, {})
}

/** Proposes a run; a large one is worked out by a job, and is `preparing` until then. */
export async function proposeRun(
  database: Handle,
  actor: Actor,
  body: Propose,
  queue?: QueueRun,
  prepared = '',
): Promise<Run> {
  const settings = await readSettings(database)
  const { asOf, kind = 'reminder', policy = '', ...scope } = body
  const ask: RunAsk = { asOf, kind, policy, scope }
  await requireRun(database, settings, ask)
  const [id] = await database.insert('reminder_run', [
    {
      as_of: asOf,
      kind,
      policy,
      scope: JSON.stringify(scope),
      state: 'preparing',
      prepared,
      person_id: actor.id,
    },
  ])
  const { isLarge } = await workOut(database, id!, { most: queue ? AT_ONCE : null })
  if (isLarge) {
    const jobId = await queue!(database, actor.id, { run: id! })
    await database.update('reminder_run', { job_id: jobId }, { id: id! })
  }
  return readRun(database, id!)
}

export interface RunRow extends RunAsk {
  id: number
  state: RunState
  version: number
  edits: Edits
  by: string
  at: string
  confirmedBy: string | null
  job: number | null
}

const runCells = z.object({
  id: cell.whole,
  kind: runKind,
  asOf: cell.day,
  policy: cell.text,
  scope: cell.text,
  edits: cell.text,
  state: z.enum(['preparing', 'proposed', 'confirmed', 'withdrawn', 'discarded']),
  version: cell.whole,
  by: cell.text,
  at: cell.instant,
  confirmedBy: cell.text.nullable(),
  job: cell.whole.nullable(),
})

export async function runRow(database: Handle, id: number): Promise<RunRow> {
  const [row] = await database.rows(
    runCells,
    `SELECT r.id, r.kind, r.as_of AS asOf, r.policy, r.scope, r.edits, r.state, r.version, p.name AS \`by\`, r.at,
      q.name AS confirmedBy, IF(j.state IN ('queued', 'running'), j.id, NULL) AS job
    FROM reminder_run r JOIN person p ON p.id = r.person_id LEFT JOIN person q ON q.id = r.confirmed_by
      LEFT JOIN job j ON j.id = r.job_id WHERE r.id = :id`,
    { id },
  )
  if (!row) throw notFound(`reminder run ${id}`)
  return { ...row, scope: JSON.parse(row.scope) as RunScope, edits: JSON.parse(row.edits) as Edits }
}

const proposedNoticesRow = z.object({
  notice: cell.text,
})

/** The notices of a run that are to go to some customers, as they were proposed and changed by people. */
export async function proposedNotices(
  database: Handle,
  id: number,
  customerIds: readonly number[],
): Promise<Notice[]> {
  if (!customerIds.length) return []
  const rows = await database.rows(
    proposedNoticesRow,
    `SELECT n.notice FROM run_notice n JOIN customer c ON c.id = n.customer_id
      WHERE n.run_id = :id AND n.included = 1 AND n.customer_id IN (:customerIds)
      ORDER BY c.number, n.key_text`,
    { id, customerIds },
  )
  return rows.map(r => JSON.parse(r.notice) as Notice)
}

const sumRow = z.object({
  currency: cell.text,
  level: cell.whole,
  channel: cell.text,
  included: cell.flag,
  notices: cell.sum,
  overdue: cell.sum,
  fee: cell.sum,
  interest: cell.sum,
  warnings: cell.sum,
})

const readRunRow = z.object({
  n: cell.sum,
})

export async function readRun(database: Handle, id: number): Promise<Run> {
  const settings = await readSettings(database)
  const { edits: _, ...row } = await runRow(database, id)
  const [sums, left, [withdrawn]] = await Promise.all([
    database.rows(
      sumRow,
      `SELECT currency, level, channel, included, COUNT(*) AS notices, SUM(total) AS overdue, SUM(fee) AS fee,
        SUM(interest) AS interest, SUM(warnings > 0) AS warnings
        FROM run_notice WHERE run_id = :id GROUP BY currency, level, channel, included`,
      { id },
    ),
    database.rows(
      z.object({ currency: cell.text, lines: cell.sum, open: cell.sum }),
      `SELECT currency, COUNT(*) AS \`lines\`, SUM(open) AS open FROM run_left_out WHERE run_id = :id
        GROUP BY currency`,
      { id },
    ),
    database.rows(
      readRunRow,
      'SELECT COUNT(*) AS n FROM notice WHERE run_id = :id AND withdrawn_on IS NOT NULL',
      { id },
    ),
  ])
  const inBase = await baseOf(database, settings, row.asOf, [...sums, ...left])
  const going = sums.filter(s => s.included === 1)
  const count = (list: readonly { notices: unknown }[]) => list.reduce((a, s) => a + int(s.notices), 0)
  const total = (of: 'overdue' | 'fee' | 'interest') =>
    going.reduce((a, s) => a + inBase(int(s[of]), s.currency), 0)
  return {
    ...row,
    totals: {
      base: settings.base,
      notices: count(going),
      all: count(sums),
      emails: count(going.filter(s => s.channel === 'email')),
      letters: count(going.filter(s => s.channel === 'print')),
      overdue: total('overdue'),
      fees: total('fee'),
      interest: total('interest'),
      leftOut: left.reduce((a, l) => a + inBase(int(l.open), l.currency), 0),
      leftOutLines: left.reduce((a, l) => a + int(l.lines), 0),
      withdrawn: int(withdrawn!.n),
      warnings: going.reduce((a, s) => a + int(s.warnings), 0),
      byCurrency: [...new Set(going.map(s => s.currency))].sort().map(currency => {
        const own = going.filter(s => s.currency === currency)
        const sum = (of: 'overdue' | 'fee' | 'interest') => own.reduce((a, s) => a + int(s[of]), 0)
        return {
          currency,
          notices: count(own),
          overdue: sum('overdue'),
          fee: sum('fee'),
          interest: sum('interest'),
        }
      }),
      byLevel: [...new Set(going.map(s => s.level))]
        .sort((a, b) => a - b)
        .map(level => ({ level, notices: count(going.filter(s => s.level === level)) })),
    },
  }
}

/** Amounts in base currency at the rates of a day; without a rate they count for nothing, none is made up. */
export async function baseOf(
  database: Handle,
  settings: Settings,
  date: string,
  of: readonly { currency: string }[],
): Promise<(amount: number, currency: string) => number> {
  const wanted = [...new Set(of.map(x => x.currency))].map(currency => ({ currency, date }))
  const known = { base: settings.base, rates: await loadRates(database, settings.base, wanted) }
  return (amount, currency) => convert(amount, currency, settings.base, rateOf(known, currency, date) ?? '0')
}

const listRow = z.object({
  id: cell.whole,
  kind: runKind,
  asOf: cell.day,
  policy: cell.text,
  state: z.enum(['preparing', 'proposed', 'confirmed', 'withdrawn', 'discarded']),
  notices: cell.sum,
  prepared: cell.text,
  at: cell.instant,
  by: cell.text,
})

export async function listRuns(database: Handle, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 1)
  const rows = await database.rows(
    listRow,
    `SELECT r.id, r.kind, r.as_of AS asOf, r.policy, r.state, r.prepared, r.at, p.name AS \`by\`,
      (SELECT COUNT(*) FROM run_notice n WHERE n.run_id = r.id AND n.included = 1) AS notices
    FROM reminder_run r JOIN person p ON p.id = r.person_id ${cursor ? 'WHERE r.id < :lastId' : ''}
      ORDER BY r.id DESC LIMIT ${q.limit + 1}`,
    { lastId: cursor?.[0] ?? 0 },
  )
  const page = cut(rows, q.limit, r => [r.id])
  return { items: page.items.map(r => ({ ...r, notices: int(r.notices) })), next: page.next }
}

export async function discardRun(database: Handle, actor: Actor, id: number): Promise<Run> {
  await database.transaction(async tx => {
    await takeLocks(tx, { runs: [id] })
    const run = await runRow(tx, id)
    if (run.state === 'confirmed' || run.state === 'withdrawn')
      throw new ProblemError(
        409,
        'Sent already',
        'this run was confirmed, its notices are out: withdraw it instead',
      )
    const affectedRows = await tx.update(
      'reminder_run',
      { state: 'discarded', version: plus('version', 1) },
      { id, state: ['proposed', 'preparing'] },
    )
    if (affectedRows) await audit(tx, actor.id, 'reminder run', String(id), run.state, 'discarded')
  })
  return readRun(database, id)
}

/** A notice as it is kept with its run; what older runs did not say has its default. */
export const noticeOf = (text: string) => proposedNotice.parse(JSON.parse(text))
