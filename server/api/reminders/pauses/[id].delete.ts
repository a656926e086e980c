import { reminders } from '~~/contract/reminders'
import { endPause } from '~~/server/services/reminders/runs'

export default endpoint(reminders.endPause, ({ database, params }) => endPause(database, params.id))
