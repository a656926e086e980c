import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { decideConfirm } from '../../../core/reminders/confirm'
import { id } from '../../../contract/common'
import type { Run } from '../../../contract/reminders'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, LedgerRefused, perform, type Idempotency } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { takeNumbers } from '../../ledger/series'
import { ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { letterOf } from './letters'
import { readPolicy } from './policies'
import { makeProposal } from './proposal'
import { readRun, runRow } from './runs'

/** The customers of the notices of a run. */
async function customersOf(db: Handle, runId: number): Promise<number[]> {
  const { parsed } = await runRow(db, runId)
  const numbers = [...new Set(parsed.notices.map(n => n.customer.number))]
  if (!numbers.length) return []
  const rows = await db.select<{ id: number }>('SELECT id FROM customer WHERE number IN (:numbers)', {
    numbers,
  })
  return rows.map(r => r.id)
}

/**
 * Confirms a run in one transaction: fee documents, notices, levels, e-mails queued. The proposal is made
 * again behind the locks; what was paid, paused or reminded meanwhile refuses the confirmation.
 */
export const confirmCommand = command({
  name: 'reminders.confirm',
  ability: 'reminders.run',
  input: z.object({ id, version: z.int(), exclude: z.array(z.string()).default([]) }),
  locks: async (db, input) => ({ runs: [input.id], customers: await customersOf(db, input.id) }),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) => {
    const run = await runRow(db, input.id)
    const policy = await readPolicy(db, run.policy)
    const ids = run.state === 'proposed' ? await customersOf(db, input.id) : []
    const now = ids.length
      ? await makeProposal(db, settings, policy, run.asOf, ids)
      : { customers: [], proposal: { notices: [], leftOut: [] } }
    const currencies = new Set(run.parsed.notices.map(n => n.currency))
    const rates = [...currencies].map(currency => ({ currency, date: run.asOf }))
    return {
      ledger: await loadState(db, { customerIds: [], rates }, settings),
      state: run.state,
      version: run.version,
      asOf: run.asOf,
      proposed: run.parsed.notices,
      now: now.proposal.notices,
      customerIds: new Map(now.customers.map(c => [c.number, c.id])),
      customers: new Map(now.customers.map(c => [c.number, c])),
      policy,
      settings,
      parsed: run.parsed,
    }
  },
  decide: decideConfirm,
  after: async ({ db, input, state, written, facts, actor }) => {
    if (state.state === 'confirmed') return { id: input.id }
    const { policy, settings, asOf } = state
    const withoutFee = facts.notices.filter(n => n.posting === null).length
    const take = await takeNumbers(db, 'notice', withoutFee)
    let taken = 0
    for (const { notice, posting } of facts.notices) {
      const number = posting === null ? take(taken++) : written[posting]!.number
      const customer = state.customers.get(notice.customer.number)!
      const letter = await letterOf(settings, customer, notice, policy, number, asOf)
      const [noticeId] = await db.insert('notice', [
        {
          number,
          run_id: input.id,
          customer_id: customer.id,
          level: notice.level,
          on_date: asOf,
          deadline: notice.deadline,
          currency: notice.currency,
          total: notice.total,
          fee: notice.fee,
          fee_item_id: posting === null ? null : written[posting]!.items[0]!.id,
          channel: notice.channel,
          letter: JSON.stringify(letter),
        },
      ])
      await db.insert(
        'notice_item',
        notice.items.map(i => ({ notice_id: noticeId!, item_id: i.id, level: i.level, open: i.open })),
      )
      await db.insert('outbox', [
        {
          notice_id: noticeId!,
          customer_id: customer.id,
          recipient: notice.recipient,
          subject: letter.text.subject,
          text: letter.text.body,
          message_id: `${randomUUID()}@bilancio`,
          state: notice.channel === 'email' ? 'queued' : 'print',
          person_id: actor.id,
        },
      ])
    }
    await db.run(
      `UPDATE reminder_run SET state = 'confirmed', version = version + 1, confirmed_by = :by,
        confirmed_at = UTC_TIMESTAMP(3), proposal = :proposal WHERE id = :id`,
      {
        id: input.id,
        by: actor.id,
        proposal: JSON.stringify({ ...state.parsed, excluded: input.exclude }),
      },
    )
    return { id: input.id }
  },
  about: input => String(input.id),
})

/** Confirmed before: answers the same run. */
export async function confirmRun(
  database: Handle,
  actor: Actor,
  runId: number,
  body: { version: number; exclude: string[] },
  idempotency?: Idempotency,
): Promise<Run> {
  try {
    await perform(database, actor, confirmCommand, { id: runId, ...body }, idempotency)
  } catch (error) {
    const moved = error instanceof LedgerRefused ? error.refusals.filter(r => r.rule === 'run.moved-on') : []
    if (!moved.length) throw error
    throw new ProblemError(
      409,
      'The ledger has moved on',
      `${moved.length} of these accounts changed since the proposal; the first: ${moved[0]!.message}. ` +
        'Propose the run again',
      moved.map(r => ({ path: r.path, message: r.message })),
    )
  }
  return readRun(database, runId)
}
