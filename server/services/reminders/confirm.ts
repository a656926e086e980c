import { Op, now, plus } from '../../db/where'
import { randomUUID } from 'node:crypto'
import { z } from 'zod'
import { id } from '../../../contract/common'
import type { Run } from '../../../contract/reminders'
import {
  decideConfirm,
  isSameNotice,
  type Notice,
  type NoticeHead,
  type SendingNotice,
} from '../../../core/reminders'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, perform, type Idempotency } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { takeNumbers } from '../../ledger/series'
import type { Written } from '../../ledger/write'
import type { Actor } from '../people/scope'
import { addresseeOf, letterOf, type Addressee, type Letter } from './letters'
import { interestRow } from './interestRow'
import { policiesOn } from './policies'
import { basisOf, chosenFor, CUSTOMERS_AT_ONCE, proposeFor, type RunBasis } from './proposal'
import { proposedNotices, readRun, runRow, type RunRow } from './runs'

/** The customers of the notices of a run. */
async function customersOf(db: Handle, runId: number): Promise<number[]> {
  const rows = await db.find(
    'run_notice',
    { run_id: runId, included: 1 },
    { columns: { id: 'customer_id' }, order: ['customer_id'], distinct: true },
  )
  return rows.map(r => r.id)
}

interface Looked {
  proposed: NoticeHead[]
  movedOn: NoticeHead[]
  customers: Map<string, Addressee>
}

const headOf = (n: Notice): NoticeHead => ({
  key: n.key,
  customer: n.customer,
  currency: n.currency,
  level: n.level,
  fee: n.fee,
  feeTax: n.feeTax,
  interest: n.interest,
  deadline: n.deadline,
  consequence: n.consequence,
})

/**
 * What was proposed beside what would be proposed now, some customers at a time: of a large run only what is
 * posted and where it goes stays in memory.
 */
async function lookAgain(
  db: Handle,
  settings: Settings,
  run: RunRow,
  ids: readonly number[],
): Promise<Looked> {
  const looked: Looked = { proposed: [], movedOn: [], customers: new Map() }
  const basis: RunBasis = await basisOf(db, run, run.edits)
  for (let at = 0; at < ids.length; at += CUSTOMERS_AT_ONCE) {
    const some = ids.slice(at, at + CUSTOMERS_AT_ONCE)
    const [proposed, part] = [
      await proposedNotices(db, run.id, some),
      await proposeFor(db, settings, basis, await chosenFor(db, run, some)),
    ]
    const now = new Map(part.notices.map(n => [n.key, n]))
    for (const notice of proposed) {
      looked.proposed.push(headOf(notice))
      if (!isSameNotice(notice, now.get(notice.key))) looked.movedOn.push(headOf(notice))
    }
    for (const c of part.customers) looked.customers.set(c.number, addresseeOf(c, run.asOf, settings))
  }
  return looked
}

/**
 * Confirms a run in one transaction: fee and interest documents, notices, levels, letters queued. The
 * proposal is made again behind the locks; what was paid, paused or reminded meanwhile refuses it.
 */
export const confirmCommand = command({
  name: 'reminders.confirm',
  ability: 'reminders.run',
  input: z.object({ id, version: z.int() }),
  locks: async (db, input) => ({ runs: [input.id], customers: await customersOf(db, input.id) }),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) => {
    const run = await runRow(db, input.id)
    const ids = run.state === 'proposed' ? await customersOf(db, input.id) : []
    const { proposed, movedOn, customers } = await lookAgain(db, settings, run, ids)
    const rates = [...new Set(proposed.map(n => n.currency))].map(currency => ({ currency, date: run.asOf }))
    return {
      ledger: await loadState(db, { customerIds: [], rates }, settings),
      run,
      state: run.state,
      version: run.version,
      asOf: run.asOf,
      proposed,
      movedOn,
      customerIds: new Map([...customers.values()].map(c => [c.number, c.id])),
      customers,
      settings,
    }
  },
  decide: decideConfirm,
  after: async ({ db, input, state, written, facts, actor }) => {
    if (state.state !== 'proposed') return { id: input.id }
    await keepNotices(db, { ...state, id: input.id }, facts.notices, written, actor)
    await db.update(
      'reminder_run',
      {
        state: 'confirmed',
        version: plus('version', 1),
        confirmed_by: actor.id,
        confirmed_at: now(),
        job_id: null,
      },
      { id: input.id },
    )
    return { id: input.id }
  },
  tell: ({ input, facts }) => ({ ...input, notices: facts.notices.length }),
  about: input => `run ${input.id}`,
})

interface Confirmed {
  id: number
  run: RunRow
  settings: Settings
  customers: ReadonlyMap<string, Addressee>
}

/** So many letters are kept at a time. */
const AT_A_TIME = 500

