import { reminders } from '~~/contract/reminders'
import { queueJob } from '~~/server/services/jobs/jobs'
import { proposeRun } from '~~/server/services/reminders/runs'

export default endpoint(reminders.propose, ({ database, actor, body }) =>
  proposeRun(database, actor, body, (db, personId, run) =>
    queueJob(db, personId, 'reminders-propose', run, Buffer.alloc(0)),
  ),
)
