import { handovers } from '~~/contract/reminders/handover'
import { endHandover } from '~~/server/services/reminders/handover'

export default endpoint(handovers.end, ({ database, actor, params, body }) =>
  endHandover(database, actor, params.id, body),
)
