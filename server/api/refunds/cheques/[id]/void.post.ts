import { refunds } from '~~/contract/refunds'
import { voidCheque } from '~~/server/services/refunds/cheques'

export default endpoint(refunds.voidCheque, ({ database, actor, params, body }) =>
  voidCheque(database, actor, params.id, body.reason),
)
