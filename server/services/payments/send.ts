import { z } from 'zod'
import { cell } from '../../db/rows'
import type { PaymentFileRow } from '../../../contract/payments'
import type { Handle } from '../../db/handle'
import { readSettings } from '../../db/settings'
import { ProblemError } from '../common/problems'
import { freeDebits, markDebitsSent, requireUnmoved } from '../collections/files'
import type { Actor } from '../people/scope'
import { adviseFile } from '../refunds/advice'
import { deliverFiles, holdFile, markSending, readFile, setFileState } from './files'

/** Gives a file to the bank. It goes once; a second person who sends it at the same moment is told so. */
export async function sendFile(database: Handle, actor: Actor, id: number): Promise<PaymentFileRow> {
  const settings = await readSettings(database)
  await database.transaction(async tx => {
    const file = await holdFile(tx, id, ['made'])
    if (file.kind === 'debit') await requireUnmoved(tx, id)
    await markSending(tx, actor, id)
    if (file.kind === 'debit') await markDebitsSent(tx, id)
    else await adviseFile(tx, actor, settings, id)
  })
  await deliverFiles(database)
  return readFile(database, id)
}

/** What a file holds waits again: its refunds for another file, its collections too. */
export async function freePayments(
  tx: Handle,
  actor: { id: number },
  file: { id: number; kind: 'transfer' | 'debit' },
  today: string,
): Promise<void> {
  if (file.kind === 'debit') return freeDebits(tx, actor, file.id, today)
  await tx.run(
    `UPDATE refund f SET f.file_id = NULL WHERE f.file_id = :id
      AND NOT EXISTS (SELECT 1 FROM item v WHERE v.reverses_item_id = f.item_id)`,
    { id: file.id },
  )
}

const isShownRow = z.object({
  x: cell.sum,
})

/** Whether the bank has shown any payment of a file. */
async function isShown(tx: Handle, fileId: number): Promise<boolean> {
  const found = await tx.rows(
    isShownRow,
    `SELECT 1 AS x FROM refund f JOIN bank_match_target t ON t.kind = 'refund' AND t.ref_id = f.item_id
      AND t.live IS NOT NULL WHERE f.file_id = :fileId
      UNION ALL SELECT 1 FROM collection k WHERE k.file_id = :fileId AND k.state IN ('collected', 'returned') LIMIT 1`,
    { fileId },
  )
  return found.length > 0
}

/**
 * Takes a file back whole: one that was not sent, or that never reached the bank, by somebody's word. One
 * that the bank took or executed stays.
 */
export async function takeFileBack(
  database: Handle,
  actor: Actor,
  id: number,
  reason: string,
): Promise<PaymentFileRow> {
  const { today } = await readSettings(database)
  await database.transaction(async tx => {
    const file = await holdFile(tx, id, ['made', 'sent'])
    if (await isShown(tx, id))
      throw new ProblemError(
        409,
        'Executed',
        `the bank has executed payments of ${file.number}: it was not lost`,
        [{ path: 'id', message: 'executed', satisfy: 'work what came back payment by payment' }],
      )
    await freePayments(tx, actor, file, today)
    await setFileState(tx, actor.id, file, 'taken-back', reason)
  })
  return readFile(database, id)
}
