import { reminders } from '~~/contract/reminders'
import { listRuns } from '~~/server/services/reminders/runs'

export default endpoint(reminders.runs, ({ database, query }) => listRuns(database, query))
