import { cell } from '../../db/rows'
import { z } from 'zod'
import { id } from '../../../contract/common'
import type { reminders as operations, Run } from '../../../contract/reminders'
import { decideWithdraw, type SentNotice } from '../../../core/reminders'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, perform, type Idempotency } from '../../ledger/command'
import { loadLinesOf, loadState } from '../../ledger/load'
import { withdrawnSheet } from '../letters/sheets'
import { addressee, sendLetter } from '../letters/send'
import type { Actor } from '../people/scope'
import { readRun, runRow } from './runs'

interface NoticeRow extends SentNotice {
  customerId: number
  /** What became of its letter. */
  letterState: string | null
}

/** Notices of a run that count. */
const NOTICES = `SELECT n.id, n.key_text AS \`key\`, n.number, n.customer_id AS customerId,
    c.number AS customerNumber, c.name AS customerName, n.fee_item_id AS feeItemId,
    n.interest_item_id AS interestItemId, o.state AS letterState
  FROM live_notice n JOIN customer c ON c.id = n.customer_id LEFT JOIN outbox o ON o.notice_id = n.id
  WHERE n.run_id = :runId ORDER BY n.id`

/** Of the notices of a run, a later one that took an item of it further. */
const LATER = `SELECT n.id, MIN(x.number) AS later FROM live_notice n
  JOIN notice_item ni ON ni.notice_id = n.id
  JOIN notice_item xi ON xi.item_id = ni.item_id AND xi.notice_id > ni.notice_id AND xi.level > 0
  JOIN live_notice x ON x.id = xi.notice_id
  WHERE n.run_id = :runId GROUP BY n.id`

/** Of the notices of a run, later interest on an item that it charged. */
const LATER_INTEREST = `SELECT n.id, MIN(d.number) AS later FROM live_notice n
  JOIN interest_line l ON l.document_item_id = n.interest_item_id
  JOIN interest_line m ON m.item_id = l.item_id AND m.from_date > l.to_date
    AND m.document_item_id <> l.document_item_id
  JOIN item d ON d.id = m.document_item_id
  WHERE n.run_id = :runId AND NOT EXISTS (SELECT 1 FROM item r WHERE r.reverses_item_id = d.id)
  GROUP BY n.id`

const sentNoticesRow = z.object({
  number: cell.text,
  id: cell.whole,
  customerId: cell.whole,
  key: cell.text,
  letterState: cell.text.nullable(),
  feeItemId: cell.whole.nullable(),
  interestItemId: cell.whole.nullable(),
  customerNumber: cell.text,
  customerName: cell.text,
})

const sentNoticesRow2 = z.object({
  id: cell.whole,
  later: cell.text,
})

async function sentNotices(db: Handle, runId: number): Promise<NoticeRow[]> {
  const rows = await db.rows(sentNoticesRow, NOTICES, { runId })
  const followed = new Map<number, string>()
  for (const sql of [LATER_INTEREST, LATER])
    for (const { id: noticeId, later } of await db.rows(sentNoticesRow2, sql, { runId }))
      followed.set(noticeId, later)
  return rows.map(({ customerNumber, customerName, ...row }) => ({
    ...row,
    customer: { number: customerNumber, name: customerName },
    followedBy: followed.get(row.id) ?? null,
  }))
}

const customersOfRow = z.object({
  id: cell.whole,
})

/** The customers of the chosen notices of a run, for the locks. */
async function customersOf(db: Handle, runId: number, keys: readonly string[] | null): Promise<number[]> {
  const rows = await db.rows(
    customersOfRow,
    `SELECT DISTINCT customer_id AS id FROM live_notice WHERE run_id = :runId
      ${keys ? 'AND key_text IN (:keys)' : ''}`,
    { runId, keys: keys ?? [''] },
  )
  return rows.map(r => r.id)
}

const withdrawCommandRow = z.object({
  n: cell.whole,
})

/** Takes back notices of a run: fees and interest reversed, levels as before, waiting letters stopped. */
export const withdrawCommand = command({
  name: 'reminders.withdraw',
  ability: 'reminders.run',
  input: z.object({
    id,
    keys: z.array(z.string()).nullable().default(null),
    reason: z.string().max(200),
    tell: z.boolean().default(true),
  }),
  locks: async (db, input) => ({
    runs: [input.id],
    customers: await customersOf(db, input.id, input.keys),
  }),
  load: async (db, input, { settings, actor }: { settings: Settings; actor: Actor }) => {
    const run = await runRow(db, input.id)
    const notices = await sentNotices(db, input.id)
    const wanted = input.keys && new Set(input.keys)
    const chosen = wanted ? notices.filter(n => wanted.has(n.key)) : notices
    const itemIds = chosen.flatMap(n => [n.feeItemId, n.interestItemId].filter(i => i !== null))
    const customerIds = [...new Set(chosen.map(n => n.customerId))]
    const ledger = await loadState(db, { customerIds, itemIds, linksOf: itemIds }, settings)
    for (const [itemId, lines] of await loadLinesOf(db, itemIds)) ledger.lines.set(itemId, lines)
    return { ledger, state: run.state, notices, rows: new Map(notices.map(n => [n.id, n])), settings, actor }
  },
  decide: decideWithdraw,
  after: async ({ db, input, state, facts, actor }) => {
    const ids = facts.notices.map(n => n.notice.id)
    if (!ids.length) return { id: input.id, withdrawn: 0 }
    await db.update(
      'notice',
      { withdrawn_on: state.ledger.today, withdrawn_by: actor.id, withdrawn_why: input.reason },
      { id: ids },
    )
    await db.update(
      'outbox',
      { state: 'stopped', next_try: null },
      { notice_id: ids, state: ['queued', 'waiting', 'failed'] },
    )
    if (input.tell) for (const { notice } of facts.notices) await tellCustomer(db, actor, state, notice)
    const [left] = await db.rows(
      withdrawCommandRow,
      'SELECT COUNT(*) AS n FROM live_notice WHERE run_id = :id',
      { id: input.id },
    )
    await db.run(
      `UPDATE reminder_run SET version = version + 1${left!.n ? '' : ", state = 'withdrawn'"} WHERE id = :id`,
      { id: input.id },
    )
    return { id: input.id, withdrawn: ids.length }
  },
  tell: ({ input, facts }) => ({ ...input, notices: facts.notices.length }),
  about: input => `run ${input.id}`,
})

/** Writes to a customer whose notice had gone out, or lies printed, that it does not hold. */
async function tellCustomer(
  db: Handle,
  actor: { id: number },
  { rows, settings }: { rows: ReadonlyMap<number, NoticeRow>; settings: Settings },
  notice: SentNotice,
): Promise<void> {
  const { customerId, letterState } = rows.get(notice.id)!
  if (letterState !== 'sent' && letterState !== 'print') return
  const to = await addressee(db, customerId)
  const sheet = withdrawnSheet(settings, to, { number: notice.number })
  await sendLetter(db, actor, to, { kind: 'withdrawn', sheet, asOf: settings.today, jobId: null })
}

export async function withdrawRun(
  database: Handle,
  actor: Actor,
  runId: number,
  body: z.output<NonNullable<(typeof operations.withdraw)['body']>>,
  idempotency?: Idempotency,
): Promise<Run> {
  await perform(database, actor, withdrawCommand, { id: runId, ...body }, idempotency)
  return readRun(database, runId)
}
