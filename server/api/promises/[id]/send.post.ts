import { promises } from '~~/contract/promises'
import { sendPlan } from '~~/server/services/letters/others'

export default endpoint(promises.send, ({ database, actor, params, scope }) =>
  sendPlan(database, actor, params.id, scope),
)
