import { z } from 'zod'
import { cell } from '../../db/rows'
import { now } from '../../db/where'
import type { Handle } from '../../db/handle'
import type { Job } from '../../../contract/documents'
import type { Fault } from '../../../contract/common'
import { can } from '../../../core/people'
import { int } from '../../db/connection'
import { faultOf, log } from '../../log'
import { importCustomers, importDocuments, type ImportOptions, type Progress } from '../documents/imports'
import { importOrders } from '../exposure/orders'
import { takeStatement, type TakeOptions } from '../banking/statements'
import { takeInbox } from '../banking/inbox'
import { runStatements, type StatementRun } from '../letters/statements'
import { dryRunAsk } from '../../../contract/reminders'
import { runDry } from '../reminders/dryRun'
import { confirmLargeCollection } from '../collections/confirm'
import { confirmLarge } from '../reminders/confirm'
import { workOut } from '../reminders/workOut'
import { findActor } from '../people/people'
import { documentOf, notFound, problemFor, ProblemError } from '../common/problems'
import type { Actor } from '../people/scope'

export type JobKind =
  | 'import-customers'
  | 'import-documents'
  | 'import-orders'
  | 'bank-statement'
  | 'bank-inbox'
  | 'statements'
  | 'reminders-propose'
  | 'reminders-confirm'
  | 'reminders-dry-run'
  | 'collections-confirm'
type Work = (
  database: Handle,
  actor: Actor,
  upload: Buffer,
  options: unknown,
  progress: Progress,
  jobId: number,
) => Promise<NonNullable<Job['result']>>
const WORK: Record<JobKind, Work> = {
  'import-customers': (database, actor, upload, options, progress) =>
    importCustomers(database, actor, upload.toString('utf8'), options as ImportOptions, progress),
  'import-documents': (database, actor, upload, options, progress) =>
    importDocuments(database, actor, upload.toString('utf8'), options as ImportOptions, progress),
  'import-orders': (database, actor, upload, options, progress) =>
    importOrders(database, actor, upload.toString('utf8'), options as ImportOptions, progress),
  'bank-statement': (database, actor, upload, options, progress) =>
    takeStatement(database, actor, upload, options as TakeOptions, progress),
  'bank-inbox': (database, actor, _upload, _options, progress) => takeInbox(database, actor, progress),
  statements: (database, actor, _upload, options, progress, jobId) =>
    runStatements(database, actor, options as StatementRun, jobId, progress),
  'reminders-propose': async (database, _actor, _upload, options, progress) => {
    const { notices } = await workOut(database, (options as { run: number }).run, { progress })
    return { notices }
  },
  'reminders-confirm': (database, actor, _upload, options, progress) =>
    confirmLarge(database, actor, options as { run: number; version: number }, progress),
  'collections-confirm': (database, actor, _upload, options, progress) =>
    confirmLargeCollection(database, actor, options as { run: number; version: number }, progress),
  'reminders-dry-run': (database, _actor, _upload, options, progress) =>
    runDry(database, dryRunAsk.parse(options), progress),
}

/**
 * What is true after a job stopped on its way: an import is one transaction, a statement is taken in whole
 * and then settled line by line.
 */
const STOPPED: Record<JobKind, string> = {
  'import-customers': 'nothing was imported',
  'import-documents': 'nothing was imported',
  'import-orders': 'nothing was imported',
  'bank-statement':
    'what was settled stays, the other lines of the file wait under Bank; taking the file again goes ' +
    'on from there',
  'bank-inbox': 'what was taken in stays, the other files wait in the inbox; taking them goes on from there',
  statements: 'what was sent stays sent, the others were not written to',
  'reminders-propose': 'nothing was proposed',
  'reminders-confirm': 'nothing was posted or sent',
  'reminders-dry-run': 'nothing was kept of it',
  'collections-confirm': 'nobody was told of a collection',
}

/** What is kept of a job that ended: its answer, or the problem that it is for who asked. */
interface Kept {
  answer?: Job['result']
  status?: number
  detail?: string
  errors?: Fault[]
}

