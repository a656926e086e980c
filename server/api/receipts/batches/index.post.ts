import { batches } from '~~/contract/receipts/batches'
import { openBatch } from '~~/server/services/receipts/batches'

export default endpoint(batches.open, ({ database, actor, body, idempotency }) =>
  openBatch(database, actor, body, idempotency),
)
