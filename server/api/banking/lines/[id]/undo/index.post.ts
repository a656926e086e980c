import { banking } from '~~/contract/banking'
import { undoLine } from '~~/server/services/banking/unmatch'

export default endpoint(banking.undo, ({ database, actor, params, body, idempotency }) =>
  undoLine(database, actor, params.id, body, idempotency),
)
