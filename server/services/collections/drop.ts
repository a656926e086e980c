import { plus } from '../../db/where'
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
    const [row] = await tx.find(
      'collection',
      { id },
      { columns: { number: 'number', state: 'state', fileId: 'file_id' }, lock: true },
    )
    if (row?.state !== 'announced' || row.fileId !== null)
      throw new ProblemError(
        409,
        'Not to drop',
        row?.fileId ? 'it is in a file: take the file back first' : 'it is not announced: reload the list',
        [{ path: 'id', message: 'not to drop', satisfy: 'reload it' }],
      )
    await dropOne(tx, actor, id, row.number!, reason)
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
      await tx.update('collection', { state: 'dropped', back_why: body.reason }, { run_id: runId })
      await tx.update('collection_run', { state: 'discarded', version: plus('version', 1) }, { id: runId })
      // What was to be presented again is to be worked again.
      await tx.update('collection', { back_done: '' }, { id: [0, ...run.againOf], back_done: 'again' })
    } else {
      const rows = await tx.find(
        'collection',
        { run_id: runId, state: 'announced', file_id: null },
        { columns: ['id', 'number'] },
      )
      if (!rows.length)
        throw new ProblemError(409, 'Sent', 'all of this collection is in files: take them back first')
      for (const { id, number } of rows) await dropOne(tx, actor, id, number!, body.reason)
      await tx.update('collection_run', { version: plus('version', 1) }, { id: runId })
    }
    await audit(tx, actor.id, 'collection', String(runId), run.state, `discarded: ${body.reason}`)
  })
  return readRun(database, runId)
}
