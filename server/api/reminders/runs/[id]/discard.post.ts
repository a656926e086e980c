import { reminders } from '~~/contract/reminders'
import { discardRun } from '~~/server/services/reminders/runs'

export default endpoint(reminders.discard, ({ database, params }) => discardRun(database, params.id))
