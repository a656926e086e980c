import { z } from 'zod'
import { cell } from '../../db/rows'
import { isWithinLead } from '../../../core/collections'
import type { CollectionRun } from '../../../contract/collections'
import {
  writePain008,
  type Debit,
  type DebitBlock,
  type Scheme,
  type Sequence,
} from '../../../formats/payments'
import { chunksOf, type Handle } from '../../db/handle'
import { audit, readSettings, type Settings } from '../../db/settings'
import { once, type Idempotency } from '../../ledger/idempotency'
import { takeLocks } from '../../ledger/locks'
import { takeNumbers } from '../../ledger/series'
import { ProblemError } from '../common/problems'
import { keepFile, ownAccount } from '../payments/files'
import type { Actor } from '../people/scope'
import { readRun, runRow, type RunRow } from './runs'

const announcedRow = z.object({
  id: cell.whole,
  number: cell.text,
  customerId: cell.whole,
  name: cell.text,
  mandateId: cell.whole,
  amount: cell.whole,
  collectOn: cell.text,
  sequence: z.enum(['FRST', 'RCUR', 'OOFF', 'FNAL']),
  scheme: z.enum(['CORE', 'B2B']),
  reference: cell.text,
  signedOn: cell.text,
  iban: cell.text,
  bic: cell.text,
  holder: cell.text,
  mandateState: cell.text,
  wasReference: cell.text,
  wasIban: cell.text,
  wasCreditor: cell.text,
  street: cell.text,
  postcode: cell.text,
  city: cell.text,
  country: cell.text,
  /** Items that are not open enough any more, or are disputed now. */
  short: cell.text.nullable(),
})
type Announced = z.output<typeof announcedRow>

const ANNOUNCED = `SELECT k.id, k.number, k.customer_id AS customerId, c.name, m.id AS mandateId, k.amount,
    k.collect_on AS collectOn, k.sequence, m.scheme, m.reference, m.signed_on AS signedOn, m.iban, m.bic, m.holder,
    m.state AS mandateState, m.was_reference AS wasReference, m.was_iban AS wasIban, m.was_creditor AS wasCreditor,
    c.street, c.postcode, c.city, c.country,
    (SELECT GROUP_CONCAT(i.number ORDER BY i.number SEPARATOR ', ') FROM collection_item t
      JOIN item i ON i.id = t.item_id LEFT JOIN open_item o ON o.item_id = t.item_id
      WHERE t.collection_id = k.id AND (COALESCE(o.open, 0) < t.amount + t.discount
        OR EXISTS (SELECT 1 FROM dispute_item di JOIN dispute d ON d.id = di.dispute_id
          WHERE di.item_id = t.item_id AND d.resolution = ''
          AND d.at > (SELECT r.confirmed_at FROM collection_run r WHERE r.id = k.run_id)))) AS short
  FROM collection k JOIN customer c ON c.id = k.customer_id JOIN mandate m ON m.id = k.mandate_id
  WHERE k.run_id = :runId AND k.state = 'announced' AND k.file_id IS NULL ORDER BY k.collect_on, k.sequence, k.id`

/** Why an announced collection does not go to the bank after all; empty when it does. */
function dropReason(a: Announced): string {
  if (a.short) return `${a.short} was paid, credited or disputed meanwhile`
  if (a.mandateState !== 'active') return `mandate ${a.reference} is ${a.mandateState}`
  return ''
}

const debitOf = (a: Announced): Debit => ({
  endToEndId: a.number,
  amount: a.amount,
  party: {
    name: a.holder || a.name,
    iban: a.iban,
    bic: a.bic,
    address: { street: a.street, postcode: a.postcode, city: a.city, country: a.country },
  },
  text: `${a.number} ${a.name}`.slice(0, 140),
  mandate: {
    reference: a.reference,
    signedOn: a.signedOn,
    amended:
      a.wasReference || a.wasIban || a.wasCreditor
        ? {
            ...(a.wasReference ? { reference: a.wasReference } : {}),
            ...(a.wasIban ? { iban: a.wasIban } : {}),
            ...(a.wasCreditor ? { creditorId: a.wasCreditor } : {}),
          }
        : null,
  },
})

function blocksOf(rows: readonly Announced[]): DebitBlock[] {
  const blocks = new Map<string, { date: string; sequence: Sequence; debits: Debit[] }>()
  for (const a of rows) {
    const key = `${a.collectOn} ${a.sequence}`
    const block = blocks.get(key) ?? { date: a.collectOn, sequence: a.sequence, debits: [] }
    blocks.set(key, block)
    block.debits.push(debitOf(a))
  }
  return [...blocks.entries()].sort(([a], [b]) => (a < b ? -1 : 1)).map(([, block]) => block)
}

/**
 * Makes the files of a collection that was announced, CORE and B2B apart. What was paid, disputed or stopped
 * since is dropped and told: the bank is not asked for it.
 */
export async function makeDebitFiles(
  database: Handle,
  actor: Actor,
  runId: number,
  idempotency?: Idempotency,
): Promise<{ run: CollectionRun; dropped: string[] }> {
  const settings = await readSettings(database)
  const before = await runRow(database, runId)
  const { dropped } = await once(database, actor, idempotency, async tx => {
    await takeLocks(tx, { bankAccounts: [before.accountId], collectionRuns: [runId] })
    const run = await runRow(tx, runId)
    requireSendable(run, settings)
    const first = await tx.rows(announcedRow, ANNOUNCED, { runId })
    await takeLocks(tx, { customers: first.map(a => a.customerId) })
    const rows = await tx.rows(announcedRow, ANNOUNCED, { runId })
    if (!rows.length)
      throw new ProblemError(409, 'Nothing to send', 'nothing of this collection waits for a file: reload it')
    const going = rows.filter(a => !dropReason(a))
    const out = rows.filter(a => dropReason(a))
    for (const a of out) await dropOne(tx, actor, a.id, a.number, dropReason(a))
    for (const scheme of ['CORE', 'B2B'] as const) {
      const own = going.filter(a => a.scheme === scheme)
      if (own.length) await makeFile(tx, actor, settings, run, scheme, own)
    }
    return { dropped: out.map(a => `${a.name}: ${dropReason(a)}`) }
  })
  return { run: await readRun(database, runId), dropped }
}

