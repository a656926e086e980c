import { cell } from '../../db/rows'
import { now, plus } from '../../db/where'
import { z } from 'zod'
import { id } from '../../../contract/common'
import type { CollectionRun } from '../../../contract/collections'
import { postCollections, type ProposedCollection, type SentCollection } from '../../../core/collections'
import { refuse, refused } from '../../../core/ledger'
import { toMajor } from '../../../core/money'
import { chunksOf, type Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, perform, type By, type Idempotency } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import { takeNumbers } from '../../ledger/series'
import { prove } from '../books/proof'
import { addressees, sendLetter, type Addressee } from '../letters/send'
import { noticeSheet } from '../letters/paymentSheets'
import type { Actor } from '../people/scope'
import { readRun, requireProposed, runRow, workOut } from './runs'

interface ProposedRow {
  id: number
  customerId: number
  customer: string
  mandateId: number
  sequence: string
  amount: number
  items: Map<number, string>
}

const proposedRow = z.object({
  id: cell.whole,
  amount: cell.whole,
  customerId: cell.whole,
  customer: cell.text,
  sequence: cell.text,
  mandateId: cell.whole,
})

const proposedCollectionItemRow = z.object({
  collectionId: cell.whole,
  itemId: cell.whole,
  amount: cell.whole,
  discount: cell.whole,
})

/** What was proposed, as it is kept. */
async function proposed(db: Handle, runId: number): Promise<ProposedRow[]> {
  const [rows, items] = await Promise.all([
    db.rows(
      proposedRow,
      `SELECT k.id, k.customer_id AS customerId, c.number AS customer, k.mandate_id AS mandateId, k.sequence, k.amount
        FROM collection k JOIN customer c ON c.id = k.customer_id
        WHERE k.run_id = :runId AND k.state = 'proposed' ORDER BY c.number`,
      { runId },
    ),
    db.rows(
      proposedCollectionItemRow,
      `SELECT t.collection_id AS collectionId, t.item_id AS itemId, t.amount, t.discount FROM collection_item t
        JOIN collection k ON k.id = t.collection_id WHERE k.run_id = :runId AND k.state = 'proposed'`,
      { runId },
    ),
  ])
  const byCollection = new Map(rows.map(r => [r.id, { ...r, items: new Map<number, string>() }]))
  for (const i of items) byCollection.get(i.collectionId)!.items.set(i.itemId, `${i.amount} ${i.discount}`)
  return [...byCollection.values()]
}

const customersOf = async (db: Handle, runId: number): Promise<number[]> =>
  (
    await db.find(
      'collection',
      { run_id: runId },
      { columns: { id: 'customer_id' }, order: ['customer_id'], distinct: true },
    )
  ).map(r => r.id)

function isSame(row: ProposedRow, now: ProposedCollection | undefined): boolean {
  return (
    now !== undefined &&
    now.amount === row.amount &&
    now.mandate.id === row.mandateId &&
    now.sequence === row.sequence &&
    now.items.length === row.items.size &&
    now.items.every(i => row.items.get(i.id) === `${i.amount} ${i.discount}`)
  )
}

/**
 * Confirms a collection: it is announced to the customers, and its items are on their way. It posts nothing
 * yet: money moves on the day of collection. What moved on since it was proposed refuses it.
 */
