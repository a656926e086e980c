import { batches } from '~~/contract/receipts/batches'
import { closeBatch } from '~~/server/services/receipts/closeBatch'

export default endpoint(batches.close, ({ database, actor, params, body, idempotency }) =>
  closeBatch(database, actor, params.id, body.version, idempotency),
)
