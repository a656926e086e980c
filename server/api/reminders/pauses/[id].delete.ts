import { reminders } from '~~/contract/reminders'
import { endPause } from '~~/server/services/reminders/pauses'

export default endpoint(reminders.endPause, ({ database, actor, params }) =>
  endPause(database, actor, params.id),
)
