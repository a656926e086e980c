import { reminders } from '~~/contract/reminders'
import { readRun } from '~~/server/services/reminders/runs'

export default endpoint(reminders.run, ({ database, params }) => readRun(database, params.id))