/** Notices with their letters, the levels of their items, interest by period, and what follows from them. */
async function keepNotices(
  db: Handle,
  state: Confirmed,
  sending: readonly SendingNotice[],
  written: readonly Written[],
  actor: { id: number },
): Promise<void> {
  const { run, settings } = state
  const policies = await policiesOn(db, run.asOf)
  const take = await takeNumbers(db, 'notice', sending.filter(s => s.posting === null).length)
  let taken = 0
  for (let at = 0; at < sending.length; at += AT_A_TIME) {
    const some = sending.slice(at, at + AT_A_TIME)
    const ids = some.map(s => state.customers.get(s.notice.customer.number)!.id)
    const whole = new Map((await proposedNotices(db, run.id, ids)).map(n => [n.key, n]))
    const letters: Kept[] = []
    for (const one of some) {
      const { posting } = one
      const notice = whole.get(one.notice.key)!
      const entry = posting === null ? null : written[posting]!
      const number = entry?.number ?? take(taken++)
      const customer = state.customers.get(notice.customer.number)!
      const policy = policies.get(notice.policy)!
      const letter = await letterOf(settings, customer, notice, policy, number, run.asOf)
      const itemOf = (place: number | null) => (place === null ? null : entry!.items[place]!.id)
      letters.push({
        notice,
        customer,
        number,
        letter,
        feeItemId: itemOf(one.fee),
        interestItemId: itemOf(one.interest),
      })
    }
    await keepLetters(db, state, letters, actor)
  }
  await tellSales(db, state, sending, actor)
}

interface Kept {
  notice: Notice
  customer: Addressee
  number: string
  letter: Letter
  feeItemId: number | null
  interestItemId: number | null
}

async function keepLetters(
  db: Handle,
  { id: runId, run }: Confirmed,
  letters: readonly Kept[],
  actor: { id: number },
): Promise<void> {
  const ids = await db.insert(
    'notice',
    letters.map(({ notice, customer, number, letter, feeItemId, interestItemId }) => ({
      number,
      run_id: runId,
      key_text: notice.key,
      policy: notice.policy,
      customer_id: customer.id,
      level: notice.level,
      on_date: run.asOf,
      deadline: notice.deadline,
      currency: notice.currency,
      total: notice.total,
      fee: notice.fee,
      fee_item_id: feeItemId,
      interest: notice.interest,
      interest_item_id: interestItemId,
      holds: notice.consequence.hold ? 1 : 0,
      hands_over: notice.consequence.handOver ? 1 : 0,
      channel: notice.channel,
      letter: JSON.stringify(letter),
    })),
  )
  // An interest run leaves levels and dates as they are.
  if (run.kind === 'reminder')
    await db.insert(
      'notice_item',
      letters.flatMap(({ notice }, n) =>
        notice.items.map(i => ({ notice_id: ids[n]!, item_id: i.id, level: i.level, open: i.open })),
      ),
    )
  await db.insert(
    'interest_line',
    letters.flatMap(({ notice, interestItemId }) =>
      notice.interestLines.map(line => interestRow(interestItemId!, line.itemId, line)),
    ),
  )
  await db.insert(
    'outbox',
    letters.map(({ notice, customer, letter }, n) => ({
      notice_id: ids[n]!,
      customer_id: customer.id,
      recipient: notice.recipient,
      subject: letter.text.subject,
      text: letter.text.body,
      message_id: `${randomUUID()}@bilancio`,
      state: notice.channel === 'email' ? 'queued' : 'print',
      person_id: actor.id,
    })),
  )
}

/** Where the level says so, the sales contact of the customer gets a message. */
async function tellSales(
  db: Handle,
  { settings, customers }: Confirmed,
  sending: readonly SendingNotice[],
  actor: { id: number },
): Promise<void> {
  const told = sending.map(s => s.notice).filter(n => n.consequence.tellSales)
  if (!told.length) return
  const ids = told.map(n => customers.get(n.customer.number)!.id)
  const rows = await db.find(
    'customer',
    { id: ids, sales_id: { [Op.not]: null } },
    { columns: { id: 'id', salesId: 'sales_id' } },
  )
  const salesOf = new Map(rows.map(r => [r.id, r.salesId]))
  await db.insert(
    'message',
    told.flatMap(n => {
      const customerId = customers.get(n.customer.number)!.id
      const salesId = salesOf.get(customerId)
      if (!salesId) return []
      const text = `${n.customer.name} got a reminder of level ${n.level}, payable by ${n.deadline}.`
      return [
        {
          customer_id: customerId,
          about: 'account',
          about_id: null,
          to_id: salesId,
          text,
          on_date: settings.today,
          due: null,
          person_id: actor.id,
        },
      ]
    }),
  )
}

type QueueConfirm = (
  database: Handle,
  personId: number,
  ask: { run: number; version: number },
) => Promise<number>

/** More notices than this are confirmed by a job. */
const AT_ONCE = 400

export async function confirmRun(
  database: Handle,
  actor: Actor,
  runId: number,
  body: { version: number },
  idempotency?: Idempotency,
  queue?: QueueConfirm,
): Promise<Run> {
  const run = await readRun(database, runId)
  if (queue && run.state === 'proposed' && run.job === null && run.totals.notices > AT_ONCE) {
    const jobId = await queue(database, actor.id, { run: runId, version: body.version })
    await database.update('reminder_run', { job_id: jobId }, { id: runId })
    return readRun(database, runId)
  }
  if (run.job === null) await perform(database, actor, confirmCommand, { id: runId, ...body }, idempotency)
  return readRun(database, runId)
}

/** The confirmation of a large run, told on its way; stopped, nothing of it stays. */
export async function confirmLarge(
  database: Handle,
  actor: Actor,
  ask: { run: number; version: number },
  told: (step: string, done: number, total: number) => Promise<void>,
): Promise<{ notices: number }> {
  const watched = {
    ...confirmCommand,
    written: (done: number, total: number) => told('posting', done, total),
  }
  await told('looking again', 0, 1)
  await perform(database, actor, watched, { id: ask.run, version: ask.version })
  const { totals } = await readRun(database, ask.run)
  return { notices: totals.notices }
}
