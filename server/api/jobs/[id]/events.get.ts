import { imports } from '~~/contract/documents'
import { followJob, readJob } from '~~/server/services/jobs/jobs'

export default endpoint(imports.events, async ({ event, database, params }) => {
  await readJob(database, params.id)
  const stream = createEventStream(event)
  let closed = false
  stream.onClosed(() => {
    closed = true
  })
  void followJob(
    database,
    params.id,
    job => stream.push(JSON.stringify(job)),
    () => closed,
  )
    .catch(error => console.error('[events]', error))
    .finally(() => stream.close())
  return stream.send()
})
