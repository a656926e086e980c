import { imports } from '~~/contract/documents'
import { faultOf, log } from '~~/server/log'
import { followJob, readJob } from '~~/server/services/jobs/jobs'

export default endpoint(imports.events, async ({ event, database, actor, params }) => {
  await readJob(database, params.id, actor)
  const stream = createEventStream(event)
  let closed = false
  stream.onClosed(() => {
    closed = true
  })
  void followJob(
    database,
    params.id,
    actor,
    job => stream.push(JSON.stringify(job)),
    () => closed,
  )
    .catch(error => log.error(faultOf(error), 'events'))
    .finally(() => stream.close())
  return stream.send()
})
