import { batches } from '~~/contract/receipts/batches'
import { closeBatch } from '~~/server/services/receipts/batches'

export default endpoint(batches.close, ({ database, actor, params, body, idempotency }) =>
  closeBatch(database, actor, params.id, body.version, idempotency),
)
