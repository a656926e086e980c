import { cell } from '../../db/rows'
import { Op, now, plus } from '../../db/where'
import { z } from 'zod'
import { decideUnmatch, type UnmatchState } from '../../../core/banking'
import { id } from '../../../contract/common'
import type { BankLineDetail } from '../../../contract/banking/lines'
import type { Proof } from '../../../contract/receipts'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, perform, type Idempotency } from '../../ledger/command'
import { loadLines as loadItemLines, loadState } from '../../ledger/load'
import { findCustomer } from '../accounts/customers'
import { prove } from '../books/proof'
import type { Actor } from '../people/scope'
import { entryLines } from '../receipts/sundry'
import { lineById, readLine } from './lines'
import { markMet } from './met'
import { BY_HAND } from './proposals'
import { lineState } from './resolve'

interface Match {
  id: number
  kind: NonNullable<UnmatchState['matched']>
  entryId: number
}

async function matchOf(db: Handle, lineId: number): Promise<Match | undefined> {
  const [match] = await db.find(
    'bank_match',
    { line_id: lineId, undone_entry_id: null },
    { columns: { id: 'id', kind: 'kind', entryId: 'entry_id' } },
  )
  return match
}

const receiptsOfRow = z.object({
  id: cell.whole,
  customerId: cell.whole,
  customer: cell.text,
})

/** The receipts that a match made. */
const receiptsOf = (db: Handle, matchId: number) =>
  db.rows(
    receiptsOfRow,
    `SELECT i.id, i.customer_id AS customerId, c.number AS customer FROM bank_match_target t
      JOIN item i ON i.id = t.ref_id JOIN customer c ON c.id = i.customer_id
      WHERE t.match_id = :matchId AND t.kind = 'receipt'`,
    { matchId },
  )

const targetsOf = async (db: Handle, matchId: number, kind: string) =>
  (await db.find('bank_match_target', { match_id: matchId, kind }, { columns: { id: 'ref_id' } })).map(
    t => t.id,
  )

const unmatchCommandRow = z.object({
  id: cell.whole,
})

/** Takes back what a line was matched to; the line is open again. */
export const unmatchCommand = command({
  name: 'banking.unmatch',
  ability: 'receipts.correct',
  input: z.object({
    id,
    version: z.int(),
    reason: z.string().trim().min(1, { error: 'say why' }).max(200),
  }),
  locks: async (db, input) => {
    const match = await matchOf(db, input.id)
    if (!match) return { bankLines: [input.id] }
    return {
      bankLines: [input.id],
      slips: await targetsOf(db, match.id, 'slip'),
      means: await targetsOf(db, match.id, 'means'),
      customers: (await receiptsOf(db, match.id)).map(r => r.customerId),
    }
  },
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) => {
    const row = await lineById(db, input.id)
    const match = await matchOf(db, input.id)
    const receipts = match ? await receiptsOf(db, match.id) : []
    const credits =
      match?.kind === 'receipt'
        ? await db.rows(
            unmatchCommandRow,
            `SELECT a.id FROM allocation a JOIN item k ON k.id = a.credit_item_id
              WHERE a.entry_id = :entry AND k.entry_id <> :entry AND a.undoes_id IS NULL
              AND NOT EXISTS (SELECT 1 FROM allocation u WHERE u.undoes_id = a.id)`,
            { entry: match.entryId },
          )
        : []
    const allocationIds = credits.map(c => c.id)
    const wanted = {
      customerIds: receipts.map(r => r.customerId),
      linksOf: receipts.map(r => r.id),
      allocationIds,
    }
    const itemLines = []
    for (const r of receipts) itemLines.push({ itemId: r.id, lines: await loadItemLines(db, r.id) })
    const state: UnmatchState = {
      ledger: await loadState(db, wanted, settings),
      line: lineState(row),
      version: input.version,
      matched: match?.kind ?? null,
      lines: match ? await entryLines(db, match.entryId) : [],
      receipts: itemLines,
      credits: allocationIds,
    }
    const customer = receipts[0] ? await findCustomer(db, receipts[0].customer, {}) : null
    return { ...state, customer, row, match, owners: receipts.map(r => r.customerId) }
  },
  decide: decideUnmatch,
  after: async ({ db, input, state, written, actor }) => {
    const { match, row, owners } = state
    await db.update(
      'bank_match',
      {
        undone_entry_id: written[0]!.entryId,
        undone_reason: input.reason,
        undone_by: actor.id,
        undone_at: now(),
      },
      { id: match!.id },
    )
    await db.update('bank_match_target', { live: null }, { match_id: match!.id })
    await markMet(db, await targetsOf(db, match!.id, 'means'))
    await db.update(
      'bank_line',
      { state: 'open', version: plus('version', 1), held: BY_HAND },
      { id: input.id },
    )
    // What was wrong is not remembered.
    for (const customer of owners) {
      await db.update(
        'payer_learnt',
        { times: plus('times', -1) },
        { customer_id: customer, iban: row.iban.replace(/\s/g, '').toUpperCase(), name: row.name },
      )
    }
    await db.remove('payer_learnt', { times: { [Op.lte]: 0 } })
    return { id: input.id }
  },
  about: input => String(input.id),
})

export async function previewUndo(
  database: Handle,
  actor: Actor,
  lineId: number,
  reason: string,
): Promise<Proof> {
  const { version } = await lineById(database, lineId)
  return prove(database, actor, unmatchCommand, { id: lineId, version, reason })
}

export async function undoLine(
  database: Handle,
  actor: Actor,
  lineId: number,
  body: { version: number; reason: string },
  idempotency?: Idempotency,
): Promise<BankLineDetail> {
  await perform(database, actor, unmatchCommand, { id: lineId, ...body }, idempotency)
  return readLine(database, lineId)
}
