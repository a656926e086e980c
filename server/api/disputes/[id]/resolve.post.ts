import { disputes } from '~~/contract/disputes'
import { resolveDispute } from '~~/server/services/disputes/resolve'

export default endpoint(disputes.resolve, ({ database, actor, params, body, idempotency }) =>
  resolveDispute(database, actor, params.id, body, idempotency),
)
