import { refunds } from '~~/contract/refunds'
import { writeCheque } from '~~/server/services/refunds/cheques'

export default endpoint(refunds.writeCheque, ({ database, actor, params, body, idempotency }) =>
  writeCheque(database, actor, params.id, body, idempotency),
)