export const confirmCollectionCommand = command({
  name: 'collections.confirm',
  ability: 'collections.run',
  input: z.object({ id, version: z.int() }),
  locks: async (db, input) => ({ collectionRuns: [input.id], customers: await customersOf(db, input.id) }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const run = await runRow(db, input.id)
    requireProposed(run, input.version)
    const rows = await proposed(db, input.id)
    const worked = await workOut(
      db,
      settings,
      run,
      rows.map(r => r.customerId),
    )
    return { ledger: await loadState(db, { customerIds: [] }, settings), run, rows, worked, settings }
  },
  decide: ({ rows, worked, run, ledger }) => {
    if (!rows.length)
      return refused([refuse('collect.some', 'id', 'nothing is collected', 'propose another day')])
    if (run.madeOn !== ledger.today && !run.againOf.length)
      return refused([
        refuse(
          'collect.old',
          'id',
          `this was proposed on ${run.madeOn}: the notice would be too short`,
          'discard it and propose again',
        ),
      ])
    const now = new Map(worked.collections.map(c => [c.customerId, c]))
    const moved = rows.filter(r => !isSame(r, now.get(r.customerId)))
    if (moved.length) {
      const names = moved.slice(0, 5).map(m => m.customer)
      return refused([
        refuse(
          'collect.moved',
          'id',
          `something changed for ${names.join(', ')}${moved.length > 5 ? ' and others' : ''} meanwhile`,
          'leave them out, or discard this and propose again',
        ),
      ])
    }
    return { ok: true, postings: [], facts: null }
  },
  after: async ({ db, input, state, actor }) => {
    const { rows, worked, run, settings } = state
    const take = await takeNumbers(db, 'collection', rows.length)
    const details = new Map(worked.collections.map(c => [c.customerId, c]))
    const people = new Map<number, Addressee>()
    for (const some of chunksOf(rows, 1000)) {
      const ids = some.map(r => r.customerId)
      for (const a of await addressees(db, 'c.id IN (:ids)', { ids })) people.set(a.id, a)
    }
    for (const [n, row] of rows.entries()) {
      const number = take(n)
      const told = details.get(row.customerId)!
      const letterId = run.againOf.length
        ? null
        : await announce(db, actor, settings, people.get(row.customerId)!, number, told)
      await db.update('collection', { state: 'announced', number, letter_id: letterId }, { id: row.id })
    }
    await db.update(
      'collection_run',
      { state: 'confirmed', version: plus('version', 1), confirmed_by: actor.id, confirmed_at: now() },
      { id: input.id },
    )
    return { id: input.id }
  },
  tell: ({ input, state }) => ({ ...input, collections: state.rows.length }),
  about: input => `collection ${input.id}`,
})

/** The advance notice: exact amount and day, by e-mail or by post. Answers the letter. */
async function announce(
  db: Handle,
  actor: { id: number },
  settings: Settings,
  to: Addressee,
  number: string,
  told: ProposedCollection,
): Promise<number> {
  const itemOf = new Map(told.items.map(i => [i.id, i.number]))
  const sheet = noticeSheet(settings, to, {
    number,
    collectOn: told.collectOn,
    amount: told.amount,
    mandate: told.mandate.reference,
    creditorId: settings.paymentPolicy.creditorId,
    iban: told.mandate.iban,
    items: told.items.map(i => ({
      number: i.number,
      due: i.dueDate,
      amount: i.amount,
      discount: i.discount,
    })),
    credits: told.credits.map(c => ({ item: itemOf.get(c.debitItemId) ?? c.number, amount: c.amount })),
  })
  const sent = await sendLetter(db, actor, to, { kind: 'notice', sheet, asOf: settings.today, jobId: null })
  return sent!.letter
}

type QueueConfirm = (
  database: Handle,
  personId: number,
  ask: { run: number; version: number },
) => Promise<number>

/** More collections than this are confirmed by a job. */
const AT_ONCE = 400

export async function confirmCollection(
  database: Handle,
  actor: Actor,
  runId: number,
  version: number,
  idempotency?: Idempotency,
  queue?: QueueConfirm,
): Promise<CollectionRun> {
  const run = await readRun(database, runId)
  if (queue && run.state === 'proposed' && run.job === null && run.totals.collections > AT_ONCE) {
    const jobId = await queue(database, actor.id, { run: runId, version })
    await database.update('collection_run', { job_id: jobId }, { id: runId })
    return readRun(database, runId)
  }
  if (run.job === null)
    await perform(database, actor, confirmCollectionCommand, { id: runId, version }, idempotency)
  return readRun(database, runId)
}

/** The confirmation of a large collection, by a job; stopped, nothing of it stays. */
export async function confirmLargeCollection(
  database: Handle,
  actor: Actor,
  ask: { run: number; version: number },
  told: (step: string, done: number, total: number) => Promise<void>,
): Promise<{ collections: number }> {
  await told('announcing', 0, 1)
  await perform(database, actor, confirmCollectionCommand, { id: ask.run, version: ask.version })
  const { totals } = await readRun(database, ask.run)
  return { collections: totals.collections }
}

