import { Op, plus } from '../../db/where'
import { z } from 'zod'
import {
  isCollectionDay,
  proposeCollection,
  sendBy,
  type CollectAsk,
  type CollectionEdit,
  type CollectionLeftOut,
  type ProposedCollection,
} from '../../../core/collections'
import { addBankWorkingDays, addDays, isIsoDate } from '../../../core/calendar'
import type { CollectionRun } from '../../../contract/collections'
import { int } from '../../db/connection'
import { chunksOf, type Handle } from '../../db/handle'
import { cell } from '../../db/rows'
import { audit, readSettings, type Settings } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { notFound, ProblemError } from '../common/problems'
import { listFiles, ownAccount } from '../payments/files'
import type { Actor } from '../people/scope'
import { debtorIds, debtorsOf, policyOf } from './facts'

export interface RunRow {
  id: number
  version: number
  collectOn: string
  dueBy: string
  madeOn: string
  scheme: 'CORE' | 'B2B' | ''
  /** Collections that came back and are presented again with it; none for what is due. */
  againOf: number[]
  accountId: number
  account: string
  state: 'proposed' | 'confirmed' | 'discarded'
  edits: Record<string, CollectionEdit>
  by: string
  confirmedBy: string | null
  /** At work on it. */
  job: number | null
}

const runCells = z.object({
  id: cell.whole,
  version: cell.whole,
  collectOn: cell.day,
  dueBy: cell.day,
  madeOn: cell.day,
  scheme: z.enum(['CORE', 'B2B', '']),
  againOf: cell.text,
  accountId: cell.whole,
  account: cell.text,
  state: z.enum(['proposed', 'confirmed', 'discarded']),
  edits: cell.text,
  by: cell.text,
  confirmedBy: cell.text.nullable(),
  job: cell.whole.nullable(),
})

export const RUN = `SELECT r.id, r.version, r.collect_on AS collectOn, r.due_by AS dueBy, r.made_on AS madeOn, r.scheme,
    r.again_of AS againOf, r.bank_account_id AS accountId, b.name AS account, r.state, r.edits, p.name AS \`by\`,
    q.name AS confirmedBy, IF(j.state IN ('queued', 'running'), j.id, NULL) AS job
  FROM collection_run r JOIN bank_account b ON b.id = r.bank_account_id JOIN person p ON p.id = r.person_id
    LEFT JOIN person q ON q.id = r.confirmed_by LEFT JOIN job j ON j.id = r.job_id`

export async function runRow(database: Handle, id: number): Promise<RunRow> {
  const [row] = await database.rows(runCells, `${RUN} WHERE r.id = :id`, { id })
  if (!row) throw notFound(`collection ${id}`)
  return {
    ...row,
    againOf: JSON.parse(row.againOf) as number[],
    edits: JSON.parse(row.edits) as RunRow['edits'],
  }
}

const CUSTOMERS_AT_ONCE = 1000

export interface Worked {
  collections: ProposedCollection[]
  leftOut: CollectionLeftOut[]
}

const comingAgainRow = z.object({
  itemId: cell.whole,
  customerId: cell.whole,
  id: cell.whole,
  times: cell.whole,
})

/** What came back and is presented again: its items, and by customer the collection. */
async function comingAgain(database: Handle, againOf: readonly number[]) {
  const rows = await database.rows(
    comingAgainRow,
    `SELECT t.item_id AS itemId, k.customer_id AS customerId, k.id, k.times FROM collection k
      JOIN collection_item t ON t.collection_id = k.id WHERE k.id IN (:againOf)`,
    { againOf },
  )
  return {
    items: new Set(rows.map(r => r.itemId)),
    of: new Map(rows.map(r => [r.customerId, { of: r.id, times: r.times + 1 }])),
  }
}

/**
 * What a run collects of some customers. The same function proposes, shows a change, and looks again before
 * it is confirmed.
 */
export async function workOut(
  database: Handle,
  settings: Settings,
  run: RunRow,
  customerIds: readonly number[],
): Promise<Worked> {
  const again = run.againOf.length ? await comingAgain(database, run.againOf) : null
  const ask: CollectAsk = {
    today: run.madeOn,
    collectOn: run.collectOn,
    dueBy: run.dueBy,
    scheme: run.scheme || null,
    again: again?.items ?? null,
  }
  const policy = policyOf(settings)
  const worked: Worked = { collections: [], leftOut: [] }
  for (const some of chunksOf(customerIds, CUSTOMERS_AT_ONCE)) {
    for (const debtor of await debtorsOf(database, settings, some)) {
      const own = proposeCollection(debtor, policy, ask, run.edits[debtor.number])
      worked.collections.push(
        ...own.collections.map(c => ({ ...c, again: again?.of.get(c.customerId) ?? null })),
      )
      worked.leftOut.push(...own.leftOut)
    }
  }
  return worked
}