function requireSendable(run: RunRow, { today }: Settings): void {
  if (run.state !== 'confirmed')
    throw new ProblemError(409, 'Not announced', 'confirm the collection first: the customers are told of it')
  if (!isWithinLead(run.collectOn, today))
    throw new ProblemError(
      409,
      'Too late',
      `a file for ${run.collectOn} had to be with the bank one working day before: drop it and propose again`,
      [{ path: 'collectOn', message: 'too late', satisfy: 'drop it and propose another day' }],
    )
}

async function makeFile(
  tx: Handle,
  actor: Actor,
  settings: Settings,
  run: RunRow,
  scheme: Scheme,
  rows: readonly Announced[],
): Promise<void> {
  const { company, house, paymentPolicy, today } = settings
  const account = await ownAccount(tx, { id: run.accountId })
  const number = (await takeNumbers(tx, 'payment-file', 1))(0)
  const { street, postcode, city, country } = house
  const content = writePain008({
    format: paymentPolicy.debitFormat,
    scheme,
    creditorId: paymentPolicy.creditorId,
    id: number,
    createdAt: `${today}T${new Date().toISOString().slice(11, 19)}`,
    currency: 'EUR',
    own: {
      name: company,
      iban: account.iban,
      bic: account.bic,
      address: { street, postcode, city, country },
    },
    blocks: blocksOf(rows),
  })
  const fileId = await keepFile(tx, actor.id, today, {
    number,
    kind: 'debit',
    scheme,
    format: paymentPolicy.debitFormat,
    bankAccountId: account.id,
    currency: 'EUR',
    executeOn: run.collectOn,
    payments: rows.length,
    total: rows.reduce((sum, a) => sum + a.amount, 0),
    content,
  })
  for (const some of chunksOf(
    rows.map(a => a.id),
    5000,
  ))
    await tx.update('collection', { file_id: fileId }, { id: some })
}

/** Takes one collection out that was announced; its items are free again. */
export async function dropOne(
  tx: Handle,
  actor: { id: number },
  id: number,
  number: string,
  why: string,
): Promise<void> {
  await tx.update('collection', { state: 'dropped', file_id: null, back_why: why.slice(0, 200) }, { id })
  await audit(tx, actor.id, 'collection', number, 'announced', `dropped: ${why}`)
}

const requireUnmovedRow = z.object({
  number: cell.text,
  name: cell.text,
})

/** What must still hold of a debit file when it goes to the bank; throws the problem. */
export async function requireUnmoved(tx: Handle, fileId: number): Promise<void> {
  const moved = await tx.rows(
    requireUnmovedRow,
    `SELECT DISTINCT k.number, c.name FROM collection k JOIN customer c ON c.id = k.customer_id
      JOIN collection_item t ON t.collection_id = k.id LEFT JOIN open_item o ON o.item_id = t.item_id
      WHERE k.file_id = :fileId AND COALESCE(o.open, 0) < t.amount + t.discount LIMIT 5`,
    { fileId },
  )
  if (moved.length)
    throw new ProblemError(
      409,
      'Paid meanwhile',
      `${moved.map(m => m.name).join(', ')} paid or was credited since the file was made: take the file back and ` +
        'make it again',
      [{ path: 'id', message: 'paid meanwhile', satisfy: 'take the file back and make it again' }],
    )
}

/** The collections of a file are with the bank from now on, and their mandates are used. */
export async function markDebitsSent(tx: Handle, fileId: number): Promise<void> {
  await tx.update('collection', { state: 'sent' }, { file_id: fileId, state: 'announced' })
  await settleLastUse(tx, fileId)
}

/** Brings the last use of the mandates of a file to what its collections say. */
async function settleLastUse(tx: Handle, fileId: number): Promise<void> {
  await tx.run(
    `UPDATE mandate m JOIN (SELECT DISTINCT mandate_id AS id FROM collection WHERE file_id = :fileId) f ON f.id = m.id
      LEFT JOIN (SELECT mandate_id, MAX(collect_on) AS day FROM collection
        WHERE state IN ('sent', 'collected', 'returned') GROUP BY mandate_id) u ON u.mandate_id = m.id
      SET m.last_used = COALESCE(u.day, IF(m.last_used >= (SELECT MIN(collect_on) FROM collection
        WHERE file_id = :fileId), NULL, m.last_used))`,
    { fileId },
  )
}

/** Takes a debit file back whole: what was not collected waits again, or is dropped when its day is over. */
export async function freeDebits(
  tx: Handle,
  actor: { id: number },
  fileId: number,
  today: string,
): Promise<void> {
  const rows = await tx.find(
    'collection',
    { file_id: fileId, state: ['announced', 'sent'] },
    { columns: { id: 'id', number: 'number', collectOn: 'collect_on' } },
  )
  const ids = rows.map(r => r.id)
  if (!ids.length) return
  await tx.update('collection', { state: 'announced' }, { id: ids })
  await settleLastUse(tx, fileId)
  await tx.update('collection', { file_id: null }, { id: ids })
  for (const { id, number, collectOn } of rows)
    if (!isWithinLead(collectOn, today))
      await dropOne(tx, actor, id, number!, 'its file was taken back too late')
}
