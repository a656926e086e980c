import { z } from 'zod'
import { isIsoDate } from '../../../core/calendar'
import { convert } from '../../../core/money'
import { rateOf } from '../../../core/rates'
import type { ProposedNotice, Run } from '../../../contract/reminders'
import { int } from '../../db/connection'
import type { Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { audit, readSettings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { loadRates } from '../../ledger/rates'
import { findCustomer } from '../accounts/customers'
import { cut, decodeCursor } from '../common/paging'
import { notFound, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { readPolicy } from './policies'
import { makeProposal, type Proposal } from './proposal'

export async function proposeRun(
  database: Handle,
  actor: Actor,
  body: { asOf: string; policy: string; customer?: string },
): Promise<Run> {
  const settings = await readSettings(database)
  if (!isIsoDate(body.asOf) || body.asOf > settings.today) {
    throw new ProblemError(
      422,
      'Not a date for a run',
      `a run is made as of today, ${settings.today}, or earlier`,
      [{ path: 'asOf', message: `${settings.today} or earlier` }],
    )
  }
  const policy = await readPolicy(database, body.policy)
  const only = body.customer ? [(await findCustomer(database, body.customer, {})).id] : null
  const { proposal } = await makeProposal(database, settings, policy, body.asOf, only)
  const id = (
    await database.insert('reminder_run', [
      {
        as_of: body.asOf,
        policy: policy.code,
        state: 'proposed',
        proposal: JSON.stringify({ ...proposal, only }),
        person_id: actor.id,
      },
    ])
  )[0]!
  return readRun(database, id)
}

interface RunRow {
  id: number
  asOf: string
  policy: string
  state: Run['state']
  version: number
  proposal: string
  by: string
  at: string
  confirmedBy: string | null
}

export async function runRow(
  database: Handle,
  id: number,
): Promise<RunRow & { parsed: Proposal & { only: number[] | null; excluded?: string[] } }> {
  const [row] = await database.select<RunRow>(
    `
    SELECT r.id, r.as_of AS asOf, r.policy, r.state, r.version, r.proposal, p.name AS \`by\`, r.at,
      q.name AS confirmedBy
    FROM reminder_run r JOIN person p ON p.id = r.person_id LEFT JOIN person q ON q.id = r.confirmed_by
      WHERE r.id = :id`,
    { id },
  )
  if (!row) throw notFound(`reminder run ${id}`)
  return {
    ...row,
    parsed: JSON.parse(row.proposal) as Proposal & { only: number[] | null; excluded?: string[] },
  }
}

export async function readRun(database: Handle, id: number): Promise<Run> {
  const settings = await readSettings(database)
  const { proposal: _, parsed, ...row } = await runRow(database, id)
  const currencies = new Set([...parsed.notices, ...parsed.leftOut].map(x => x.currency))
  const wanted = [...currencies].map(currency => ({ currency, date: row.asOf }))
  const known = { base: settings.base, rates: await loadRates(database, settings.base, wanted) }
  // Without a rate an amount counts for nothing in the sum; it is never made up.
  const inBase = (amount: number, currency: string) =>
    convert(amount, currency, settings.base, rateOf(known, currency, row.asOf) ?? '0')
  const excluded = new Set(parsed.excluded ?? [])
  const notices = parsed.notices.map((n): ProposedNotice => ({ ...n, included: !excluded.has(n.key) }))
  let overdue = 0
  let fees = 0
  let leftOut = 0
  for (const n of notices.filter(n => n.included)) {
    overdue += inBase(n.total, n.currency)
    fees += inBase(n.fee, n.currency)
  }
  for (const l of parsed.leftOut) leftOut += inBase(l.open, l.currency)
  const sent = await database.select<{ id: number; number: string; customer: string; currency: string }>(
    `SELECT n.id, n.number, c.number AS customer, n.currency FROM notice n
      JOIN customer c ON c.id = n.customer_id WHERE n.run_id = :id ORDER BY n.id`,
    { id },
  )
  return {
    ...row,
    notices,
    leftOut: parsed.leftOut,
    totals: { notices: notices.filter(n => n.included).length, base: settings.base, overdue, fees, leftOut },
    sent: sent.map(({ currency, ...n }) => ({ ...n, key: `${n.customer} ${currency}` })),
  }
}

const runsRow = z.object({
  id: cell.whole,
  asOf: cell.day,
  policy: cell.text,
  state: cell.text,
  notices: cell.sum,
  at: cell.instant,
  by: cell.text,
})

export async function listRuns(database: Handle, q: { limit: number; cursor?: string }) {
  const cursor = decodeCursor(q.cursor, 1)
  const rows = await database.rows(
    runsRow,
    `
    SELECT r.id, r.as_of AS asOf, r.policy, r.state, IF(r.state = 'confirmed', (SELECT COUNT(*) FROM notice n
      WHERE n.run_id = r.id), JSON_LENGTH(r.proposal, '$.notices')) AS notices, r.at, p.name AS \`by\`
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
    if (run.state === 'confirmed') {
      const detail = 'this run was confirmed, its notices are out: it cannot be discarded'
      throw new ProblemError(409, 'Sent already', detail)
    }
    const { affectedRows } = await tx.run(
      `UPDATE reminder_run SET state = 'discarded', version = version + 1 WHERE id = :id
        AND state = 'proposed'`,
      { id },
    )
    if (affectedRows) await audit(tx, actor.id, 'reminder run', String(id), 'proposed', 'discarded')
  })
  return readRun(database, id)
}
