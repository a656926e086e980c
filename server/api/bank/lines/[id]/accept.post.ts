import { bank } from '~~/contract/bank'
import { acceptLine } from '~~/server/services/bank/work'

export default endpoint(bank.accept, ({ database, actor, params, body, idempotency }) =>
  acceptLine(database, actor, params.id, body, idempotency),
)
