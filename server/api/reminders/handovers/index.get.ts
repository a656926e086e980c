import { handovers } from '~~/contract/reminders/handover'
import { listHandovers } from '~~/server/services/reminders/handover'

export default endpoint(handovers.list, ({ database }) => listHandovers(database))
