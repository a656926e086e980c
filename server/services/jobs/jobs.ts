import type { Handle } from '../../db/handle'
import type { Job } from '../../../contract/documents'
import type { Fault } from '../../../contract/common'
import { int } from '../../db/connection'
import { importCustomers, importDocuments, type ImportOptions, type Progress } from '../documents/imports'
import { takeStatement, type TakeOptions } from '../banking/statements'
import { findActor } from '../people/people'
import { notFound, ProblemError } from '../common/problems'

export type JobKind = 'import-customers' | 'import-documents' | 'bank-statement'
type Work = (
  database: Handle,
  personId: number,
  upload: Buffer,
  options: unknown,
  progress: Progress,
) => Promise<NonNullable<Job['result']>>
const WORK: Record<JobKind, Work> = {
  'import-customers': (database, personId, upload, options, progress) =>
    importCustomers(database, personId, upload.toString('utf8'), options as ImportOptions, progress),
  'import-documents': (database, personId, upload, options, progress) =>
    importDocuments(database, personId, upload.toString('utf8'), options as ImportOptions, progress),
  'bank-statement': async (database, personId, upload, options, progress) =>
    takeStatement(database, (await findActor(database, personId))!, upload, options as TakeOptions, progress),
}

/**
 * What is true after a job stopped on its way: an import is one transaction, a statement is taken in whole
 * and then settled line by line.
 */
const STOPPED: Record<JobKind, string> = {
  'import-customers': 'nothing was imported',
  'import-documents': 'nothing was imported',
  'bank-statement':
    'what was settled stays, the other lines of the file wait under Bank; taking the file again goes ' +
    'on from there',
}

interface JobRow {
  id: number
  kind: JobKind
  state: Job['state']
  step: string
  done: unknown
  total: unknown
  result: string | null
}

/** Queues a job; `upload` is kept with it, so that it survives a crash. */
export async function queueJob(
  database: Handle,
  personId: number,
  kind: JobKind,
  options: object,
  upload: Buffer,
): Promise<number> {
  const [id] = await database.insert('job', [
    { kind, params: JSON.stringify(options), upload, person_id: personId },
  ])
  return id!
}

export async function readJob(database: Handle, id: number): Promise<Job> {
  const [row] = await database.select<JobRow>(
    'SELECT id, kind, state, step, done, total, result FROM job WHERE id = :id',
    { id },
  )
  if (!row) throw notFound(`job ${id}`)
  const result = row.result
    ? (JSON.parse(row.result) as { answer?: Job['result']; detail?: string; errors?: Fault[] })
    : {}
  return {
    id: row.id,
    kind: row.kind,
    state: row.state,
    step: row.step,
    done: int(row.done),
    total: int(row.total),
    result: result.answer ?? null,
    errors: result.errors ?? [],
    detail: result.detail ?? '',
  }
}

export async function cancelJob(database: Handle, id: number): Promise<Job> {
  await readJob(database, id)
  await database.run(
    `UPDATE job SET cancel = 1, state = IF(state = 'queued', 'cancelled', state) WHERE id = :id
      AND state IN ('queued', 'running')`,
    { id },
  )
  return readJob(database, id)
}

export const isEnded = (state: Job['state']) =>
  state === 'done' || state === 'failed' || state === 'cancelled'

/** Waits until a job ends, telling each change. */
export async function followJob(
  database: Handle,
  id: number,
  tell: (job: Job) => Promise<void> | void,
  stopped: () => boolean,
): Promise<Job> {
  for (let last = ''; ;) {
    const job = await readJob(database, id)
    const now = `${job.state} ${job.step} ${job.done}`
    if (now !== last) await tell(job)
    last = now
    if (isEnded(job.state) || stopped()) return job
    await new Promise(resolve => setTimeout(resolve, 120))
  }
}

class Cancelled extends Error {}

/**
 * Takes the next job and runs it; answers false when there is none. A job whose worker died (no heartbeat for
 * 10 s) is taken again from the start: its transaction was rolled back, so nothing is there twice.
 */
export async function runNextJob(database: Handle): Promise<boolean> {
  const job = await database.transaction(async tx => {
    const [row] = await tx.select<{
      id: number
      kind: JobKind
      params: string
      upload: Buffer
      person_id: number
    }>(`
      SELECT id, kind, params, upload, person_id FROM job
      WHERE state = 'queued' OR (state = 'running' AND heartbeat < UTC_TIMESTAMP(3) - INTERVAL 10 SECOND)
        ORDER BY id LIMIT 1 FOR UPDATE SKIP LOCKED`)
    if (row)
      await tx.run(`UPDATE job SET state = 'running', heartbeat = UTC_TIMESTAMP(3) WHERE id = :id`, {
        id: row.id,
      })
    return row
  })
  if (!job) return false
  // Told on a connection of its own: an import holds its transaction while it says how far it is.
  const aside = database.apart()
  const beat = setInterval(() => {
    void aside
      .run('UPDATE job SET heartbeat = UTC_TIMESTAMP(3) WHERE id = :id', { id: job.id })
      .catch(reportJobTrouble)
  }, 2000)
  const progress: Progress = async (step, done, total) => {
    await aside.run('UPDATE job SET step = :step, done = :done, total = :total WHERE id = :id', {
      id: job.id,
      step,
      done,
      total,
    })
    const [row] = await aside.select<{ cancel: number }>('SELECT cancel FROM job WHERE id = :id', {
      id: job.id,
    })
    if (row?.cancel) throw new Cancelled()
  }
  const end = (state: Job['state'], result: object) =>
    database.run('UPDATE job SET state = :state, result = :result, upload = NULL WHERE id = :id', {
      id: job.id,
      state,
      result: JSON.stringify(result),
    })
  try {
    const answer = await WORK[job.kind](database, job.person_id, job.upload, JSON.parse(job.params), progress)
    await end('done', { answer })
  } catch (error) {
    if (error instanceof Cancelled) await end('cancelled', { detail: `stopped: ${STOPPED[job.kind]}` })
    else if (error instanceof ProblemError)
      await end('failed', { detail: error.message, errors: error.errors })
    else if ((error as { original?: { code?: string } }).original?.code === 'ER_DUP_ENTRY')
      await end('failed', {
        detail: 'something of this file was taken by someone else meanwhile: try it again',
      })
    else {
      reportJobTrouble(error)
      await end('failed', {
        detail:
          `this failed for a reason of ours, ${STOPPED[job.kind]}. Try again, and tell us if it happens ` +
          'twice',
      })
    }
  } finally {
    clearInterval(beat)
  }
  return true
}

export function reportJobTrouble(error: unknown): void {
  console.error('[job]', error instanceof Error ? error.stack : error)
}
