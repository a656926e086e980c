import { refunds } from '~~/contract/refunds'
import { undoRefund } from '~~/server/services/refunds/undo'

export default endpoint(refunds.undo, ({ database, actor, params, body, idempotency }) =>
  undoRefund(database, actor, params.id, body.reason, idempotency),
)
