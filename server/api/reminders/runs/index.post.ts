import { reminders } from '~~/contract/reminders'
import { proposeRun } from '~~/server/services/reminders/runs'

export default endpoint(reminders.propose, ({ database, actor, body }) => proposeRun(database, actor, body))
