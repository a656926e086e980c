import { reminders } from '~~/contract/reminders'
import { queueJob } from '~~/server/services/jobs/jobs'
import { confirmRun } from '~~/server/services/reminders/confirm'

export default endpoint(reminders.confirm, ({ database, actor, params, body, idempotency }) =>
  confirmRun(database, actor, params.id, body, idempotency, (db, personId, ask) =>
    queueJob(db, personId, 'reminders-confirm', ask, Buffer.alloc(0)),
  ),
)
