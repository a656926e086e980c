import { reminders } from '~~/contract/reminders'
import { endPause } from '~~/server/services/reminders/pauses'

export default endpoint(reminders.endPause, ({ database, params }) => endPause(database, params.id))
