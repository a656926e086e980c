import { getHeader, setHeader, setResponseStatus, type EventHandler } from 'h3'
import { imports } from '../../contract/imports'
import { cancelJob, followJob, queueJob, type JobKind } from '../services/jobs'
import { ProblemError } from '../services/problems'
import { endpoint } from './endpoint'

/** An import is a job; by default the answer waits for it, with `Prefer: respond-async` (RFC 7240) it comes at once. */
export function importRoute(kind: JobKind): EventHandler {
  const operation = kind === 'import-customers' ? imports.customers : imports.documents
  return endpoint(operation, async ({ event, database, query, body, actor }) => {
    const id = await queueJob(database, actor.id, kind, { dryRun: query.dryRun ?? false, skipExisting: query.skipExisting ?? false }, Buffer.from(body, 'utf8'))
    if (getHeader(event, 'prefer')?.includes('respond-async')) {
      setResponseStatus(event, 202)
      setHeader(event, 'location', `/api/jobs/${id}`)
      return { job: id }
    }
    let gone = false
    event.node.res.once('close', () => { gone = !event.node.res.writableEnded })
    const job = await followJob(database, id, () => {}, () => gone)
    if (gone) await cancelJob(database, id)
    if (job.state !== 'done') throw new ProblemError(job.errors.some(e => e.path === 'size') ? 413 : 422, 'Nothing was imported', job.detail || 'the import was stopped', job.errors)
    return job.result
  })
}
