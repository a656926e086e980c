import { batches } from '~~/contract/receipts/batches'
import { removeFromBatch } from '~~/server/services/receipts/batches'

export default endpoint(batches.remove, ({ database, actor, params }) =>
  removeFromBatch(database, actor, params.id, params.receipt),
)
