import { reminders } from '~~/contract/reminders'
import { changePolicy } from '~~/server/services/reminders/policies'

export default endpoint(reminders.changePolicy, ({ database, actor, params, body }) =>
  changePolicy(database, actor.id, params.code, body),
)
