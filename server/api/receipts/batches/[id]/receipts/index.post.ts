import { batches } from '~~/contract/receipts/batches'
import { addToBatch } from '~~/server/services/receipts/batches'

export default endpoint(batches.add, ({ database, actor, params, body, idempotency }) =>
  addToBatch(database, actor, params.id, body, idempotency),
)
