import { reminders } from '~~/contract/reminders'
import { confirmRun } from '~~/server/services/reminders/confirm'

export default endpoint(reminders.confirm, ({ database, actor, params, body, idempotency }) =>
  confirmRun(database, actor, params.id, body, idempotency),
)
