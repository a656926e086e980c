import type { CollectionRow, CollectionRun } from '../../../contract/collections'
import type { Handle } from '../../db/handle'
import { audit } from '../../db/settings'
import { takeLocks } from '../../ledger/locks'
import { ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'
import { dropOne } from './files'
import { readCollection } from './lists'
import { readRun, runRow } from './runs'

/** Takes one collection out that was announced and is in no file. */
export async function dropCollection(
  database: Handle,
  actor: Actor,
  id: number,
  reason: string,
): Promise<CollectionRow> {
  await database.transaction(async tx => {
    const [row] = await tx.select<{ number: string; state: string; fileId: number | null }>(
      'SELECT number, state, file_id AS fileId FROM collection WHERE id = :id FOR UPDATE',
      { id },
    )
    if (row?.state !== 'announced' || row.fileId !== null)
      throw new ProblemError(
        409,
        'Not to drop',
        row?.fileId ? 'it is in a file: take the file back first' : 'it is not announced: reload the list',
        [{ path: 'id', message: 'not to drop', satisfy: 'reload it' }],
      )
    await dropOne(tx, actor, id, row.number, reason)
  })
  return readCollection(database, id)
}

/** Discards a proposal; of a collection that was announced, drops all that is in no file. */
export async function discardRun(
  database: Handle,
  actor: Actor,
  runId: number,
  body: { version: number; reason: string },
): Promise<CollectionRun> {
  await database.transaction(async tx => {
    await takeLocks(tx, { collectionRuns: [runId] })
    const run = await runRow(tx, runId)
    if (run.version !== body.version || run.state === 'discarded')
      throw new ProblemError(409, 'Changed meanwhile', 'somebody changed this collection: reload it')
    if (run.state === 'proposed') {
      await tx.run(`UPDATE collection SET state = 'dropped', back_why = :reason WHERE run_id = :runId`, {
        runId,
        reason: body.reason,
      })
      await tx.run(`UPDATE collection_run SET state = 'discarded', version = version + 1 WHERE id = :runId`, {
        runId,
      })
      // What was to be presented again is to be worked again.
      await tx.run(`UPDATE collection SET back_done = '' WHERE id IN (:ids) AND back_done = 'again'`, {
        ids: [0, ...run.againOf],
      })
    } else {
      const rows = await tx.select<{ id: number; number: string }>(
        `SELECT id, number FROM collection WHERE run_id = :runId AND state = 'announced' AND file_id IS NULL`,
        { runId },
      )
      if (!rows.length)
        throw new ProblemError(409, 'Sent', 'all of this collection is in files: take them back first')
      for (const { id, number } of rows) await dropOne(tx, actor, id, number, body.reason)
      await tx.run('UPDATE collection_run SET version = version + 1 WHERE id = :runId', { runId })
    }
    await audit(tx, actor.id, 'collection', String(runId), run.state, `discarded: ${body.reason}`)
  })
  return readRun(database, runId)
}
