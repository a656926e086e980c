import { batches } from '~~/contract/receipts/batches'
import { readBatch } from '~~/server/services/receipts/batches'

export default endpoint(batches.detail, ({ database, actor, params }) =>
  readBatch(database, actor, params.id),
)
