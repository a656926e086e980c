import { reminders } from '~~/contract/reminders'
import { listRuns } from '~~/server/services/reminders'

export default endpoint(reminders.runs, ({ database, query }) => listRuns(database, query))
