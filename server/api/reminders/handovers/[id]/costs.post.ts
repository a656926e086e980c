import { handovers } from '~~/contract/reminders/handover'
import { addCost } from '~~/server/services/reminders/handover'

export default endpoint(handovers.cost, ({ database, actor, params, body, idempotency }) =>
  addCost(database, actor, params.id, body, idempotency),
)