const foreseenCommandRow = z.object({
  n: cell.whole,
  amount: cell.sum,
})

/** What will be posted on the day of collection, if nothing changes until then: for the Proof. */
export const foreseenCommand = command({
  name: 'collections.foresee',
  ability: 'collections.run',
  input: z.object({ id }),
  locks: async () => ({}),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const run = await runRow(db, input.id)
    const sent = await collectionsOf(db, `k.run_id = :id AND k.state IN ('proposed', 'announced', 'sent')`, {
      id: input.id,
    })
    const ledger = await ledgerFor(db, settings, sent)
    // As if it were that day.
    const today = run.collectOn > ledger.today ? run.collectOn : ledger.today
    return { ledger: { ...ledger, today }, sent }
  },
  decide: ({ ledger, sent }) => {
    const { postings, refusals } = postCollections(ledger, sent, c => c.collectOn)
    return refusals.length ? refused(refusals) : { ok: true, postings, facts: null }
  },
  warnings: async (db, input) => {
    const [row] = await db.rows(
      foreseenCommandRow,
      `SELECT COUNT(*) AS n, COALESCE(SUM(amount), 0) AS amount FROM collection WHERE run_id = :id
        AND sequence = 'FRST'`,
      { id: input.id },
    )
    const { n, amount } = row!
    return Number(n) ? [`${n} first collections, ${toMajor(Number(amount), 'EUR')} EUR, by new mandates`] : []
  },
  after: () => Promise.reject(new Error('this is only foreseen')),
  about: input => `collection ${input.id}`,
})

export const proveCollection = (database: Handle, actor: Actor, runId: number) =>
  prove(database, actor, foreseenCommand, { id: runId })

const collectionsOfRow = z.object({
  id: cell.whole,
  number: cell.text.nullable(),
  customerId: cell.whole,
  amount: cell.whole,
  collectOn: cell.text,
  credits: cell.text,
  runId: cell.whole,
  sentBy: cell.whole.nullable(),
})

/** Collections with their items and credits, as they are posted. */
export async function collectionsOf(
  db: Handle,
  where: string,
  values: Record<string, string | number | readonly number[]>,
): Promise<(SentCollection & { runId: number; sentBy: number | null })[]> {
  const rows = await db.rows(
    collectionsOfRow,
    `SELECT k.id, k.number, k.customer_id AS customerId, k.amount, k.collect_on AS collectOn, k.credits,
      k.run_id AS runId, f.sent_by AS sentBy FROM collection k LEFT JOIN payment_file f ON f.id = k.file_id
      WHERE ${where} ORDER BY k.id`,
    values,
  )
  const items = new Map<number, SentCollection['items'][number][]>()
  for (const some of chunksOf(
    rows.map(r => r.id),
    5000,
  )) {
    const own = await db.find(
      'collection_item',
      { collection_id: some },
      {
        columns: { collectionId: 'collection_id', id: 'item_id', amount: 'amount', discount: 'discount' },
        order: ['collection_id', 'item_id'],
      },
    )
    for (const { collectionId, ...item } of own) {
      const list = items.get(collectionId) ?? []
      items.set(collectionId, list)
      list.push(item)
    }
  }
  return rows.map(r => ({
    ...r,
    number: r.number ?? 'proposed',
    items: items.get(r.id) ?? [],
    credits: JSON.parse(r.credits) as SentCollection['credits'],
  }))
}

/** The part of the ledger that posting collections needs. */
export async function ledgerFor(db: Handle, settings: Settings, sent: readonly SentCollection[]) {
  return loadState(
    db,
    {
      customerIds: [...new Set(sent.map(s => s.customerId))],
      itemIds: [
        ...new Set(
          sent.flatMap(s => [
            ...s.items.map(i => i.id),
            ...s.credits.flatMap(c => [c.creditItemId, c.debitItemId]),
          ]),
        ),
      ],
    },
    settings,
  )
}
