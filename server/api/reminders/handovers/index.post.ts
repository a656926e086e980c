import { handovers } from '~~/contract/reminders/handover'
import { handOver } from '~~/server/services/reminders/handover'

export default endpoint(handovers.handOver, ({ database, actor, body }) => handOver(database, actor, body))
