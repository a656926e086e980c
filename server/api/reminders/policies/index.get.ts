import { reminders } from '~~/contract/reminders'
import { listPolicies } from '~~/server/services/reminders/policies'

export default endpoint(reminders.policies, ({ database }) => listPolicies(database))
