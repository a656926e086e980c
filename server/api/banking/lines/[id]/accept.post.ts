import { banking } from '~~/contract/banking'
import { acceptLine } from '~~/server/services/banking/accept'

export default endpoint(banking.accept, ({ database, actor, params, body, idempotency }) =>
  acceptLine(database, actor, params.id, body, idempotency),
)
