import { reminders } from '~~/contract/reminders'
import { discardRun } from '~~/server/services/reminders/runs'

export default endpoint(reminders.discard, ({ database, actor, params }) =>
  discardRun(database, actor, params.id),
)
