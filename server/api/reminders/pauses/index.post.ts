import { reminders } from '~~/contract/reminders'
import { addPause } from '~~/server/services/reminders/pauses'

export default endpoint(reminders.pause, ({ database, actor, body }) => addPause(database, actor, body))
