import { cell } from '../../db/rows'
import { z } from 'zod'
import { decideSlip, decideSlipVoid, type SlipVoidState } from '../../../core/banking'
import { id, isoDate } from '../../../contract/common'
import { slipBody, type SlipDetail } from '../../../contract/banking/slips'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, perform, type Idempotency } from '../../ledger/command'
import { loadState } from '../../ledger/load'
import type { Actor } from '../people/scope'
import { entryLines } from '../receipts/sundry'
import { FROM_RECEIPTS, meansOf, readSlip, REVERSED, slipData } from './slips'

/**
 * A paying-in slip. The payment means themselves are locked, not only the accounts they are of: a cheque of
 * nobody's account would otherwise go to the bank twice when two people bank at once.
 */
export const slipCommand = command({
  name: 'banking.slip',
  ability: 'receipts.post',
  input: slipBody,
  steady: true,
  locks: async (db, input) => ({
    means: input.means,
    customers: (await meansOf(db, input.means)).customerIds,
  }),
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }) => ({
    ledger: await loadState(db, { customerIds: [] }, settings),
    means: (await meansOf(db, input.means)).means,
  }),
  decide: decideSlip,
  after: async ({ db, input, state, written, actor }) => {
    const [first] = written
    const [slipId] = await db.insert('slip', [
      {
        number: first!.number,
        date: input.date,
        currency: state.means[0]!.currency,
        total: state.means.reduce((a, m) => a + m.amount, 0),
        cash_kept: input.cashKept,
        entry_id: first!.entryId,
        person_id: actor.id,
      },
    ])
    await db.insert(
      'slip_means',
      input.means.map(m => ({ slip_id: slipId!, means_id: m })),
    )
    return { id: slipId! }
  },
  about: input => `${input.means.length} payment means`,
})

export async function takeToBank(
  database: Handle,
  actor: Actor,
  body: z.input<typeof slipBody>,
  idempotency?: Idempotency,
): Promise<SlipDetail> {
  const done = await perform(database, actor, slipCommand, body, idempotency)
  return readSlip(database, done.id)
}

const slipVoidCommandRow = z.object({
  id: cell.whole,
  customerId: cell.whole.nullable(),
})

const slipVoidCommandSlipMeansRow = z.object({
  number: cell.text,
})

const slipVoidCommandBankMatchTargetRow = z.object({
  x: cell.sum,
})

/** Everything on a slip lies in the Tray again. */
export const slipVoidCommand = command({
  name: 'banking.slipVoid',
  ability: 'receipts.correct',
  input: z.object({ id, date: isoDate, reason: z.string().trim().max(200).default('') }),
  steady: true,
  locks: async (db, input) => {
    const means = await db.rows(
      slipVoidCommandRow,
      `SELECT m.id, i.customer_id AS customerId FROM slip_means sm
        JOIN receipt_means m ON m.id = sm.means_id LEFT JOIN item i ON i.id = m.item_id
        WHERE sm.slip_id = :id`,
      { id: input.id },
    )
    return {
      slips: [input.id],
      means: means.map(m => m.id),
      customers: means.flatMap(m => (m.customerId === null ? [] : [m.customerId])),
    }
  },
  load: async (db, input, { settings }: { settings: Settings; actor: Actor }): Promise<SlipVoidState> => {
    const slip = await slipData(db, input.id)
    const [reversed] = await db.rows(
      slipVoidCommandSlipMeansRow,
      `SELECT COALESCE(i.number, s.number) AS number FROM slip_means sm
        JOIN receipt_means m ON m.id = sm.means_id ${FROM_RECEIPTS} WHERE sm.slip_id = :id AND ${REVERSED}
        LIMIT 1`,
      { id: input.id },
    )
    const [settled] = await db.rows(
      slipVoidCommandBankMatchTargetRow,
      `SELECT 1 AS x FROM bank_match_target t JOIN bank_match b ON b.id = t.match_id WHERE t.kind = 'slip'
        AND t.ref_id = :id AND b.undone_entry_id IS NULL LIMIT 1`,
      { id: input.id },
    )
    return {
      ledger: await loadState(db, { customerIds: [] }, settings),
      slip: slip.number,
      slipDate: slip.date,
      voided: slip.voidEntryId !== null,
      settled: settled !== undefined,
      reversedReceipt: reversed?.number ?? null,
      lines: await entryLines(db, slip.entryId),
    }
  },
  decide: decideSlipVoid,
  after: async ({ db, input, written }) => {
    await db.update(
      'slip',
      { void_entry_id: written[0]!.entryId, void_reason: input.reason },
      { id: input.id },
    )
    await db.update('slip_means', { live: null }, { slip_id: input.id })
    return { id: input.id }
  },
  about: input => String(input.id),
})

export async function voidSlipById(
  database: Handle,
  actor: Actor,
  slipId: number,
  body: { date: string; reason: string },
  idempotency?: Idempotency,
): Promise<SlipDetail> {
  await perform(database, actor, slipVoidCommand, { id: slipId, ...body }, idempotency)
  return readSlip(database, slipId)
}