/** Keeps what was worked out in place of what was there for these customers. */
export async function keepWorked(tx: Handle, runId: number, worked: Worked): Promise<void> {
  for (const some of chunksOf(worked.collections, CUSTOMERS_AT_ONCE)) {
    const ids = await tx.insert(
      'collection',
      some.map(c => ({
        run_id: runId,
        customer_id: c.customerId,
        mandate_id: c.mandate.id,
        sequence: c.sequence,
        amount: c.amount,
        collect_on: c.collectOn,
        why: c.why.slice(0, 300),
        credits: JSON.stringify(c.credits),
        again_of: c.again?.of ?? null,
        times: c.again?.times ?? 0,
      })),
    )
    await tx.insert(
      'collection_item',
      some.flatMap((c, n) =>
        c.items.map(i => ({ collection_id: ids[n]!, item_id: i.id, amount: i.amount, discount: i.discount })),
      ),
    )
  }
  for (const some of chunksOf(worked.leftOut, CUSTOMERS_AT_ONCE))
    await tx.insert(
      'collection_left_out',
      some.map(l => ({
        run_id: runId,
        customer_id: l.customerId,
        item: l.item,
        amount: l.amount,
        rule: l.rule,
        reason: l.reason.slice(0, 300),
      })),
    )
}

export interface ProposeAsk {
  collectOn: string
  dueBy?: string
  scheme?: 'CORE' | 'B2B'
}

function requireRun(settings: Settings, { collectOn, dueBy }: ProposeAsk): void {
  const { today, paymentPolicy } = settings
  const refuse = (path: string, message: string, satisfy: string) =>
    new ProblemError(422, 'Not a collection', `${message}: ${satisfy}`, [{ path, message, satisfy }])
  if (!paymentPolicy.creditorId)
    throw refuse('creditorId', 'we have no creditor identifier', 'enter it in Setup, Payments')
  const earliest = addBankWorkingDays(today, 1)
  if (!isIsoDate(collectOn) || !isCollectionDay(collectOn))
    throw refuse(
      'collectOn',
      `no bank works on ${collectOn}`,
      `choose a bank working day from ${earliest} on`,
    )
  if (collectOn < earliest)
    throw refuse('collectOn', 'a file is with the bank one working day before', `${earliest} or later`)
  if (collectOn > addDays(today, 90)) throw refuse('collectOn', 'that is far away', 'within 90 days')
  if (dueBy !== undefined && dueBy > collectOn)
    throw refuse('dueBy', 'nothing is collected before it is due', `${collectOn} or earlier`)
}

/** Proposes what is collected on a day. */
export async function proposeRun(database: Handle, actor: Actor, ask: ProposeAsk): Promise<CollectionRun> {
  const settings = await readSettings(database)
  requireRun(settings, ask)
  const account = await ownAccount(database, { currency: 'EUR' })
  const id = await database.transaction(async tx => {
    const [runId] = await tx.insert('collection_run', [
      {
        collect_on: ask.collectOn,
        due_by: ask.dueBy ?? ask.collectOn,
        made_on: settings.today,
        scheme: ask.scheme ?? '',
        bank_account_id: account.id,
        person_id: actor.id,
      },
    ])
    const run = await runRow(tx, runId!)
    await keepWorked(tx, runId!, await workOut(tx, settings, run, await debtorIds(tx)))
    await audit(tx, actor.id, 'collection', String(runId), null, `proposed for ${ask.collectOn}`)
    return runId!
  })
  return readRun(database, id)
}

const sumCells = z.object({
  state: z.enum(['proposed', 'announced', 'sent', 'collected', 'returned', 'refused', 'dropped']),
  scheme: z.enum(['CORE', 'B2B']),
  sequence: cell.text,
  count: cell.sum,
  amount: cell.sum,
  discount: cell.sum,
  credits: cell.sum,
})

const GONE = ['dropped', 'refused']

