import { reminders } from '~~/contract/reminders'
import { whatWorked } from '~~/server/services/reminders/dryRun'

export default endpoint(reminders.worked, ({ database }) => whatWorked(database))
