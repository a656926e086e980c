import { batches } from '~~/contract/batches'
import { removeFromBatch } from '~~/server/services/batches'

export default endpoint(batches.remove, ({ database, actor, params }) =>
  removeFromBatch(database, actor, params.id, params.receipt),
)
