import { reminders } from '~~/contract/reminders'
import { queueJob } from '~~/server/services/jobs/jobs'
import { requireDryRun } from '~~/server/services/reminders/dryRun'

export default endpoint(reminders.dryRun, async ({ database, actor, body }) => {
  await requireDryRun(database, body)
  return { job: await queueJob(database, actor.id, 'reminders-dry-run', body, Buffer.alloc(0)) }
})
