import { reminders } from '~~/contract/reminders'
import { listPolicies } from '~~/server/services/policies'

export default endpoint(reminders.policies, ({ database }) => listPolicies(database))
