import { cell } from '../../db/rows'
import { z } from 'zod'
import { id } from '../../../contract/common'
import type { RefundRow } from '../../../contract/refunds'
import { isLive, reasonLabel, type FileState } from '../../../core/payments'
import { reverse } from '../../../core/receipts'
import { decided, refuse, refused } from '../../../core/ledger'
import type { Handle } from '../../db/handle'
import type { Settings } from '../../db/settings'
import { command, LedgerRefused, perform, type By, type Idempotency } from '../../ledger/command'
import { loadLines, loadState } from '../../ledger/load'
import { notFound } from '../common/problems'
import type { Actor } from '../people/scope'
import { readRefund } from './refunds'

const rowCells = z.object({
  itemId: cell.whole,
  customerId: cell.whole,
  madeBy: cell.whole,
  number: cell.text,
  fileId: cell.whole.nullable(),
  fileNumber: cell.text.nullable(),
  fileState: cell.word<FileState>().nullable(),
  settled: cell.whole,
  /** Of the card terminal; empty while it was not asked. */
  slip: cell.text,
  cheque: cell.text.nullable(),
})
type Row = z.output<typeof rowCells>

async function rowOf(db: Handle, itemId: number): Promise<Row> {
  const [row] = await db.rows(
    rowCells,
    `SELECT f.item_id AS itemId, f.card_slip AS slip, i.customer_id AS customerId, i.person_id AS madeBy, i.number, f.file_id AS fileId,
      p.number AS fileNumber, p.state AS fileState,
      EXISTS (SELECT 1 FROM bank_match_target t WHERE t.kind = 'refund' AND t.ref_id = f.item_id
        AND t.live IS NOT NULL) AS settled,
      (SELECT q.number FROM refund_cheque q WHERE q.refund_item_id = f.item_id AND q.void_on IS NULL
        ORDER BY q.id DESC LIMIT 1) AS cheque
      FROM refund f JOIN item i ON i.id = f.item_id LEFT JOIN payment_file p ON p.id = f.file_id
      WHERE f.item_id = :itemId`,
    { itemId },
  )
  if (!row) throw notFound(`refund ${itemId}`)
  return row
}

/** Why a refund cannot be taken back by hand; null when it can. */
function stopOf(row: Row, byBank: boolean) {
  if (row.settled)
    return refuse(
      'refund.settled',
      'id',
      `the bank has paid ${row.number}`,
      'when the money comes back, match the bank line as a return of it',
    )
  if (!byBank && row.fileId !== null && isLive(row.fileState!))
    return refuse(
      'refund.in-file',
      'id',
      `${row.number} is in the file ${row.fileNumber}`,
      row.fileState === 'made'
        ? 'take the file back first'
        : 'the bank may still pay it: wait for its answer',
    )
  if (!byBank && row.slip !== '')
    return refuse(
      'refund.card-asked',
      'id',
      `the card terminal was asked for ${row.number}`,
      'give what waits to the terminal again: it tells what became of it',
    )
  if (row.cheque !== null)
    return refuse(
      'refund.cheque',
      'id',
      `cheque ${row.cheque} was written for ${row.number}`,
      'void the cheque first',
    )
  return null
}

/**
 * Takes a refund back that nobody was paid: its credit is open again. `byBank`: because the bank says it will
 * not pay, with its code.
 */
export const undoRefundCommand = command({
  name: 'refunds.undo',
  ability: 'refunds.post',
  input: z.object({
    id,
    reason: z.string().min(1).max(200),
    code: z.string().max(8).default(''),
    byBank: z.boolean().default(false),
  }),
  locks: async (db, input) => ({ customers: [(await rowOf(db, input.id)).customerId] }),
  load: async (db, input, { settings }: { settings: Settings; actor: By }) => {
    const row = await rowOf(db, input.id)
    return {
      row,
      lines: await loadLines(db, input.id),
      ledger: await loadState(
        db,
        { customerIds: [row.customerId], itemIds: [input.id], linksOf: [input.id] },
        settings,
      ),
    }
  },
  decide: ({ ledger, row, lines }, input) => {
    const stop = stopOf(row, input.byBank)
    if (stop) return refused([stop])
    const { id: itemId, reason } = input
    return decided(reverse(ledger, { itemId, date: ledger.today, reason, lines }))
  },
  after: async ({ db, input, state, actor }) => {
    await db.run(
      'UPDATE refund SET file_id = IF(:byBank, file_id, NULL), reason = :code, reason_text = :text WHERE item_id = :id',
      { id: input.id, byBank: input.byBank ? 1 : 0, code: input.code, text: input.reason },
    )
    if (input.byBank) await tellMaker(db, actor, state.row, state.ledger.today, input.code)
    return { id: input.id }
  },
  about: input => `refund ${input.id}`,
})

/** Who made a refund that the bank did not pay gets a task. */
async function tellMaker(
  db: Handle,
  actor: { id: number },
  row: Row,
  today: string,
  code: string,
): Promise<void> {
  const why = reasonLabel(code).toLowerCase()
  await db.insert('message', [
    {
      customer_id: row.customerId,
      about: 'account',
      about_id: null,
      to_id: row.madeBy,
      text: `Refund ${row.number} was not paid: ${why}. Its credit is open again.`,
      on_date: today,
      due: today,
      person_id: actor.id,
    },
  ])
}

export async function undoRefund(
  database: Handle,
  actor: Actor,
  itemId: number,
  reason: string,
  idempotency?: Idempotency,
): Promise<RefundRow> {
  await perform(database, actor, undoRefundCommand, { id: itemId, reason }, idempotency)
  return readRefund(database, itemId)
}

/**
 * The bank, or the card terminal, will not pay a refund: its credit is open again, and who made the refund
 * gets a task. A refund that was taken back before is left as it is.
 */
export async function refuseRefund(
  database: Handle,
  actor: Actor,
  itemId: number,
  why: { code: string; text: string; by?: string },
): Promise<boolean> {
  const [gone] = await database.find('item', { reverses_item_id: itemId }, { columns: ['id'] })
  if (gone) return false
  const told = `${reasonLabel(why.code)}${why.text ? `, ${why.text}` : ''}`
  const reason = `The ${why.by ?? 'bank'} did not pay: ${told}`.slice(0, 200)
  try {
    await perform(database, actor, undoRefundCommand, { id: itemId, reason, code: why.code, byBank: true })
    return true
  } catch (error) {
    // Somebody else told it at the same moment.
    if (error instanceof LedgerRefused && error.refusals.some(r => r.rule === 'reverse.once')) return false
    throw error
  }
}
