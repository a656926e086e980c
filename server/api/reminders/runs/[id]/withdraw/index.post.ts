import { reminders } from '~~/contract/reminders'
import { withdrawRun } from '~~/server/services/reminders/withdraw'

export default endpoint(reminders.withdraw, ({ database, actor, params, body, idempotency }) =>
  withdrawRun(database, actor, params.id, body, idempotency),
)