const jobRow = z.object({
  id: cell.whole,
  kind: cell.word<JobKind>(),
  state: z.enum(['done', 'cancelled', 'queued', 'running', 'failed']),
  step: cell.text,
  done: cell.sum,
  total: cell.sum,
  result: cell.text.nullable(),
})
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

/**
 * A job, for who asked for it and for who manages those of others: its answer holds a sample of their file.
 */
export async function readJob(database: Handle, id: number, actor: Actor): Promise<Job> {
  const [row] = await database.rows(
    jobRow,
    `SELECT id, kind, state, step, done, total, result FROM job WHERE id = :id
      AND (person_id = :personId OR :all)`,
    { id, personId: actor.id, all: can(actor.role, 'jobs.manage') },
  )
  if (!row) throw notFound(`job ${id}`)
  const result = row.result ? (JSON.parse(row.result) as Kept) : {}
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
    status: result.status ?? null,
  }
}

export async function cancelJob(database: Handle, id: number, actor: Actor): Promise<Job> {
  await readJob(database, id, actor)
  await database.run(
    `UPDATE job SET cancel = 1, state = IF(state = 'queued', 'cancelled', state) WHERE id = :id
      AND state IN ('queued', 'running')`,
    { id },
  )
  return readJob(database, id, actor)
}

export const isEnded = (state: Job['state']) =>
  state === 'done' || state === 'failed' || state === 'cancelled'

/** Waits until a job ends, telling each change. */
export async function followJob(
  database: Handle,
  id: number,
  actor: Actor,
  tell: (job: Job) => Promise<void> | void,
  stopped: () => boolean,
): Promise<Job> {
  for (let last = ''; ;) {
    const job = await readJob(database, id, actor)
    const now = `${job.state} ${job.step} ${job.done}`
    if (now !== last) await tell(job)
    last = now
    if (isEnded(job.state) || stopped()) return job
    await new Promise(resolve => setTimeout(resolve, 120))
  }
}

class Cancelled extends Error {}

const runNextJobRow = z.object({
  id: cell.whole,
  kind: cell.word<JobKind>(),
  params: cell.text,
  upload: z.instanceof(Buffer),
  person_id: cell.whole,
})

/**
 * Takes the next job and runs it; answers false when there is none. A job whose worker died (no heartbeat for
 * 10 s) is taken again from the start: its transaction was rolled back, so nothing is there twice.
 */
export async function runNextJob(database: Handle): Promise<boolean> {
  const job = await database.transaction(async tx => {
    const [row] = await tx.rows(
      runNextJobRow,
      `
      SELECT id, kind, params, upload, person_id FROM job
      WHERE state = 'queued' OR (state = 'running' AND heartbeat < UTC_TIMESTAMP(3) - INTERVAL 10 SECOND)
        ORDER BY id LIMIT 1 FOR UPDATE SKIP LOCKED`,
    )
    if (row) await tx.update('job', { state: 'running', heartbeat: now() }, { id: row.id })
    return row
  })
  if (!job) return false
  // Told on a connection of its own: an import holds its transaction while it says how far it is.
  const aside = database.apart()
  const beat = setInterval(() => {
    void aside.update('job', { heartbeat: now() }, { id: job.id }).catch(reportJobTrouble)
  }, 2000)
  const progress: Progress = async (step, done, total) => {
    await aside.update('job', { step, done, total }, { id: job.id })
    const [row] = await aside.find('job', { id: job.id }, { columns: ['cancel'] })
    if (row?.cancel) throw new Cancelled()
  }
  const end = (state: Job['state'], result: object) =>
    database.update('job', { state, result: JSON.stringify(result), upload: null }, { id: job.id })
  try {
    const actor = await findActor(database, job.person_id)
    if (!actor) throw new ProblemError(403, 'Not allowed', 'who asked for this may not sign in any more')
    const answer = await WORK[job.kind](database, actor, job.upload, JSON.parse(job.params), progress, job.id)
    await end('done', { answer })
  } catch (error) {
    if (error instanceof Cancelled) await end('cancelled', { detail: `stopped: ${STOPPED[job.kind]}` })
    else if (problemFor(error)) {
      const { status, detail, errors } = documentOf(problemFor(error)!)
      await end('failed', { status, detail, errors })
    } else {
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
  log.error(faultOf(error), 'job')
}