export async function readRun(database: Handle, id: number): Promise<CollectionRun> {
  const { edits: _, accountId: __, againOf, ...row } = await runRow(database, id)
  const [sums, [left], fileIds] = await Promise.all([
    database.rows(
      sumCells,
      `SELECT k.state, m.scheme, k.sequence, COUNT(*) AS count, SUM(k.amount) AS amount,
        SUM((SELECT COALESCE(SUM(t.discount), 0) FROM collection_item t WHERE t.collection_id = k.id)) AS discount,
        SUM((SELECT COALESCE(SUM(j.amount), 0) FROM JSON_TABLE(k.credits, '$[*]' COLUMNS (
          amount BIGINT PATH '$.amount')) j)) AS credits
        FROM collection k JOIN mandate m ON m.id = k.mandate_id WHERE k.run_id = :id
        GROUP BY k.state, m.scheme, k.sequence`,
      { id },
    ),
    database.rows(
      z.object({ n: cell.sum, amount: cell.sum }),
      'SELECT COUNT(*) AS n, SUM(amount) AS amount FROM collection_left_out WHERE run_id = :id',
      { id },
    ),
    database.find(
      'collection',
      { run_id: id, file_id: { [Op.not]: null } },
      { columns: { id: 'file_id' }, distinct: true },
    ),
  ])
  const live = sums.filter(s => !GONE.includes(s.state))
  const total = (list: typeof sums, of: 'count' | 'amount' | 'discount' | 'credits') =>
    list.reduce((a, s) => a + int(s[of]), 0)
  const states = [...new Set(sums.map(s => s.state))]
  const sequences = [...new Set(live.map(s => `${s.scheme} ${s.sequence}`))].sort()
  const own = new Set(fileIds.map(f => f.id))
  const files = own.size ? (await listFiles(database, { kind: 'debit', limit: 200 })).items : []
  return {
    ...row,
    again: againOf.length > 0,
    sendBy: sendBy(row.collectOn),
    totals: {
      collections: total(live, 'count'),
      amount: total(live, 'amount'),
      discount: total(live, 'discount'),
      credits: total(live, 'credits'),
      leftOut: int(left!.amount ?? 0),
      leftOutLines: int(left!.n),
      byState: states.map(state => {
        const these = sums.filter(s => s.state === state)
        return { state, count: total(these, 'count'), amount: total(these, 'amount') }
      }),
      bySequence: sequences.map(key => {
        const [scheme, sequence] = key.split(' ') as ['CORE' | 'B2B', string]
        const these = live.filter(s => s.scheme === scheme && s.sequence === sequence)
        return { scheme, sequence, count: total(these, 'count'), amount: total(these, 'amount') }
      }),
    },
    files: files.filter(f => own.has(f.id)),
  }
}

const editRunRow = z.object({
  id: cell.whole,
})

/** Leaves a customer, or single items of it, out of a proposal; or takes them in again. */
export async function editRun(
  database: Handle,
  actor: Actor,
  id: number,
  body: { version: number; customer: string; leaveOut: string | null; items: Record<string, string> },
): Promise<CollectionRun> {
  const settings = await readSettings(database)
  await database.transaction(async tx => {
    await takeLocks(tx, { collectionRuns: [id] })
    const run = await runRow(tx, id)
    requireProposed(run, body.version)
    const [customer] = await tx.rows(
      editRunRow,
      `SELECT c.id FROM customer c WHERE c.number = :customer
        AND (EXISTS (SELECT 1 FROM collection k WHERE k.run_id = :id AND k.customer_id = c.id)
          OR EXISTS (SELECT 1 FROM collection_left_out l WHERE l.run_id = :id AND l.customer_id = c.id))`,
      { id, customer: body.customer },
    )
    if (!customer) throw notFound(`${body.customer} in this collection`, 'choose one of its customers')
    const edit: CollectionEdit = {
      ...(body.leaveOut === null ? {} : { leaveOut: body.leaveOut }),
      ...(Object.keys(body.items).length ? { items: body.items } : {}),
    }
    const edits = { ...run.edits, [body.customer]: edit }
    const values = { id, customerId: customer.id }
    const worked = await workOut(tx, settings, { ...run, edits }, [customer.id])
    await tx.run(
      `DELETE t FROM collection_item t JOIN collection k ON k.id = t.collection_id
        WHERE k.run_id = :id AND k.customer_id = :customerId`,
      values,
    )
    await tx.remove('collection', { run_id: values.id, customer_id: values.customerId })
    await tx.remove('collection_left_out', { run_id: values.id, customer_id: values.customerId })
    await keepWorked(tx, id, worked)
    await tx.update('collection_run', { edits: JSON.stringify(edits), version: plus('version', 1) }, { id })
    await audit(tx, actor.id, 'collection', String(id), null, `${body.customer}: ${JSON.stringify(edit)}`)
  })
  return readRun(database, id)
}

/** Throws a problem unless a run is a proposal, as somebody saw it. */
export function requireProposed(run: RunRow, version: number): void {
  if (run.state !== 'proposed')
    throw new ProblemError(409, 'No proposal', `this collection was ${run.state} meanwhile: reload it`, [
      { path: 'id', message: run.state, satisfy: 'reload it' },
    ])
  if (run.version !== version)
    throw new ProblemError(
      409,
      'Changed meanwhile',
      'somebody changed this proposal: reload it and look again',
      [{ path: 'version', message: 'another version', satisfy: 'reload it' }],
    )
}
